"""Locked axes, driven and pushed bodies, running surfaces, sides of planes: what they do exactly."""

from __future__ import annotations

from math import cos, pi, sin

import numpy as np
import pytest
from benchmarks.scenes import G, ball, floor, scene

from yapa.case import Body, Box, Cylinder, Keyframe, Plane, Sphere
from yapa.engine import simulate
from yapa.errors import InputError
from yapa.formats.case_json import parse_case


def crate(**body):
    return Body(shapes=(Box(kind="box", size=(0.2, 0.3, 0.4), surface="both"),), **body)


def test_locked_axes_do_not_move_at_all():
    body = crate(locked_axes=("y", "rotation_x", "rotation_z"), velocity=(1.0, 5.0, 0.0), angular_velocity=(3.0, 2.0, 1.0),
                 orientation=(0.9, 0.1, 0.2, 0.3))
    motion = simulate(scene({"c": body.model_copy(update={"position": (0, 0, 1)}), "f": floor()}, duration=2.0, restitution=0.4,
                            friction=0.5))
    s = motion.states[:, 0]
    assert (s[:, 1] == 0.0).all()
    assert (s[:, [10, 12]] == 0.0).all()
    assert len(motion.contacts) > 0


def test_a_damped_wheel_on_a_locked_axle_slows_exactly_and_stays_on_it():
    wheel = Body(shapes=(Cylinder(kind="cylinder", radius=0.1, length=0.1, orientation=(cos(pi / 4), sin(pi / 4), 0, 0)),),
                 mass=3.0,
                 locked_axes=("x", "y", "z", "rotation_x", "rotation_z"), angular_velocity=(0.0, 7.0, 0.0), angular_damping=0.5)
    motion = simulate(scene({"w": wheel}, duration=2.0))
    assert motion.states[-1, 0, 11] == pytest.approx(7.0 * np.exp(-1.0), rel=1e-9)
    assert np.abs(motion.states[:, 0, :3]).max() == 0.0


def test_a_balanced_body_on_an_axle_keeps_turning_evenly_under_gravity():
    d, r, angle = 0.5, 0.1, 0.1
    weights = tuple(Sphere(kind="sphere", radius=r, position=(0.0, 0.0, z)) for z in (-d, d))
    body = Body(shapes=weights, mass=1.0, locked_axes=("x", "y", "z", "rotation_x", "rotation_z"),
                orientation=(cos(angle / 2), 0, sin(angle / 2), 0), angular_velocity=(0, 1.0, 0))
    motion = simulate(scene({"p": body}, duration=1.0))
    assert motion.states[-1, 0, 11] == pytest.approx(1.0, abs=1e-9)
    turned = 2 * np.arctan2(motion.states[-1, 0, 5], motion.states[-1, 0, 3])
    assert turned == pytest.approx(angle + 1.0, abs=1e-8)


def test_a_kinematic_body_is_where_its_keys_say():
    turn = (cos(pi / 4), 0.0, 0.0, sin(pi / 4))
    body = Body(motion="kinematic", shapes=(Box(kind="box", size=(0.1, 0.1, 0.1)),),
                keyframes=(Keyframe(time=0.0, position=(0, 0, 0)), Keyframe(time=1.0, position=(1, 0, 0)),
                      Keyframe(time=2.0, position=(1, 0, 2), orientation=turn)))
    motion = simulate(scene({"k": body, "b": ball(position=(9, 9, 9))}, duration=3.0))
    at = {t: motion.states[np.searchsorted(motion.times, t - 1e-9), 0] for t in (0.5, 1.5, 2.5)}
    assert at[0.5][:3] == pytest.approx([0.5, 0, 0], abs=1e-12)
    assert at[1.5][:3] == pytest.approx([1, 0, 1], abs=1e-12)
    assert at[1.5][12] == pytest.approx(pi / 2, abs=1e-12)
    assert at[2.5][:7] == pytest.approx([1, 0, 2, *turn], abs=1e-9)
    assert np.abs(at[2.5][7:13]).max() == 0.0


def test_a_driven_wall_gives_a_ball_its_own_speed_and_the_rebound():
    wall = Body(motion="kinematic", shapes=(Box(kind="box", size=(0.2, 1.0, 1.0), surface="both"),),
                keyframes=(Keyframe(time=0.0, position=(-1, 0, 0)), Keyframe(time=2.0, position=(3, 0, 0))))
    motion = simulate(scene({"b": ball(0.05, position=(0, 0, 0)), "w": wall}, duration=1.0, gravity=0.0, restitution=0.5))
    hit = motion.contacts[0]
    assert hit.time == pytest.approx((1.0 - 0.1 - 0.05) / 2.0, abs=1e-12)
    assert motion.states[-1, 0, 7] == pytest.approx(2.0 * 1.5, abs=1e-9)


def test_a_rising_floor_carries_what_lies_on_it():
    lift = Body(motion="kinematic", shapes=(Plane(kind="plane", surface="both"),),
                keyframes=(Keyframe(time=0.0, position=(0, 0, 0)), Keyframe(time=1.0, position=(0, 0, 0.5)),
                           Keyframe(time=2.0, position=(0, 0, 0.5))))
    motion = simulate(scene({"b": ball(0.05, position=(0, 0, 0.05)), "l": lift}, duration=2.0))
    k = np.searchsorted(motion.times, 0.9)
    assert motion.states[k, 0, 2] == pytest.approx(0.05 + 0.5 * motion.times[k], abs=1e-8)


def sweeper(limit, mass=1.0):
    return Body(motion="kinematic", max_force=limit, mass=mass,
                shapes=(Box(kind="box", size=(0.1, 0.5, 0.1), surface="both"),),
                keyframes=(Keyframe(time=0.0, position=(-0.2, 0, 0.06)), Keyframe(time=4.0, position=(1.8, 0, 0.06))))


@pytest.mark.parametrize(("limit", "moves"), [(3.0, False), (30.0, True)])
def test_a_sweeper_moves_what_its_force_can_and_lags_otherwise(limit, moves):
    fruit = Body(shapes=(Box(kind="box", size=(0.1, 0.1, 0.1), surface="both"),), mass=2.0, position=(0, 0, 0.05))
    motion = simulate(scene({"fruit": fruit, "bar": sweeper(limit), "f": floor()}, duration=2.0, friction=0.5))
    travelled = motion.states[-1, 0, 0]
    if moves:  # 2 kg · g · 0.5 = 9.8 N is less than the limit
        assert travelled == pytest.approx(motion.states[-1, 1, 0] + 0.1, abs=2e-3)
        assert motion.states[-1, 1, 0] == pytest.approx(-0.2 + 0.5 * 2.0, abs=0.05)
    else:
        # both go on together after the hit until friction has stopped them, and stay
        together = 0.5 / 3.0
        assert travelled == pytest.approx(together**2 / (2 * (0.5 * 2.0 * G - limit) / 3.0), abs=1e-5)
        assert np.abs(motion.states[-1, :2, 7:13]).max() < 1e-9


def test_a_pushed_body_alone_follows_its_path():
    motion = simulate(scene({"bar": sweeper(50.0), "b": ball(position=(5, 5, 5))}, duration=2.0))
    assert motion.states[-1, 0, 0] == pytest.approx(0.8, abs=0.03)
    assert np.abs(motion.states[:, 0, 2] - 0.06).max() < 1e-9  # no gravity on what is driven


def test_a_conveyor_brings_a_crate_to_its_speed_by_friction():
    belt = Body(motion="static", shapes=(Plane(kind="plane", surface_velocity=(1.2, 0.0, 0.0), surface="both"),))
    box = Body(shapes=(Box(kind="box", size=(0.3, 0.3, 0.2), surface="both"),), position=(0, 0, 0.1), mass=2.0)
    motion = simulate(scene({"c": box, "belt": belt}, duration=2.0, friction=0.3))
    until = 1.2 / (0.3 * G)
    assert motion.states[-1, 0, 7] == pytest.approx(1.2, abs=1e-9)
    assert motion.states[-1, 0, 0] == pytest.approx(1.2 * 2.0 - 0.5 * 1.2 * until, abs=1e-7)


def test_a_sphere_put_on_a_conveyor_ends_with_two_sevenths_of_its_speed():
    belt = Body(motion="static", shapes=(Plane(kind="plane", surface_velocity=(1.4, 0.0, 0.0), surface="both"),))
    motion = simulate(scene({"b": ball(0.05, position=(0, 0, 0.05)), "belt": belt}, duration=3.0, friction=0.3))
    assert motion.states[-1, 0, 7] == pytest.approx(1.4 * 2 / 7, abs=1e-9)


@pytest.mark.parametrize(("sides", "passes"), [("half_space", None), ("one_sided", True), ("two_sided", False)])
def test_which_side_of_a_plane_acts(sides, passes):
    """A ball thrown up from below a sheet."""
    sheet = Body(motion="static", shapes=(Plane(kind="plane", side=sides, surface="both"),), position=(0, 0, 1.0))
    motion = simulate(scene({"b": ball(0.05, velocity=(0, 0, 6.0)), "s": sheet}, duration=0.4, restitution=0.5))
    highest = motion.states[:, 0, 2].max()
    if passes is None:
        assert motion.initial_overlap == pytest.approx(1.05)  # below is solid
    elif passes:
        assert highest > 1.2
    else:
        assert highest == pytest.approx(0.95, abs=0.02)
        assert motion.contacts[0].normal[2] == -1.0


def test_a_one_sided_sheet_holds_what_falls_on_it():
    sheet = Body(motion="static", shapes=(Plane(kind="plane", side="one_sided", surface="both"),))
    motion = simulate(scene({"b": ball(0.05, position=(0, 0, 0.5)), "s": sheet}, duration=2.0))
    assert motion.states[-1, 0, 2] == pytest.approx(0.05, abs=1e-9)


def test_spinning_resistance_stops_a_spin_on_the_spot():
    csp, r, w = 0.05, 0.05, 20.0
    case = scene({"b": ball(r, position=(0, 0, r), angular_velocity=(0, 0, w)), "f": floor()}, duration=2.0, friction=0.5,
                 spinning_resistance=csp)
    motion = simulate(case)
    slows = csp * G * r / (0.4 * r * r)
    k = np.searchsorted(motion.times, 0.25)
    assert motion.states[k, 0, 12] == pytest.approx(w - slows * motion.times[k], abs=1e-6)
    assert abs(motion.states[-1, 0, 12]) < 1e-9


def test_restitution_may_fall_with_speed():
    case = scene({"b": ball(0.05, position=(0, 0, 1.05)), "f": floor()}, duration=1.0, restitution=0.8)
    soft = case.surfaces["both"].model_copy(update={"restitution_falloff": 0.25, "reference_speed": 1.0})
    hit = simulate(case.model_copy(update={"surfaces": {"both": soft}})).contacts[0]
    assert hit.rebound / hit.approach == pytest.approx(0.8 * hit.approach**-0.25, rel=1e-9)


def test_a_light_lever_passes_on_the_momentum_of_what_falls_on_it():
    """Equal arms, no rebound, a plank without mass to speak of: launch speed / impact speed = M / (M + m)."""
    heavy, light, height = 2.0, 0.1, 0.5
    plank = Body(shapes=(Box(kind="box", size=(1.0, 0.1, 0.02), surface="both"),), mass=1e-6, position=(0, 0, 0.5),
                 locked_axes=("x", "y", "z", "rotation_x", "rotation_z"))
    stop = Body(motion="static", shapes=(Sphere(kind="sphere", radius=0.02, surface="both"),), position=(-0.4, 0, 0.47))
    case = scene({"plank": plank, "M": ball(0.03, mass=heavy, position=(0.4, 0, 0.54 + height)),
                  "m": ball(0.03, mass=light, position=(-0.4, 0, 0.54)), "stop": stop}, duration=0.4)
    motion = simulate(case)
    hit = next(c for c in motion.contacts if c.body == "M")
    assert hit.time == pytest.approx(np.sqrt(2 * height / G), abs=1e-9)
    launch = motion.trajectory("m").velocity(np.array([hit.time + 1e-9]))[0, 2]
    assert launch / hit.approach == pytest.approx(heavy / (heavy + light), rel=1e-5)


@pytest.mark.parametrize(("change", "word"), [
    ({"motion": "kinematic"}, "keyframe"), ({"max_force": 3.0}, "kinematic"),
    ({"density": 3.0, "mass": 2.0}, "both mass and density"),
    ({"motion": "kinematic", "keyframes": [{"time": 1.0, "position": [0, 0, 0]}, {"time": 1.0, "position": [0, 0, 1]}]},
     "rise in time"),
    ({"shapes": [{"kind": "hull", "points": [[0, 0, 0], [1, 0, 0], [0, 1, 0], [1, 1, 0]]}]}, "one plane"),
    ({"shapes": [{"kind": "capsule", "radius": 0.1}]}, "length"), ({"locked_axes": ["w"]}, "locked_axes"),
])
def test_a_body_that_makes_no_sense_is_refused_in_words(change, word):
    import json

    body = {"shapes": [{"kind": "sphere", "radius": 0.1}], **change}
    with pytest.raises(InputError, match=word):
        parse_case(json.dumps({"format": "yapa", "version": 1, "bodies": {"b": body}}), "a case")
