"""What touches: work that reaches it, round shapes on polytopes, static friction, paths that begin later, great numbers."""

from __future__ import annotations

from math import pi

import numpy as np
import pytest
from benchmarks.scenes import G, ball, floor, scene, surface
from scipy.integrate import solve_ivp
from scipy.optimize import linprog
from scipy.spatial.transform import Rotation

from yapa.case import Body, Box, Capsule, Case, Cylinder, Fields, Hull, Keyframe, Precise, Stepped
from yapa.case.curves import Curve
from yapa.case.profiles import Sleep
from yapa.case.scene import Air
from yapa.engine import simulate
from yapa.engine.kernels import layout as L
from yapa.engine.runner import Program
from yapa.errors import InputError

LYING = (0.5**0.5, 0.5**0.5, 0.0, 0.0)


def blown(bodies, wind=10.0, duration=1.0, **law):
    return Case(surfaces=surface(**law), bodies=bodies, duration=duration, fields=Fields(gravity=G, air=Air(wind=(wind, 0.0, 0.0))))


def drifted(area, mass, duration=1.0, wind=10.0, held=0.0):
    k = 0.5 * Air().density * area / mass
    return solve_ivp(lambda t, y: [y[1], k * abs(wind - y[1]) * (wind - y[1]) - held], (0, duration), [0, 0],
                     rtol=1e-12, atol=1e-14).y[0, -1]


def box(size=(0.1, 0.1, 0.1), **body):
    return Body(shapes=(Box(kind="box", size=size, surface="both"),), **body)


@pytest.mark.parametrize(("wind", "friction"), [(10.0, 0.0), (40.0, 0.1)])
def test_wind_moves_a_crate_that_lies(wind, friction):
    crate = box(mass=1.0, drag_coefficient=1.0, position=(0, 0, 0.05))
    motion = simulate(blown({"crate": crate, "ice": floor()}, wind, friction=friction))
    assert motion.states[-1, 0, 0] == pytest.approx(drifted(0.015, 1.0, wind=wind, held=friction * G), abs=1e-10)
    assert motion.regime_switches == 0


def test_what_the_wind_moves_has_its_velocity_between_the_ends_of_substeps_too():
    times, k = np.linspace(0, 0.1, 37), 0.5 * Air().density * 0.015
    crate = box(mass=1.0, drag_coefficient=1.0, position=(0, 0, 0.05))
    motion = simulate(blown({"crate": crate, "ice": floor()}, duration=0.1), times=times)
    truth = solve_ivp(lambda t, y: [k * (10 - y[0]) ** 2], (0, 0.1), [0], t_eval=times, rtol=1e-12, atol=1e-14).y[0]
    assert motion.states[:, 0, 7] == pytest.approx(truth, abs=1e-10)


def boards():
    """Twenty, upon each other."""
    return {f"b{k:02d}": box((0.2, 0.1, 0.02), mass=1.0, drag_coefficient=1.0, position=(0, 0, 0.01 + 0.02 * k)) for k in range(20)}


def test_wind_moves_a_crowd_of_boards_alike():
    motion = simulate(blown({**boards(), "ice": floor()}))
    truth = drifted((0.2 * 0.1 + 0.2 * 0.02 + 0.1 * 0.02) / 2, 1.0)
    assert motion.states[-1, :20, 0].mean() == pytest.approx(truth, rel=2e-3)
    assert np.ptp(motion.states[-1, :20, 0]) < 0.01 * truth


def test_the_work_of_wind_is_told_apart_from_what_a_crowd_did():
    (told,) = [remark for remark in simulate(blown({**boards(), "ice": floor()})).remarks if remark.kind == "handed over"]
    assert "of work by wind, belts or driven bodies" in told.symptom


def test_a_driven_body_takes_what_is_on_it_along_in_a_crowd_and_gives_no_more_energy_than_its_work():
    keys = tuple(Keyframe(time=t, position=(t, 0.0, -0.05)) for t in (0.0, 10.0))
    lorry = Body(motion="kinematic", shapes=(Box(kind="box", size=(4.0, 4.0, 0.1), surface="both"),), keyframes=keys)
    stack = {f"b{k:02d}": box((0.4, 0.3, 0.02), mass=1.0, position=(0, 0, 0.01 + 0.02 * k)) for k in range(8)}
    case = scene({**stack, "lorry": lorry}, friction=0.5)
    states = simulate(case).states[:, :8]
    assert states[-1, :, 7] == pytest.approx(np.ones(8), abs=1e-3)
    energy = 0.5 * (states[:, :, 7:10] ** 2).sum(axis=(1, 2))
    assert energy.max() < 4.0 * 1.01


@pytest.mark.parametrize("support", ["box", "hull"])
@pytest.mark.parametrize("kind", ["can", "capsule"])
@pytest.mark.parametrize("speed", [0.3, 1.2, 3.0])
def test_what_is_round_slides_and_rolls_on_a_polytope_as_on_a_plane(kind, speed, support):
    shape = (Cylinder(kind="cylinder", radius=0.05, length=0.1, surface="both") if kind == "can"
             else Capsule(kind="capsule", radius=0.05, length=0.1, surface="both"))
    body = Body(shapes=(shape,), mass=1.0, position=(0, 0, 0.05), orientation=LYING, velocity=(speed, 0, 0))
    points = tuple((x, y, z) for x in (-20.0, 20.0) for y in (-0.5, 0.5) for z in (-0.5, 0.5))
    flat = Box(kind="box", size=(40.0, 1, 1), surface="both")
    under = Body(motion="static", position=(2, 0, -0.5), shapes=(
        flat if support == "box" else Hull(kind="hull", points=points, surface="both"),))
    for resistance in (0.0, 0.02):
        on_plane, here = (simulate(scene({"b": body, "f": f}, duration=1.0, friction=0.3, rolling_resistance=resistance))
                          for f in (floor(), under))
        assert np.abs(here.states[:, 0] - on_plane.states[:, 0]).max() < 1e-9
        assert (here.regime_switches, len(here.contacts)) == (0, 0)


def test_a_can_rolls_over_the_edge_of_a_table_and_leaves_it():
    """ODE: it turns about the edge, rolling, with all its mass: (I + m R²) θ'' = m g R sin θ, until N = m g cos θ - m v²/R is 0."""
    r, v = 0.05, 0.2
    can = Body(shapes=(Cylinder(kind="cylinder", radius=r, length=0.1, surface="both"),), mass=1.0, position=(-0.1, 0, r),
               orientation=LYING, velocity=(v, 0, 0), angular_velocity=(0, v / r, 0))
    table = Body(motion="static", shapes=(Box(kind="box", size=(2.0, 1.0, 1.0), surface="both"),), position=(-1.0, 0, -0.5))
    motion = simulate(scene({"can": can, "table": table}, duration=0.8, friction=1e5))

    def leaves(t, y):
        return G * np.cos(y[0]) - r * y[1] ** 2

    leaves.terminal = True
    turn = solve_ivp(lambda t, y: [y[1], G * np.sin(y[0]) / (1.5 * r)], (0, 1), [0.0, v / r], events=leaves, rtol=1e-12, atol=1e-14)
    off, (angle, rate) = turn.t[-1], turn.y[:, -1]
    t = 0.8 - 0.5 - off
    assert t > 0
    place = np.array([r * np.sin(angle), r * np.cos(angle)]) + t * r * rate * np.array([np.cos(angle), -np.sin(angle)])
    place[1] -= G * t * t / 2
    assert motion.states[-1, 0, [0, 2]] == pytest.approx(place, abs=3e-4)
    assert motion.regime_switches == 0


def meet_at(cylinder, q, way, points):
    """How far along a way a cylinder must be from a hull to touch it, by linear programming: up to there a prism of many sides
    meets the hull."""
    r, half = cylinder
    angle = 2 * pi * np.arange(720) / 720
    R = Rotation.from_quat([*q[1:], q[0]]).as_matrix()
    ring = np.concatenate([np.column_stack([r * np.cos(angle), r * np.sin(angle), np.full(720, z)]) for z in (-half, half)]) @ R.T
    # most d with d way + sum a_k ring_k = sum b_j points_j
    equal = np.zeros((5, 1 + len(ring) + len(points)))
    equal[:3, 0], equal[:3, 1 : 1 + len(ring)], equal[:3, 1 + len(ring) :] = way, ring.T, -points.T
    equal[3, 1 : 1 + len(ring)], equal[4, 1 + len(ring) :] = 1.0, 1.0
    cost = np.zeros(equal.shape[1])
    cost[0] = -1.0
    return linprog(cost, A_eq=equal, b_eq=[0, 0, 0, 1, 1], bounds=[(None, None)] + [(0, None)] * (equal.shape[1] - 1)).x[0]


@pytest.mark.parametrize("seed", range(24))
def test_the_gap_of_a_cylinder_and_a_hull_is_open_where_they_are_apart_and_closes_where_they_meet(seed):
    rng = np.random.default_rng(seed)
    points = rng.normal(size=(8, 3)) * 0.1
    q = rng.normal(size=4)
    q /= np.linalg.norm(q)
    way = rng.normal(size=3)
    way /= np.linalg.norm(way)

    def gap(distance):
        can = Body(shapes=(Cylinder(kind="cylinder", radius=0.08, length=0.15, surface="both"),), mass=1.0,
                   position=tuple(distance * way), orientation=tuple(q))
        hull = Body(motion="static", shapes=(Hull(kind="hull", points=tuple(map(tuple, points.tolist())), surface="both"),))
        program = Program(scene({"can": can, "hull": hull}))
        return program.start_gaps()[0][2]

    low, high = 0.0, 2.0
    for _ in range(50):
        middle = 0.5 * (low + high)
        low, high = (low, middle) if gap(middle) > 0 else (middle, high)
    assert high == pytest.approx(meet_at((0.08, 0.075), q, way, points), abs=3e-6)


@pytest.mark.parametrize(("share", "holds"), [(0.6, True), (0.8, True), (0.95, True), (0.999, True), (1.005, False), (1.05, False)])
@pytest.mark.parametrize("size", [(0.3, 0.2, 0.02), (0.1, 0.1, 0.1)])
@pytest.mark.parametrize("dynamic", [0.1, 0.4])
def test_static_friction_holds_to_its_limit_and_lets_go_beyond_it_at_once(share, holds, size, dynamic):
    a = np.arctan(0.5 * share)
    along, up = np.array([np.cos(a), 0, np.sin(a)]), np.array([-np.sin(a), 0, np.cos(a)])
    board = box(size, mass=1.0, position=tuple(size[2] / 2 * up), orientation=(np.cos(a / 2), 0, -np.sin(a / 2), 0))
    motion = simulate(scene({"board": board, "chute": floor(tuple(up))}, duration=1.0, friction=0.5, dynamic_friction=dynamic))
    way = -float((motion.states[-1, 0, :3] - motion.states[0, 0, :3]) @ along)
    assert way == pytest.approx(0.0 if holds else 0.5 * G * (np.sin(a) - dynamic * np.cos(a)), abs=1e-9)


@pytest.mark.parametrize("profile", [Precise(), Stepped(step=1 / 240)], ids=["precise", "stepped"])
def test_a_driven_body_stands_until_its_first_key(profile):
    keys = (Keyframe(time=1.0, position=(0, 0, -0.5)), Keyframe(time=2.0, position=(3.0, 0, -0.5)))
    platform = Body(motion="kinematic", shapes=(Box(kind="box", size=(20.0, 2, 1), surface="both"),), keyframes=keys)
    motion = simulate(scene({"b": ball(position=(0, 0, 0.05)), "p": platform}, duration=1.5, friction=0.5, profile=profile))
    before = motion.times <= 1.0
    assert np.abs(motion.states[before, 0, 0]).max() < 1e-9
    assert motion.states[-1, 0, 7] > 0.5


def test_places_and_velocities_of_a_driven_body_are_one_function_of_time():
    rng = np.random.default_rng(5)
    times = np.cumsum(rng.uniform(0.05, 0.4, 12))
    keys = tuple(Keyframe(time=t, position=tuple(rng.normal(size=3)), orientation=tuple(rng.normal(size=4)))
                 for t in times.tolist())
    paddle = Body(motion="kinematic", shapes=(Box(kind="box", size=(0.1, 0.1, 0.1), surface="both"),), keyframes=keys)
    case = scene({"b": ball(position=(50, 0, 1)), "p": paddle}, duration=float(times[-1] + 0.5))
    at = np.sort(rng.uniform(0.01, case.duration - 0.01, 10_000))
    d = 1e-6
    clear = np.abs(at[:, None] - times).min(axis=1) > 2 * d
    here, later, now = (simulate(case, times=at[clear] + shift).states[:, 1] for shift in (-d, d, 0.0))
    assert np.abs((later[:, :3] - here[:, :3]) / (2 * d) - now[:, 7:10]).max() < 1e-7 * (1 + np.abs(now[:, 7:10]).max())
    turns = [Rotation.from_quat(states[:, [4, 5, 6, 3]]) for states in (here, later)]
    turned = (turns[1] * turns[0].inv()).as_rotvec() / (2 * d)
    assert np.abs(turned - now[:, 10:13]).max() < 1e-6 * (1 + np.abs(now[:, 10:13]).max())
    assert not now[at[clear] < times[0], 7:13].any()


def test_what_goes_out_of_all_bounds_ends_by_name():
    roof = box((200.0, 200.0, 0.1), motion="static", position=(0, 0, 2.05))
    boxes = {f"b{k}": box(position=(0.2 * k, 0.01 * k, 1), orientation=(1, 0.1 * k, 0.2, 0.05)) for k in range(6)}
    motion = simulate(scene({**boxes, "f": floor(), "roof": roof}, restitution=1000.0, friction=0.3))
    assert "speed (above 1e9 m/s)" in motion.status
    assert len(motion.times) > 1


def test_a_ton_that_slides_off_a_gram_stays_above_the_floor():
    heavy = box(mass=1000.0, position=(0, 0, 0.15), velocity=(1.0, 0, 0))
    motion = simulate(scene({"heavy": heavy, "light": box(mass=0.001, position=(0, 0, 0.05)), "f": floor()}, friction=0.3))
    assert motion.states[-1, 0, 2] > 0.0499


def test_a_body_of_a_thousand_hulls_is_carried():
    points = ((0.0, 0, 0), (0.01, 0, 0), (0, 0.01, 0), (0, 0, 0.01), (0.01, 0.01, 0.01))
    places = ((0.02 * (k % 10), 0.02 * (k // 10 % 10), 0.02 * (k // 100)) for k in range(1000))
    shapes = tuple(Hull(kind="hull", points=points, position=place, surface="both") for place in places)
    motion = simulate(scene({"b": Body(shapes=shapes, position=(0, 0, 0.01)), "f": floor()}, friction=0.3, duration=1.0))
    assert motion.status == "complete"
    assert abs(motion.states[-1, 0, 9]) < 1e-3


@pytest.mark.parametrize("make", [
    lambda: Curve(name="c", body="b", quantity="height", t=tuple(range(9)), y=(1e308,) * 9),
    lambda: Curve(name="c", body="b", quantity="height", t=tuple(range(9)), y=(1.0,) * 9, sigma=1e-300),
    lambda: Sleep(delay=1e308), lambda: ball(motion="kinematic", keyframes=(Keyframe(time=1e308, position=(0, 0, 0)),))],
    ids=["curve", "sigma", "delay", "key"])
def test_a_number_beyond_all_use_is_refused_in_words(make):
    with pytest.raises(InputError, match="expected"):
        make()


def test_a_can_in_a_crowd_has_its_rolling_resistance_in_full():
    can = Body(shapes=(Cylinder(kind="cylinder", radius=0.05, length=0.1, surface="both"),), mass=1.0, position=(0, 0, 0.05),
               orientation=LYING, velocity=(1.0, 0, 0), angular_velocity=(0, 20.0, 0))
    case = scene({"can": can, "deck": box((20.0, 2, 1), motion="static", position=(0, 0, -0.5))}, friction=0.5,
                 rolling_resistance=0.02, duration=1.0)
    for soft in (0.0, 1.0):
        program = Program(case)
        program.cfg[L.config.ALL_SOFT] = soft
        raw = program.run(None, np.array([0.0, 1.0]), 1.0)
        slowed = 1.0 - raw.states[-1, 0, 7]
        assert slowed == pytest.approx(0.02 * G / 1.5, rel=1e-9 if not soft else 0.01)


def test_a_sphere_spun_on_a_turning_drum_keeps_its_place():
    """What is round turns under its contact."""
    drum = Body(motion="kinematic", shapes=(Cylinder(kind="cylinder", radius=0.5, length=1.0, surface="both"),),
                keyframes=(Keyframe(time=0.0, position=(0, 0, -0.5), orientation=LYING),
                           Keyframe(time=1.0, position=(0, 0, -0.5), orientation=LYING)))
    top = ball(mass=1.0, position=(0, 0, 0.05), angular_velocity=(0, 0, 9.0))
    motion = simulate(scene({"b": top, "d": drum}, duration=1.0, friction=0.5))
    assert np.abs(motion.states[-1, 0, :3] - (0, 0, 0.05)).max() < 1e-9
