"""Bounces, slides, rolls and tipping against closed forms."""

from math import atan, cos, degrees, radians, sin, tan

import numpy as np
import pytest
from benchmarks.scenes import G, ball, crate_on_slope, floor, scene, slope

from yapa.case import Body, Box, Sphere
from yapa.engine import simulate

R = 0.05


def bounce(friction, spin=0.0, vx=2.0, e=0.6, **more):
    case = scene({"b": ball(R, position=(0.0, 0.0, 0.5 + R), velocity=(vx, 0.0, 0.0), angular_velocity=(0.0, spin, 0.0)),
                  "f": floor()},
                 duration=0.5, restitution=e, friction=friction, **more)
    return simulate(case)


def test_a_gripping_bounce_leaves_like_a_sticking_impact():
    hit = bounce(friction=0.9).contacts[0]
    assert hit.slip_before == pytest.approx(2.0, abs=1e-12)
    assert hit.slip_after == pytest.approx(0.0, abs=1e-12)
    assert hit.friction_impulse == pytest.approx(2 / 7 * 1.0 * 2.0, rel=1e-12)


def test_a_sliding_bounce_has_friction_at_its_bound():
    hit = bounce(friction=0.05, spin=-100.0).contacts[0]
    assert hit.friction_impulse == pytest.approx(0.05 * hit.normal_impulse, rel=1e-12)
    assert hit.rebound == pytest.approx(0.6 * hit.approach, rel=1e-12)
    assert hit.slip_after == pytest.approx(hit.slip_before - 3.5 * hit.friction_impulse, rel=1e-12)


def test_rolling_resistance_acts_in_an_impact_with_the_same_bound():
    c = 0.03
    motion = bounce(friction=0.0, spin=50.0, vx=0.0, rolling_resistance=c)
    hit = motion.contacts[0]
    after = motion.trajectory("b").angular_velocity(np.array([hit.time + 1e-6]))[0, 1]
    assert 50.0 - after == pytest.approx(c * hit.normal_impulse * R / (0.4 * R * R), rel=1e-9)


@pytest.mark.parametrize("angle", [10.0, 23.0])
def test_a_crate_slides_back_down_with_the_textbook_accelerations(angle):
    mu, v0 = 0.1, 2.0
    motion = simulate(crate_on_slope(angle, v0, 2.0, friction=mu, restitution=0.3))
    a = radians(angle)
    up, down = G * (sin(a) + mu * cos(a)), G * (sin(a) - mu * cos(a))
    turn = v0 / up
    t = motion.times
    along = np.where(t < turn, v0 * t - up * t * t / 2, v0 * turn / 2 - down * (t - turn) ** 2 / 2)
    got = (motion.states[:, 0, :3] - motion.states[0, 0, :3]) @ [cos(a), 0, sin(a)]
    assert np.abs(got - along).max() < 1e-9
    assert np.abs((motion.states[:, 0, :3] - motion.states[0, 0, :3]) @ slope(angle)).max() < 1e-10


def test_a_crate_does_not_creep_when_friction_holds():
    motion = simulate(crate_on_slope(25.0, 0.0, 20.0, friction=0.5))
    assert tan(radians(25.0)) < 0.5
    assert np.abs(motion.states[:, 0, :3] - motion.states[0, 0, :3]).max() < 1e-9


def test_a_crate_given_a_push_stops_and_stays_when_friction_holds():
    mu, a, v0 = 0.7, radians(20.0), 1.5
    motion = simulate(crate_on_slope(20.0, v0, 3.0, friction=mu))
    stop = v0**2 / (2 * G * (sin(a) + mu * cos(a)))
    got = (motion.states[-1, 0, :3] - motion.states[0, 0, :3]) @ [cos(a), 0, sin(a)]
    assert got == pytest.approx(stop, abs=1e-9)


def test_static_friction_holds_what_dynamic_friction_would_let_go():
    held = simulate(crate_on_slope(20.0, 0.0, 1.0, friction=0.5, dynamic_friction=0.1))
    assert np.abs(held.states[-1, 0, :3] - held.states[0, 0, :3]).max() < 1e-9
    moving = simulate(crate_on_slope(20.0, -0.1, 1.0, friction=0.5, dynamic_friction=0.1))
    a = radians(20.0)
    want = -0.1 - G * (sin(a) - 0.1 * cos(a)) * 0.5
    assert moving.states[-1, 0, :3] @ [cos(a), 0, sin(a)] - moving.states[0, 0, :3] @ [cos(a), 0, sin(a)] == (
        pytest.approx(want, abs=1e-9))


@pytest.mark.parametrize(("mu", "rolls"), [(0.5, True), (0.05, False)])
def test_a_sphere_rolls_or_slides_down_a_slope(mu, rolls):
    angle = 20.0
    a = radians(angle)
    n = np.array(slope(angle))
    case = scene({"b": ball(R, position=tuple(R * n)), "f": floor(slope(angle))}, friction=mu)
    motion = simulate(case)
    want = 5 / 7 * G * sin(a) if rolls else G * (sin(a) - mu * cos(a))
    assert rolls == (mu >= 2 / 7 * tan(a))
    got = (motion.states[:, 0, :3] - R * n) @ [-cos(a), 0, -sin(a)]
    assert np.abs(got - want * motion.times**2 / 2).max() < 1e-9


@pytest.mark.parametrize("c", [0.0, 0.02])
def test_slide_to_roll_on_the_level(c):
    mu, v0 = 0.2, 3.0
    case = scene({"b": ball(R, position=(0, 0, R), velocity=(v0, 0, 0)), "f": floor()}, duration=2.0, friction=mu,
                 rolling_resistance=c)
    motion = simulate(case)
    change = 2 * v0 / ((7 * mu - 5 * c) * G)
    assert [p.mode for p in motion.contact_intervals] == ["slides", "grips"]
    assert motion.contact_intervals[0].end == pytest.approx(change, abs=1e-10)
    v1 = v0 - mu * G * change
    t = motion.times
    want = np.where(t < change, v0 * t - mu * G * t * t / 2,
                    v0 * change - mu * G * change**2 / 2 + v1 * (t - change) - 5 / 7 * c * G * (t - change) ** 2 / 2)
    assert np.abs(motion.states[:, 0, 0] - want).max() < 1e-7
    if c == 0.0:
        assert v1 == pytest.approx(5 / 7 * v0)


def test_rolling_resistance_brings_to_rest_and_holds():
    c, v0 = 0.05, 0.8
    case = scene({"b": ball(R, position=(0, 0, R), velocity=(v0, 0, 0), angular_velocity=(0, v0 / R, 0)), "f": floor()},
                 duration=5.0, friction=0.6, rolling_resistance=c)
    motion = simulate(case)
    assert motion.states[-1, 0, 0] == pytest.approx(v0**2 / (2 * 5 / 7 * c * G), abs=1e-9)
    assert np.abs(motion.states[-1, 0, 7:13]).max() < 1e-15
    assert motion.states[:, 0, 7].min() > -1e-12


def test_backspin_draws_a_sphere_back():
    case = scene({"b": ball(R, position=(0, 0, R), velocity=(1.0, 0, 0), angular_velocity=(0, -80.0, 0)), "f": floor()},
                 duration=4.0, friction=0.3)
    motion = simulate(case)
    assert motion.states[-1, 0, 7] == pytest.approx((5 * 1.0 - 2 * 80.0 * R) / 7, abs=1e-10)


@pytest.mark.parametrize("ratio", [1e-6, 0.1, 1.0, 30.0, 1e6])
def test_two_spheres_head_on_keep_momentum_and_restitution(ratio):
    case = scene({"a": ball(R, mass=ratio, velocity=(2.0, 0, 0)), "b": ball(R, mass=1.0, position=(0.5, 0, 0))},
                 duration=1.0, gravity=0.0, restitution=0.7, friction=0.3)
    motion = simulate(case)
    va, vb = motion.states[-1, :, 7]
    assert vb == pytest.approx((1 + 0.7) * ratio / (1 + ratio) * 2.0, rel=1e-12)
    assert vb - va == pytest.approx(0.7 * 2.0, rel=1e-12)
    assert motion.contacts[0].time == pytest.approx(0.2, abs=1e-14)


@pytest.mark.parametrize(("ratio", "count"), [(1, 3), (100, 31), (10000, 314)])
def test_a_light_sphere_between_wall_and_heavy_sphere_meets_as_often_as_pi_says(ratio, count):
    case = scene(
        {"light": ball(R, mass=1.0, position=(1.0, 0, 0)),
         "heavy": ball(R, mass=float(ratio), position=(2.0, 0, 0), velocity=(-1.0, 0, 0)),
         "wall": floor((1.0, 0, 0))},
        duration=8.0, gravity=0.0, restitution=1.0, restitution_threshold=1e-5)
    assert len(simulate(case).contacts) == count


def test_a_tall_block_topples_before_it_slides_just_beyond_its_angle():
    width, height = 0.1, 0.3
    limit = degrees(atan(width / height))

    def tilt(angle):
        motion = simulate(crate_on_slope(angle, 0.0, 1.2, size=(width, 0.1, height), friction=1.0, restitution=0.0))
        turned = motion.trajectory("crate").rotation(np.array([1.2]))[0]
        return np.linalg.norm(turned)

    assert tilt(limit - 0.01) < 1e-9
    assert tilt(limit + 0.01) > 0.01


def test_a_box_pivoting_on_an_edge_follows_the_pendulum():
    from scipy.integrate import solve_ivp

    w, h, start = 0.2, 0.4, radians(5.0)
    radius, rest = np.hypot(w, h) / 2, np.arctan2(w, h)
    lean = rest + start  # of the centre's arm from the vertical, beyond the balance point
    inertia = (w * w + h * h) / 12 + radius**2
    t_end = 0.4
    exact = solve_ivp(lambda _t, y: [y[1], G * radius / inertia * sin(y[0] - rest)], (0, t_end), [lean, 0.0],
                      method="DOP853", rtol=1e-12, atol=1e-12).y[0, -1]
    angle = lean  # rotation of the box about +y, standing on its lower right edge
    corner = np.array([w / 2, 0, -h / 2])
    c, s = cos(angle), sin(angle)
    turned = np.array([c * corner[0] + s * corner[2], 0, -s * corner[0] + c * corner[2]])
    body = Body(shapes=(Box(kind="box", size=(w, 0.2, h), surface="both"),), position=tuple(-turned),
                orientation=(cos(angle / 2), 0.0, sin(angle / 2), 0.0))
    motion = simulate(scene({"b": body, "f": floor()}, duration=t_end, friction=5.0))
    got = angle + motion.states[-1, 0, 14]
    assert got == pytest.approx(exact, abs=2e-5)


def test_a_sphere_meets_face_edge_and_corner_of_a_static_box():
    crate = Body(motion="static", shapes=(Box(kind="box", size=(1.0, 1.0, 1.0), surface="both"),))
    for direction in ([1, 0, 0], [1, 0, 1], [1, 1, 1]):
        d = np.array(direction) / np.linalg.norm(direction)
        near = 0.5 * np.array(direction, dtype=float)
        start = near + d * (R + 1.0)
        case = scene({"b": ball(R, position=tuple(start), velocity=tuple(-2.0 * d)), "c": crate}, duration=1.0,
                     gravity=0.0, restitution=0.5)
        hit = simulate(case).contacts[0]
        assert hit.time == pytest.approx(0.5, abs=1e-12)
        assert np.abs(hit.normal - d).max() < 1e-12
        assert np.abs(hit.point - near).max() < 1e-12


def test_a_fast_small_sphere_does_not_pass_a_thin_static_box():
    sheet = Body(motion="static", shapes=(Box(kind="box", size=(0.002, 1.0, 1.0), surface="both"),))
    for speed in (5.0, 50.0, 400.0):
        case = scene({"b": ball(0.005, position=(-0.5, 0.01, 0.0), velocity=(speed, 0, 0)), "s": sheet}, duration=0.3,
                     gravity=0.0, restitution=0.5)
        motion = simulate(case)
        assert motion.states[-1, 0, 0] < -0.005
        assert motion.contacts[0].time == pytest.approx((0.5 - 0.001 - 0.005) / speed, rel=1e-9)


def test_a_marble_rolls_off_a_static_sphere_and_leaves_where_theory_says():
    big, small = 0.5, 0.02
    tilt = 0.05
    dome = Body(motion="static", shapes=(Sphere(kind="sphere", radius=big, surface="both"),))
    start = (big + small) * np.array([sin(tilt), 0, cos(tilt)])
    case = scene({"b": ball(small, position=tuple(start)), "d": dome}, duration=2.0, friction=0.0)
    motion = simulate(case)
    away = np.linalg.norm(motion.trajectory("b").position(np.array([motion.contact_intervals[0].end]))[0])
    assert away == pytest.approx(big + small, abs=1e-6)
    leave = motion.trajectory("b").position(np.array([motion.contact_intervals[0].end]))[0]
    assert leave[2] / (big + small) == pytest.approx(2 / 3 * cos(tilt), abs=6e-3)  # one substep of 1/240 s


def test_a_box_dropped_flat_bounces_flat_and_makes_no_energy():
    body = Body(shapes=(Box(kind="box", size=(0.2, 0.2, 0.1), surface="both"),), position=(0, 0, 0.55))
    motion = simulate(scene({"b": body, "f": floor()}, duration=1.2, restitution=0.5, friction=0.4))
    top, _ = motion.trajectory("b").maximum_along(np.array([0, 0, 1.0]), motion.contacts[0].time, motion.contacts[1].time)
    assert top - 0.05 == pytest.approx(0.25 * 0.5, abs=1e-9)
    assert np.abs(motion.states[:, 0, 10:13]).max() < 1e-9


def test_a_tumbling_box_comes_to_rest_without_gaining_energy():
    size = (0.2, 0.15, 0.1)
    body = Body(shapes=(Box(kind="box", size=size, surface="both"),), mass=1.3, position=(0, 0, 0.6),
                orientation=(0.9, 0.3, 0.2, 0.1), velocity=(1.0, 0.3, 0), angular_velocity=(3.0, -7.0, 5.0))
    motion = simulate(scene({"b": body, "f": floor()}, duration=4.0, restitution=0.4, friction=0.5))
    assert motion.status == "complete"
    s = motion.states[:, 0]
    inertia = 1.3 / 12 * np.array([size[1] ** 2 + size[2] ** 2, size[0] ** 2 + size[2] ** 2, size[0] ** 2 + size[1] ** 2])
    conj = s[:, 3:7] * [1, -1, -1, -1]
    w, u, t = conj[:, :1], conj[:, 1:], None
    t = 2 * np.cross(u, s[:, 10:13])
    local = s[:, 10:13] + w * t + np.cross(u, t)
    energy = 0.5 * 1.3 * (s[:, 7:10] ** 2).sum(1) + 0.5 * (inertia * local**2).sum(1) + 1.3 * G * s[:, 2]
    assert np.diff(energy).max() < 1e-6
    assert np.abs(s[-1, 7:13]).max() < 1e-6
    assert s[:, 2].min() > 0.05 - 1e-6


@pytest.mark.parametrize("drag", [0.1, 1.0])
def test_a_sphere_that_rolls_against_the_air_grips_to_the_end(drag):
    light = ball(0.3, mass=0.2, position=(0, 0, 0.4), angular_velocity=(5.0, 23.0, 2.0), drag_coefficient=drag)
    motion = simulate(scene({"b": light, "f": floor()}, friction=1.0, restitution=0.0))
    assert [phase.mode for phase in motion.contact_intervals] == ["slides", "grips"]
    assert motion.soft_steps == 0
    assert motion.states[:, 0, 2].min() > 0.3 - 1e-9


def test_groups_that_the_case_sets_apart_pass_through_each_other():
    bodies = {"a": ball(0.05, position=(-0.3, 0, 0), velocity=(1.0, 0, 0), group="left"),
              "b": ball(0.05, position=(0.3, 0, 0), velocity=(-1.0, 0, 0), group="right")}
    together = scene(bodies, gravity=0.0, restitution=1.0)
    assert simulate(together).states[-1, 0, 0] < -0.3
    apart = together.model_copy(update={"collision_exclusions": (("left", "right"),)})
    assert simulate(apart).states[-1, 0, 0] == pytest.approx(1.7)
    assert simulate(apart.model_copy(update={"collision_exclusions": (("left", "left"),)})).states[-1, 0, 0] < -0.3


def test_a_body_at_rest_is_left_alone_until_something_comes():
    crate = Body(shapes=(Box(kind="box", size=(0.2, 0.2, 0.2), surface="both"),), position=(0, 0, 0.1))
    still = {"crate": crate, "far": ball(0.05, position=(9.0, 0, 0.05)), "f": floor()}
    case = scene(still, duration=2.0, friction=0.5)
    motion = simulate(case)
    assert motion.steps < 60  # of the 960 that two islands take awake
    assert np.abs(motion.states[:, 0, :3] - [0, 0, 0.1]).max() < 1e-12
    hit = scene({**still, "far": ball(0.05, position=(9.0, 0, 0.05), velocity=(-6.0, 0, 0), mass=5.0)}, duration=3.0, friction=0.5)
    assert simulate(hit).states[-1, 0, 0] < -0.05
