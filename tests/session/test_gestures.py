"""Grips and gestures: turning, sizing, lifting, aiming, wanting a passage, keys of a path, what places snap to."""

from __future__ import annotations

from math import cos, pi, radians, sin

import numpy as np
import pytest

from tests.session.test_builder import finish, from_above, from_front, grips, scene  # noqa: F401  (fixtures)
from yapa.case.rotations import tilt_of
from yapa.case.scene import Box
from yapa.engine import simulate
from yapa.errors import InputError
from yapa.session.building import driven_paths
from yapa.session.building import scene_edits as building
from yapa.session.building.aim import aimed, nearest_pass, throw_at
from yapa.session.building.gestures import GESTURES, Held, Snapping
from yapa.session.building.gestures.base import nothing_under, rounded
from yapa.session.building.gestures.key import follow as key_at
from yapa.session.building.gestures.launch import launched
from yapa.session.building.gestures.lift import follow as lift
from yapa.session.building.gestures.move import follow as move
from yapa.session.building.gestures.size import sized
from yapa.session.building.gestures.turn import turned
from yapa.session.building.gestures.waypoint import follow as pass_here
from yapa.session.building.grip_numbers import number_of, typed, words_of
from yapa.session.building.grips import grips_of
from yapa.session.building.placing import moved_to
from yapa.session.building.rays import Ray
from yapa.session.building.snapping import extent, snapped
from yapa.session.building.stock import thing_named
from yapa.session.new_case import empty_scene

RIGHT, EYE = np.array([1.0, 0, 0]), np.array([0.0, -1, 0])
ANGLE = radians(5)


def drag(desk, name, grip, ray, snapping=None):
    """Take a grip, go somewhere, let go."""
    b = desk.builder
    b.select([name])
    assert b.hand.take_grip(name, grips(b)[grip])
    b.hand.follow(ray, snapping)
    b.hand.let_go()


def crate_on_floor():
    """A case with a crate of 0.3 x 0.2 x 0.2 m at the origin of a floor."""
    case = empty_scene()
    for thing in ("floor", "crate"):
        case = building.put_in(thing_named(thing), thing, np.zeros(3), np.array([0.0, 0, 1])).change(case)
    return case


def test_every_kind_of_body_has_the_grips_of_its_sizes():
    def names(thing):
        return [grip.name for grip in grips_of(thing_named(thing).make(), RIGHT, EYE, 1e-3)]

    assert names("ball") == ["launch", "lift", "turn", "radius"]
    assert names("crate") == ["launch", "lift", "turn", "length", "length, other end", "height", "height, other end"]
    assert names("can") == ["launch", "lift", "turn", "radius", "radius, other end", "length", "length, other end"]
    assert names("open bin") == ["lift", "turn", "size over all"]
    assert names("floor") == ["turn"]


def test_a_face_is_moved_and_the_one_across_stays(scene, finish):  # noqa: F811
    b = scene.builder
    b.put_in("crate", from_above(1.0, 0.0))
    finish()
    drag(scene, "crate", "length", from_front(1.27, 0.1), Snapping(step=0.05))
    finish()
    crate = scene.case.bodies["crate"]
    assert crate.shapes[0].size[0] == pytest.approx(0.4)
    assert crate.position == pytest.approx((1.05, 0.0, 0.1))
    drag(scene, "crate", "height", from_front(1.05, 0.5))
    finish()
    crate = scene.case.bodies["crate"]
    assert (crate.shapes[0].size[2], crate.position[2]) == (pytest.approx(0.5), pytest.approx(0.25))
    drag(scene, "crate", "length", from_front(1.35, 0.25), Snapping(about_centre=True))
    finish()
    crate = scene.case.bodies["crate"]
    assert (crate.shapes[0].size[0], crate.position[0]) == (pytest.approx(0.6), pytest.approx(1.05))
    assert crate.density == 300.0  # what was given stays
    drag(scene, "crate", "length", from_front(-9.0, 0.25))  # no size is turned inside out
    finish()
    assert scene.case.bodies["crate"].shapes[0].size[0] == pytest.approx(1e-3)


def test_round_and_joined_bodies_grow_from_what_they_stand_on():
    case = crate_on_floor()
    for thing in ("ball", "open bin", "can"):
        case = building.put_in(thing_named(thing), thing, np.zeros(3), np.array([0.0, 0, 1])).change(case)
    up = np.array([0.0, 0, 1])
    low = {name: case.bodies[name].position[2] + extent(case.bodies[name], 2)[0] for name in ("ball", "open bin", "can")}
    for name, part, size in (("ball", "radius", 0.08), ("open bin", "size", 0.9), ("can", "length", 0.3)):
        after = sized(name, part, size, up).change(case).bodies[name]
        assert after.position[2] + extent(after, 2)[0] == pytest.approx(low[name], abs=1e-9)
        assert case[f"bodies.{name}.{part}"] != sized(name, part, size, up).change(case)[f"bodies.{name}.{part}"] == size


def test_what_stands_is_turned_and_goes_on_touching(scene, finish):  # noqa: F811
    b = scene.builder
    b.put_in("crate", from_above(1.0, 0.0))
    finish()
    start = grips_of(scene.case.bodies["crate"], RIGHT, EYE, 1e-3)[2]
    about = start.place - np.array(scene.case.bodies["crate"].position)
    angle = radians(32)
    there = np.array(scene.case.bodies["crate"].position) + np.array([
        cos(angle) * about[0] + sin(angle) * about[2], 0.0, -sin(angle) * about[0] + cos(angle) * about[2]])
    drag(scene, "crate", "turn", from_front(there[0], there[2]), Snapping(angle=ANGLE))
    finish()
    crate = scene.case.bodies["crate"]
    assert np.degrees(tilt_of(crate.orientation)) == pytest.approx((0, 30, 0), abs=1e-6)
    assert crate.position[2] + extent(crate, 2)[0] == pytest.approx(0.0, abs=1e-9)


def test_lifting_goes_by_the_grid_and_back_on_to_what_is_below(scene, finish):  # noqa: F811
    drag(scene, "ball", "lift", from_front(0.0, 0.05 + 0.05 + 0.03 + 0.31), Snapping(step=0.1))
    finish()
    assert scene.case.bodies["ball"].position == pytest.approx((0, 0, 0.05 + 0.3))
    drag(scene, "ball", "lift", from_front(0.0, 0.43 - 0.27), Snapping(step=0.1))
    finish()
    assert scene.case.bodies["ball"].position[2] == pytest.approx(0.05)  # near the floor: on it
    held = Held(scene.case, "ball", np.zeros(3))
    assert lift(held, Ray(np.zeros(3), np.array([0.0, 0, -1])), Snapping()) is None


def test_keys_move_a_grip_and_follow_each_other_as_one_step(scene, finish):  # noqa: F811
    b = scene.builder
    b.put_in("crate", from_above(1.0, 0.0))
    b.select(["crate"])
    finish()
    steps = scene.document.history.steps
    for _ in range(3):
        b.hand.nudge_grip("crate", grips(b)["length"], 0.01, ANGLE)
    finish()
    assert scene.case.bodies["crate"].shapes[0].size[0] == pytest.approx(0.33)
    assert scene.document.history.steps == steps + 1
    b.hand.nudge_grip("crate", grips(b)["turn"], 0.01, ANGLE)
    b.hand.nudge_grip("crate", grips(b)["launch"], 0.02, ANGLE)
    finish()
    assert np.degrees(tilt_of(scene.case.bodies["crate"].orientation)[1]) == pytest.approx(5)
    assert scene.case.bodies["crate"].velocity == pytest.approx((0.1, 0, 0))
    b.hand.nudge_grip("nobody", grips(b)["turn"], 0.01, ANGLE)
    walked = []
    for _ in range(4):
        b.walk(1, list(grips(b).values()))
        walked.append(b.grip)
    assert walked == ["launch", "lift", "turn", "length"]
    b.walk(-4, list(grips(b).values()))
    assert (b.body, b.grip) == ("crate", None)
    b.walk(-1, list(grips(b).values()))
    assert b.body != "crate"


def test_numbers_of_grips_are_typed_in_any_unit(scene, finish):  # noqa: F811
    b, said = scene.builder, []
    scene.error.connect(said.append)
    b.put_in("crate", from_above(1.0, 0.0))
    finish()
    b.select(["crate"])
    found = grips(b)
    assert b.number_of("crate", found["length"]) == ("length [m]", "0.3")
    assert b.type_number("crate", found["length"], "40 cm")
    finish()
    assert scene.case.bodies["crate"].position[0] == pytest.approx(1.05)
    assert b.type_number("crate", found["launch"], "2")
    assert scene.case.bodies["crate"].velocity == pytest.approx((2, 0, 0))
    assert b.words_of("crate", found["launch"]) == "2 m/s, 0° up"
    assert b.velocity_of("crate") == pytest.approx((2, 0, 0))
    assert b.type_number("crate", None, "0.5, 10 cm, 0.3")
    finish()
    assert scene.case.bodies["crate"].position == pytest.approx((0.5, 0.1, 0.3))
    assert not b.type_number("crate", None, "0.5")
    assert "three lengths" in said[-1]
    case = scene.case
    assert typed(case, "crate", found["turn"], "30").change(case)["bodies.crate.tilt.y"] == pytest.approx(pi / 6)
    assert words_of(case, "crate", found["turn"]).startswith("turned about y 0")
    assert words_of(case, "ball", grips_of(case.bodies["ball"], RIGHT, EYE, 1e-3)[0]) == "pull to throw"
    assert number_of(case, "ball", None)[1] == "0, 0, 0.05"
    with pytest.raises(InputError, match="launch speed"):
        typed(case, "crate", found["launch"], "fast")


def test_at_a_later_time_a_drag_says_where_it_passes_or_where_its_path_leads(scene, finish):  # noqa: F811
    b = scene.builder
    b.put_in("driven bar", from_above(2.0, 0.0))
    finish()
    scene.playback.go_to(0.5)
    b.select(["ball"])
    assert b.hand.take("ball", from_front(0.0, 0.05))
    b.hand.follow(from_front(0.6, 0.4), Snapping(step=0.1))
    b.hand.let_go()
    finish()
    assert [(t.outcome, t.time, t.value) for t in scene.case.targets] == [("x", 0.5, 0.6), ("y", 0.5, 0.0), ("z", 0.5, 0.4)]
    assert scene.case.bodies["ball"].position == pytest.approx((0, 0, 0.05))
    b.hand.take("ball", from_front(0.0, 0.05))
    b.hand.follow(from_front(0.7, 0.4), Snapping(step=0.1))
    b.hand.let_go()
    finish()
    assert [t.value for t in scene.case.targets] == [0.7, 0.0, 0.4]  # in place of the wish for the same time
    now = b.place_now("driven bar")
    assert now[0] == pytest.approx(2.25, abs=0.05)
    b.hand.take("driven bar", from_front(now[0], now[2]))
    b.hand.follow(from_front(2.4, 0.04))
    b.hand.let_go()
    finish()
    assert [(key.time, key.position[0]) for key in scene.case.bodies["driven bar"].keyframes][1] == (0.5, pytest.approx(2.4))
    first = scene.case.bodies["driven bar"].keyframes[0]
    assert driven_paths.set_path("driven bar", [first]).change(scene.case).bodies["driven bar"].keyframes == (first,)
    held = Held(scene.case, "driven bar", np.zeros(3), time=0.5)
    along = Ray(np.zeros(3), np.zeros(3))
    assert key_at(held, along, Snapping()) is pass_here(held, along, Snapping()) is None


def test_what_is_kept_or_hidden_is_neither_moved_nor_met(scene, finish):  # noqa: F811
    b = scene.builder
    b.select(["ball"])
    b.keep_in_place(True)
    assert not b.may_move("ball")
    assert not b.hand.take("ball", from_front(0, 0.05))
    assert list(grips(b)) == ["launch"]
    b.hand.nudge(np.array([0.1, 0, 0]))
    assert scene.case.bodies["ball"].position[0] == 0.0
    b.keep_in_place(False)
    assert b.may_move("ball")
    b.hide(True)
    assert [hit.body for hit in b.under(from_above(0.0, 0.0))] == ["floor"]
    assert b.selected == []
    b.hide(False)
    assert b.hidden == set()


def test_a_place_is_beside_a_neighbour_or_in_line_with_it_else_on_the_grid():
    case = crate_on_floor()
    ball = thing_named("ball").make()
    up = np.array([0.0, 0, 1])
    touching = snapped(case, "ball", ball, np.array([0.208, 0.031, 0.05]), up, 0.05)
    assert touching == pytest.approx((0.2, 0.05, 0.05))  # 0.15 + 0.05: beside the crate; its edge in line with the crate's
    far = snapped(case, "ball", ball, np.array([0.96, 0.77, 0.05]), up, 0.05)
    assert far == pytest.approx((0.95, 0.75, 0.05))
    assert snapped(case, "ball", ball, np.array([0.96, 0.77, 0.05]), up, 0.0) == pytest.approx((0.96, 0.77, 0.05))
    assert rounded(0.37, 0.0) == 0.37
    assert nothing_under(from_above(0, 0)) == []
    held = Held(case, "crate", np.array([0.0, 0, 0.1]))
    assert move(held, from_front(0.31, 0.1), Snapping()).change(case).bodies["crate"].position == pytest.approx((0.31, 0, 0.1))
    assert set(GESTURES) == {"move", "lift", "turn", "size", "launch", "pass here", "key"}
    assert turned(held, 0.0).change(case).bodies["crate"] == case.bodies["crate"]


@pytest.mark.parametrize("high", [False, True])
def test_aimed_by_the_parabola_it_passes_the_point(high):
    v, reached = aimed(5.0, np.array([0.8, -0.6, 0.2]), -9.81, high=high)
    t = 1.0 / np.hypot(v[0], v[1])
    assert reached
    assert v * t + np.array([0, 0, -0.5 * 9.81 * t * t]) == pytest.approx((0.8, -0.6, 0.2), abs=1e-12)
    assert np.linalg.norm(v) == pytest.approx(5.0)
    beyond, reached = aimed(1.0, np.array([3.0, 0, 0]), -9.81, high=high)
    assert not reached
    assert np.linalg.norm(beyond) == pytest.approx(1.0)
    assert aimed(2.0, np.array([0.0, 0, 1.0]), 0.0)[0] == pytest.approx((0, 0, 2.0))


def test_aimed_through_air_it_passes_within_a_millimetre_and_out_of_reach_is_said(scene, finish):  # noqa: F811
    said = []
    scene.error.connect(said.append)
    scene.message.connect(said.append)
    case = crate_on_floor()
    light = thing_named("ball").make().model_copy(update={"drag_coefficient": 0.5, "density": 80.0})
    ball = moved_to(light, np.array([-1.0, 0, 1.0]))
    case = case.model_copy(update={"bodies": {**case.bodies, "ball": ball}})
    case = launched(Held(case, "ball", np.zeros(3)), np.array([5.0, 0, 0])).change(case)
    point = np.array([0.6, 0.2, 0.9])
    edit, miss = throw_at(case, "ball", point)
    assert miss < 1e-3
    after = edit.change(case)
    assert np.linalg.norm(after.bodies["ball"].velocity) == pytest.approx(5.0)
    path = simulate(after).trajectory("ball")
    times = np.linspace(0, 0.6, 3000)
    assert np.linalg.norm(path.position(times) - point, axis=1).min() < 2e-3
    assert np.linalg.norm(nearest_pass(after, "ball", point)) < 2e-3
    scene.builder.select(["ball"])
    scene.builder.aim(from_front(0.5, 0.2))
    finish()
    assert "passes there" in said[-1]
    scene.builder.aim(from_front(9.0, 4.0))
    finish()
    assert "out of reach" in said[-1]
    scene.builder.select(["floor"])
    scene.builder.aim(from_front(9.0, 4.0))
    assert "expected one" in said[-1]


def test_a_clip_is_lengthened_and_a_wall_is_no_throw(scene, finish):  # noqa: F811
    was = scene.case.duration
    assert scene.builder.lengthen()
    finish()
    assert scene.case.duration == 2 * was
    wall = thing_named("wall").make()
    assert isinstance(wall.shapes[0], Box)
    assert [grip.gesture for grip in grips_of(wall, RIGHT, EYE, 1e-3)].count("launch") == 0
