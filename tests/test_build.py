"""Scenes in Python: helpers with units, cases that are checked, and changing them."""

from __future__ import annotations

from math import radians, sin

import numpy as np
import pytest

import yapa
from yapa import api
from yapa.case import Body, Sphere
from yapa.errors import InputError


def scene(**more):
    return yapa.new_case({"orange": yapa.ball("3.7 cm", at=[0, 0, "1 m"], mass="182 g", surface="rind"),
                          "floor": yapa.floor(surface="pad")},
                         surfaces={"rind": {"friction": 0.4}, "pad": {}}, pairs={"rind+pad": {"restitution": 0.7}}, **more)


def test_lists_arrays_and_units_are_taken():
    made = yapa.ball(0.04, at=np.array([0.1, 0, 1]), velocity=["36 km/h", 0, 0], spin=(0, "60 rpm", 0), density="0.9 g/cm**3")
    assert made.position == (0.1, 0.0, 1.0)
    assert made.velocity == pytest.approx((10.0, 0, 0))
    assert made.angular_velocity[1] == pytest.approx(2 * np.pi)
    assert made.density == pytest.approx(900.0)
    assert yapa.crate("40 cm").shapes[0].size == (0.4, 0.4, 0.4)
    assert yapa.floor(tilt="30 deg").orientation[2] == pytest.approx(sin(radians(15)))


@pytest.mark.parametrize(("make", "words"), [
    (lambda: yapa.ball("3 kg"), "unit"), (lambda: yapa.ball(-1.0), "radius"), (lambda: yapa.ball(0.1, at=(0, 0)), "three numbers"),
    (lambda: yapa.wall((0, 1, 1)), "size"), (lambda: yapa.copies("a", yapa.ball(0.1), (0, 1, 1), (1, 1, 1)), "whole numbers"),
    (lambda: scene(targets=["apex 1 of = 3"]), "target"), (lambda: scene(unknowns={"bodies.apple.mass": (1, 2)}), "apple"),
    (lambda: scene(nothing=1), "nothing"), (lambda: yapa.new_case({}, pairs={"rind": {}}), r"joined by \+"),
    (lambda: yapa.new_case({}, surfaces={"rind": {"friction": -1}}), "friction"),
])
def test_what_cannot_be_is_said_in_words(make, words):
    with pytest.raises(InputError, match=words):
        make()


def test_a_case_in_a_few_lines_is_fitted():
    case = scene(targets=["orange apex 1 = 30 ± 0.5 cm"],
                 unknowns={"pairs.rind+pad.restitution": (0.2, 0.95), "bodies.orange.mass": ("50 g", 0.5)})
    assert case.unknowns[1].transform == "log"
    assert yapa.fit(case).targets[0].met


def test_a_bin_keeps_what_falls_into_it_and_a_lane_leads():
    balls = yapa.copies("orange", yapa.ball(0.03, at=(-0.1, -0.05, 0.3), mass=0.1), (3, 2, 1), (0.1, 0.1, 0))
    case = yapa.new_case({**balls, "bin": yapa.open_bin((0.5, 0.4, 0.2))}, duration=3.0,
                         surfaces={"default": {"restitution": 0.3, "friction": 0.4}}, groups={"load": tuple(balls)},
                         targets=["all of load wholly inside (-0.25, -0.2, -0.01) to (0.25, 0.2, 0.5) at least 0"])
    assert len(balls) == 6
    assert api.judged(case, yapa.simulate(case))[0].met
    rolls = yapa.new_case({"ball": yapa.ball(0.05, at=(-1.5, 0.1, 0.11), velocity=(0, 0.3, 0), mass=0.1),
                           "lane": yapa.lane(4, 0.4, tilt="2 deg")},
                          duration=3.0, surfaces={"default": {"friction": 0.4, "restitution": 0.2}})
    end = yapa.simulate(rolls).states[-1, 0]
    assert end[0] > -1.0
    assert abs(end[1]) <= 0.15 + 1e-3


def test_a_case_is_changed_by_path_and_by_part():
    case = scene()
    assert case["pairs.rind+pad.restitution"] == 0.7
    changed = case.with_({"bodies.orange.mass": 0.2}, duration=3.0, targets=[api.parse_target("apex 1 at least 0.1 m")])
    assert (changed["bodies.orange.mass"], changed.duration, len(changed.targets)) == (0.2, 3.0, 1)
    assert case["bodies.orange.mass"] == 0.182
    for wrong, words in (({"bodies.orange.mass": -1.0}, "mass"), ({"bodies.apple.mass": 1.0}, "apple")):
        with pytest.raises(InputError, match=words):
            case.with_(wrong)
    with pytest.raises(InputError, match="no part named 'colour'"):
        case.with_(colour="red")
    with pytest.raises(InputError, match="no body named"):
        case.with_(groups={"pile": ("apple",)})
    with pytest.raises(InputError, match="a number of this case"):
        case["bodies.apple.mass"]


def test_parts_of_a_case_take_what_python_has_and_say_in_words_what_is_wrong():
    made = yapa.api.Case(bodies={"orange": Body(shapes=[Sphere(kind="sphere", radius="3.7 cm")], position=np.array([0, 0, 1]),
                                                mass="180 g", velocity=[0, "20 cm/s", np.float32(1.5)])}, duration="2 s")
    body = made.bodies["orange"]
    assert (body.shapes[0].radius, body.position, body.mass, body.velocity) == (0.037, (0.0, 0.0, 1.0), 0.18, (0.0, 0.2, 1.5))
    assert made.duration == 2.0
    for wrong, words in (({"radius": -1.0}, "Sphere: radius: found -1"), ({"radius": "3 kg"}, "the unit 'kg'"),
                         ({"radius": 1.0, "color": 2}, "unknown key 'color'"), ({}, "radius: found nothing")):
        with pytest.raises(InputError, match=words):
            Sphere(kind="sphere", **wrong)
    with pytest.raises(InputError, match="as a whole: found both mass and density"):
        Body(shapes=[Sphere(kind="sphere", radius=0.1)], mass=1.0, density=500.0)


def test_a_copy_with_a_field_that_is_not_there_is_a_fault():
    with pytest.raises(TypeError, match="no field 'path'"):
        yapa.ball(0.1).model_copy(update={"path": ()})


def test_a_scene_may_be_empty():
    case = yapa.new_case({})
    motion = yapa.simulate(case)
    assert (motion.states.shape[1], motion.status) == (0, "complete")
    assert [f.cause for f in api.check(case)] == ["there is nothing in it yet"]
