"""Scenes of mechanics books: each against its closed form, or against a general solver at 1e-11."""

from __future__ import annotations

from math import cos, radians, sin, sqrt

import numpy as np
import pytest
from benchmarks.scenes import G, ball, floor, scene, slope
from scipy.integrate import solve_ivp
from scipy.spatial.transform import Rotation

from yapa.case import Body, Box, Cylinder, Keyframe, Plane, Precise, Sphere
from yapa.engine import simulate

FINE = Precise(step=1e-3)


def turning_plane(rate, end):
    """A plane that turns about the upright at a constant rate."""
    times = np.linspace(0.0, end, int(abs(rate) * end) + 3)
    keys = tuple(Keyframe(time=float(t), position=(0, 0, 0),
                          orientation=(cos(rate * t / 2), 0, 0, sin(rate * t / 2))) for t in times)
    return Body(motion="kinematic", keyframes=keys, shapes=(Plane(kind="plane", surface="both"),))


@pytest.mark.parametrize("shell", [False, True])
@pytest.mark.parametrize(("rate", "place", "velocity"), [(2.0, (0.3, 0.0), (0.1, 0.2)), (-3.0, (0.1, 0.2), (0.0, -0.3)),
                                                         (5.0, (0.2, -0.1), (0.3, 0.1))])
def test_a_ball_on_a_turntable_goes_round_at_two_sevenths_of_its_rate(rate, place, velocity, shell):
    """dv/dt = k Ω × v with k = I / (I + m r²): 2/7 of a solid ball, 2/5 of a shell."""
    r, k = 0.03, 2 / 5 if shell else 2 / 7
    table = rate * np.array([-place[1], place[0]])  # the surface under it; ω r = the way the ball rolls against it
    slip = np.array(velocity) - table
    bodies = {"ball": ball(r, mass=0.1, hollow=shell, position=(*place, r), velocity=(*velocity, 0.0),
                           angular_velocity=(-slip[1] / r, slip[0] / r, 0.0)),
              "table": turning_plane(rate, 3.0)}
    motion = simulate(scene(bodies, duration=3.0, friction=3.0, profile=FINE))
    angle = k * rate * motion.times[:, None]
    v, across = np.array(velocity), np.array([-velocity[1], velocity[0]])
    told = np.array(place) + (np.sin(angle) * v - (1 - np.cos(angle)) * -across) / (k * rate)
    assert np.abs(motion.states[:, 0, :2] - told).max() < 2e-5


@pytest.mark.parametrize(("friction", "share"), [(0.0, 2 / 3), (2000.0, 10 / 17)])
@pytest.mark.parametrize("start", [0.1, 0.4])
def test_a_ball_leaves_a_dome_where_its_weight_no_longer_holds_it(friction, share, start):
    """cos θ = 2/3 cos θ₀ where it slides, 10/17 cos θ₀ where it rolls."""
    dome, r = 0.5, 0.05
    away = dome + r
    bodies = {"ball": ball(r, mass=0.2, position=(away * sin(start), 0, away * cos(start))),
              "dome": Body(motion="static", shapes=(Sphere(kind="sphere", radius=dome, surface="both"),))}
    motion = simulate(scene(bodies, duration=1.6, friction=friction, profile=Precise(step=1e-4)))
    left = motion.trajectory("ball").position(np.array([motion.contact_intervals_of("ball")[-1].end]))[0]
    assert np.linalg.norm(left) == pytest.approx(away, abs=1e-6)
    assert left[2] / away == pytest.approx(share * cos(start), abs=5e-4)


@pytest.mark.parametrize(("axis", "size"), [(1, (0.1, 0.2, 0.05)), (0, (0.2, 0.15, 0.1)), (2, (0.06, 0.3, 0.12))])
def test_a_free_box_flips_about_its_middle_axis_as_eulers_equations_say(axis, size):
    moments = np.array([(size[1] ** 2 + size[2] ** 2), (size[0] ** 2 + size[2] ** 2), (size[0] ** 2 + size[1] ** 2)]) / 12
    middle = int(np.argsort(moments)[1])
    spin = np.full(3, 0.2)
    spin[middle] = 12.0
    spin[axis] += 0.02

    def rate(_, y):
        w, q = y[:3], y[3:]
        x, u, v, z = q
        turn = 0.5 * np.array([-u * w[0] - v * w[1] - z * w[2], x * w[0] + v * w[2] - z * w[1],
                               x * w[1] - u * w[2] + z * w[0], x * w[2] + u * w[1] - v * w[0]])
        return np.concatenate([-np.cross(w, moments * w) / moments, turn])

    bodies = {"box": Body(shapes=(Box(kind="box", size=size, surface="both"),), mass=1.0, angular_velocity=tuple(spin.tolist()))}
    motion = simulate(scene(bodies, duration=4.0, gravity=0.0))
    told = solve_ivp(rate, (0, 4.0), [*spin, 1, 0, 0, 0], t_eval=motion.times, rtol=1e-11, atol=1e-13, method="DOP853").y.T
    own = Rotation.from_quat(motion.states[:, 0, 3:7], scalar_first=True).inv().apply(motion.states[:, 0, 10:13])
    assert own[:, middle].min() < -10  # it did flip
    assert np.abs(own - told[:, :3]).max() < 1e-3


@pytest.mark.parametrize(("velocity", "spin"), [
    ((1.0, 0.0), (0.0, -30.0, 0.0)), ((1.0, 0.3), (20.0, 0.0, 5.0)), ((0.5, -0.4), (-10.0, -25.0, 40.0)),
    ((0.0, 0.0), (30.0, 10.0, 0.0))])
def test_a_spinning_ball_hooks_along_a_parabola_until_it_rolls(velocity, spin):
    """Slip u = v - r ω × n keeps its direction on a level lane: a = -μ g û, for 2 |u| / (7 μ g)."""
    r, mu = 0.05, 0.15
    u = np.array([velocity[0] - r * spin[1], velocity[1] + r * spin[0]])
    until = 2 * np.linalg.norm(u) / (7 * mu * G)
    motion = simulate(scene({"ball": ball(r, mass=0.3, position=(0, 0, r), velocity=(*velocity, 0.0), angular_velocity=spin),
                             "f": floor()},
                            duration=1.5, friction=mu))
    t = np.minimum(motion.times, until)[:, None]
    a = -mu * G * u / np.linalg.norm(u)
    told = np.array(velocity) * motion.times[:, None] + a * t * (motion.times[:, None] - t / 2)
    assert np.abs(motion.states[:, 0, :2] - told).max() < 1e-7


@pytest.mark.parametrize("degrees", [4.0, 12.0])
@pytest.mark.parametrize("velocity", [(0.6, 0.5), (-0.8, 0.4)])
def test_a_ball_that_slides_on_a_slope_hooks_as_a_general_solver_says(degrees, velocity):
    r, mu, a = 0.04, 0.1, radians(degrees)
    along = np.array([cos(a), 0.0, sin(a)])
    side = np.array([0.0, 1.0, 0.0])
    start = velocity[0] * along + velocity[1] * side
    normal = np.array([-sin(a), 0.0, cos(a)])
    spin = (25.0, -10.0, 8.0)
    end = 0.15

    def rate(_, y):
        v, w = y[2:4], y[4:7]
        full = v[0] * along + v[1] * side - r * np.cross(w, normal)
        slip = np.array([full @ along, full @ side])
        pull = -mu * G * cos(a) * slip / np.linalg.norm(slip)
        force = pull[0] * along + pull[1] * side
        turn = np.cross(-r * normal, force) / (0.4 * r * r)
        return [v[0], v[1], pull[0] - G * sin(a), pull[1], *turn]

    told = solve_ivp(rate, (0, end), [0, 0, *velocity, *spin], rtol=1e-11, atol=1e-13)
    body = ball(r, mass=0.2, position=tuple((r * normal).tolist()), velocity=tuple(start.tolist()), angular_velocity=spin)
    motion = simulate(scene({"ball": body, "f": floor(slope(degrees))}, duration=end, friction=mu))
    moved = motion.states[-1, 0, :3] - r * normal
    assert np.abs(np.array([moved @ along, moved @ side]) - told.y[:2, -1]).max() < 2e-6


@pytest.mark.parametrize("seed", range(12))
def test_an_oblique_bounce_with_spin_about_all_axes_has_the_impulse_of_the_law(seed):
    """J_n = (1 + e) m v_n; along it 2/7 m |u| where it grips, else μ J_n (a shell: 2/5)."""
    rng = np.random.default_rng(seed)
    e, mu, shell = rng.uniform(0.2, 1.0), float(rng.choice([0.05, 0.3, 1.0])), bool(seed % 2)
    r, m, inertia = 0.04, 0.2, 2 / 3 if seed % 2 else 2 / 5
    v, w = np.array([*rng.uniform(-2, 2, 2), -rng.uniform(0.5, 3)]), rng.uniform(-60, 60, 3)
    motion = simulate(scene({"ball": ball(r, mass=m, hollow=shell, position=(0, 0, r + 0.01), velocity=tuple(v.tolist()),
                                          angular_velocity=tuple(w.tolist())), "f": floor()},
                            duration=0.05, gravity=0.0, restitution=e, friction=mu))
    n = np.array([0, 0, 1.0])
    u = v - r * np.cross(w, n)
    u[2] = 0.0
    jn = -(1 + e) * m * v[2]
    full = m * inertia / (1 + inertia) * np.linalg.norm(u)
    jt = -min(full, mu * jn) * u / np.linalg.norm(u)
    after = v + (jn * n + jt) / m
    turned = w + np.cross(-r * n, jt) / (inertia * m * r * r)
    assert len(motion.contacts) == 1
    assert np.allclose(motion.states[-1, 0, 7:10], after, atol=1e-9)
    assert np.allclose(motion.states[-1, 0, 10:13], turned, atol=1e-8)


@pytest.mark.parametrize("more", [-1e-3, 1e-3])
@pytest.mark.parametrize(("wide", "high"), [(0.1, 0.3), (0.12, 0.2), (0.06, 0.24)])
def test_a_block_on_a_slope_tips_where_its_middle_leaves_its_foot(wide, high, more):
    """It stands up to tan α = b / h, friction enough."""
    a = np.arctan(wide / high * (1 + more))
    block = Body(shapes=(Box(kind="box", size=(wide, 0.2, high), surface="both"),), mass=1.0, position=(0, 0, 1.0),
                 orientation=(cos(a / 2), 0.0, -sin(a / 2), 0.0))
    motion = simulate(scene({"block": block, "f": floor(slope(np.degrees(a)), placed_under="block")}, duration=3.0, friction=2.0))
    turned = 2 * np.abs(np.linalg.norm(motion.states[-1, 0, 4:7] - motion.states[0, 0, 4:7]))
    assert (turned > 0.3) == (more > 0)


@pytest.mark.parametrize(("shape", "shell", "k"), [
    (Sphere(kind="sphere", radius=0.05, surface="both"), False, 2 / 5),
    (Sphere(kind="sphere", radius=0.05, surface="both"), True, 2 / 3),
    (Cylinder(kind="cylinder", radius=0.05, length=0.1, surface="both", orientation=(sqrt(0.5), sqrt(0.5), 0, 0)), False, 1 / 2)])
@pytest.mark.parametrize("degrees", [5.0, 20.0])
def test_what_rolls_down_a_slope_is_as_fast_as_its_moment_lets_it(shape, shell, k, degrees):
    """a = g sin α / (1 + k)."""
    a = radians(degrees)
    body = Body(shapes=(shape,), hollow=shell, mass=0.5, position=(0, 0, 1.0))
    motion = simulate(scene({"body": body, "f": floor(slope(degrees), placed_under="body")}, duration=0.8, friction=1.0))
    way = np.linalg.norm(motion.states[-1, 0, :3] - motion.states[0, 0, :3])
    assert way == pytest.approx(0.5 * G * sin(a) / (1 + k) * 0.8**2, rel=1e-7)


@pytest.mark.parametrize("light", [0.01, 0.1, 0.5, 1.0])
def test_of_two_stacked_balls_that_are_dropped_the_upper_one_flies_off(light):
    """With e = 1: the lower turns round, then both meet: (3 M - m) / (M + m) of the speed."""
    heavy, high = 1.0, 0.5
    bodies = {"lower": ball(0.1, mass=heavy, position=(0, 0, 0.1 + high)),
              "upper": ball(0.04, mass=light, position=(0, 0, 0.24 + high + 1e-7)), "f": floor()}
    motion = simulate(scene(bodies, duration=0.35, restitution=1.0, restitution_threshold=1e-5))
    hit = next(c for c in motion.contacts if {c.body, c.partner} == {"upper", "lower"})
    speed = sqrt(2 * G * high)
    path = motion.trajectory("upper")
    k = int(np.argmin(np.abs(path.t - hit.time)))
    assert path.velocity_after[k, 2] == pytest.approx(speed * (3 * heavy - light) / (heavy + light), rel=1e-5)


@pytest.mark.parametrize(("mu", "speed"), [(0.2, 0.5), (0.05, 1.0), (0.6, 2.0)])
def test_a_crate_on_a_tray_that_sets_off_and_stops_slides_as_friction_lets_it(mu, speed):
    keys = (Keyframe(time=0.0, position=(0, 0, 0)), Keyframe(time=1.0, position=(speed, 0, 0)),
            Keyframe(time=3.0, position=(speed, 0, 0)))
    tray = Body(motion="kinematic", keyframes=keys, shapes=(Plane(kind="plane", surface="both"),))
    crate = Body(shapes=(Box(kind="box", size=(0.3, 0.3, 0.1), surface="both"),), mass=2.0, position=(0, 0, 0.05))
    motion = simulate(scene({"crate": crate, "tray": tray}, duration=2.5, friction=mu))
    t = motion.times
    reached = min(speed, mu * G)
    early = np.minimum(t, reached / (mu * G))
    x = mu * G * early * (np.minimum(t, 1.0) - early / 2)
    late = np.clip(t - 1.0, 0.0, reached / (mu * G))
    x = x + reached * late - 0.5 * mu * G * late**2
    assert np.abs(motion.states[:, 0, 0] - x).max() < 1e-6


@pytest.mark.parametrize(("gap", "count"), [(0.0, 3), (1e-3, 3), (0.0, 7), (5e-3, 7)])
def test_a_cradle_passes_on_as_many_balls_as_come(gap, count):
    places = [k * (0.06 + gap) for k in range(count)] + [-0.3, -0.36 - gap]
    bodies = {f"ball {k}": ball(0.03, mass=0.1, position=(x, 0, 0), velocity=(1.0 if x < 0 else 0.0, 0, 0))
              for k, x in enumerate(places)}
    motion = simulate(scene(bodies, duration=1.5, gravity=0.0, restitution=1.0))
    speeds = np.sort(motion.states[-1, :, 7])
    assert np.allclose(speeds[-2:], 1.0, atol=1e-12)
    assert np.allclose(speeds[:-2], 0.0, atol=1e-12)


def thrown(scale=1.0, shift=(0.0, 0.0), turn=0.0, boost=0.0):
    """A ball and a box thrown onto a floor, the whole scene moved, turned about the upright, scaled or seen from a moving place."""
    about = Rotation.from_rotvec([0, 0, turn])

    def put(place, velocity, spin):
        x = about.apply(np.array(place) * scale) + np.array([*shift, 0.0])
        v = about.apply(np.array(velocity) * sqrt(scale)) + np.array([boost, 0.0, 0.0])
        return {"position": tuple(x.tolist()), "velocity": tuple(v.tolist()),
                "angular_velocity": tuple(about.apply(np.array(spin) / sqrt(scale)).tolist())}

    turned = about.as_quat(scalar_first=True)
    belt = (boost, 0.0, 0.0)
    bodies = {
        "ball": ball(0.05 * scale, density=800.0, **put((0, 0, 0.4), (1.0, 0.3, 0.0), (3.0, 20.0, -5.0))),
        "can": Body(shapes=(Sphere(kind="sphere", radius=0.08 * scale, surface="both"),), density=500.0,
                    orientation=tuple(turned.tolist()), **put((0.9, 0.2, 0.08), (0.0, 0.0, 0.0), (0.0, 0.0, 0.0))),
        "f": Body(motion="static", shapes=(Plane(kind="plane", surface="both", surface_velocity=belt),))}
    end = 1.2 * sqrt(scale)
    case = scene(bodies, duration=end, rate=100.0 / sqrt(scale), restitution=0.6, friction=0.3,
                 restitution_threshold=1e-3 * sqrt(scale),
                 profile=Precise(step=sqrt(scale) / 60, restitution_threshold=1e-3 * sqrt(scale)))
    motion = simulate(case)
    places = motion.states[:, :2, :3] - np.array([*shift, 0.0]) - np.array([1.0, 0, 0]) * boost * motion.times[:, None, None]
    return about.inv().apply(places.reshape(-1, 3)).reshape(places.shape) / scale


@pytest.mark.parametrize(("change", "bound"), [
    ({"shift": (3.0, -2.0)}, 1e-9), ({"turn": 0.7}, 1e-9), ({"turn": 2.5}, 1e-9), ({"boost": 2.0}, 1e-6), ({"scale": 4.0}, 1e-9),
    ({"scale": 0.25}, 1e-9)])
def test_a_scene_that_is_moved_turned_scaled_or_seen_in_passing_is_the_same(change, bound):
    assert np.abs(thrown(**change) - thrown()).max() < bound


def test_a_rocking_block_loses_in_every_half_cycle_what_housner_says():
    """θ'' = -p² sin(α - θ), p² = 3 g / 4 R; at each change of edge the rate is multiplied by 1 - 3/2 sin² α."""
    wide, high = 0.1, 0.4
    a, size = np.arctan(wide / high), 0.5 * np.hypot(wide, high)
    p2, start = 0.75 * G / size, 0.5 * np.arctan(wide / high)
    # it stands on its right lower edge, turned by θ about y
    corner = np.array([-wide / 2 * cos(start) + high / 2 * sin(start), wide / 2 * sin(start) + high / 2 * cos(start)])
    block = Body(shapes=(Box(kind="box", size=(wide, 0.2, high), surface="both"),), mass=2.0,
                 position=(corner[0], 0, corner[1]), orientation=(cos(start / 2), 0, sin(start / 2), 0))
    motion = simulate(scene({"block": block, "f": floor()}, duration=2.0, rate=1000.0, friction=2.0, profile=Precise(step=1e-3)))
    angle = 2 * np.arctan2(motion.states[:, 0, 5], motion.states[:, 0, 3])
    changes = motion.times[1:][np.diff(np.sign(angle)) != 0][:5]
    ratio, told, t, theta, rate = 1 - 1.5 * sin(a) ** 2, [], 0.0, start, 0.0

    def down(_, y):
        return [y[1], -p2 * sin(a - y[0])]

    def touches(_, y):
        return y[0]

    touches.terminal, touches.direction = True, -1
    for _ in range(5):
        way = solve_ivp(down, (0, 3.0), [theta, rate], events=touches, rtol=1e-11, atol=1e-13)
        t += way.t_events[0][0]
        told.append(t)
        theta, rate = 1e-300, -ratio * way.y_events[0][0][1]
    assert np.abs(changes - told).max() < 5e-3


@pytest.mark.parametrize("friction", [0.0, 0.1, 0.3, 0.6, 1.0])
def test_a_ball_leaves_a_dome_when_a_general_solver_says_and_not_at_the_next_substep(friction):
    """Sliding and rolling with friction that is finite; substeps of 1/240 s, the end of the contact to a hundredth of one."""
    dome, r, start = 0.5, 0.05, 0.4
    away = dome + r

    def rate(_, y):
        theta, turn, spin = y
        press, slip, grip = G * cos(theta) - away * turn**2, away * turn - r * spin, -2 / 7 * G * sin(theta)
        rub = grip if abs(slip) < 1e-9 and abs(grip) <= friction * press else -friction * press * (-1 if slip < -1e-9 else 1)
        return [turn, (G * sin(theta) + rub) / away, -rub / (0.4 * r)]

    def leaves(_, y):
        return G * cos(y[0]) - away * y[1] ** 2

    leaves.terminal, leaves.direction = True, -1
    told = solve_ivp(rate, (0, 3), [start, 0, 0], events=leaves, rtol=1e-10, atol=1e-12, max_step=1e-3).t_events[0][0]
    bodies = {"ball": ball(r, mass=0.2, position=(away * sin(start), 0, away * cos(start))),
              "dome": Body(motion="static", shapes=(Sphere(kind="sphere", radius=dome, surface="both"),))}
    motion = simulate(scene(bodies, duration=1.2, friction=friction))
    assert motion.contact_intervals_of("ball")[-1].end == pytest.approx(told, abs=4e-5)
