"""The builder of a desk: selection, gestures that end in one edit, fields, asks, edits of the whole scene."""

from __future__ import annotations

from math import degrees, hypot

import numpy as np
import pytest

from yapa.case.launch_angles import angles_of, parts_of
from yapa.case.scene import LaunchAngles
from yapa.case.validation import checked
from yapa.errors import InputError
from yapa.findings.gaps import gaps_at_start
from yapa.formats.case_json import case_text
from yapa.formats.target_text import parse_target
from yapa.session.building import arranging, driven_paths, whole_scene
from yapa.session.building import scene_edits as building
from yapa.session.building.asking import asks, tolerance_for, want
from yapa.session.building.builder import support_along_x
from yapa.session.building.fields import text_of, unit_shown, values_from
from yapa.session.building.gestures import Snapping
from yapa.session.building.gestures.launch import ARROW_SECONDS
from yapa.session.building.rays import Ray, nice_step, on_grid
from yapa.session.building.skins import acting_on, worn_by
from yapa.session.building.stock import thing_named
from yapa.session.building.weights import comes_to, give_other, volume_of
from yapa.session.new_case import empty_scene

FRONT = np.array([0.0, 1.0, 0.0])


def from_front(x, z):
    """The pointer in a view from the front."""
    return Ray(np.array([x, -100.0, z]), FRONT)


def from_above(x, y):
    """The pointer in a view from above."""
    return Ray(np.array([x, y, 100.0]), np.array([0.0, 0.0, -1.0]))


def grips(builder):
    """The grips of what is selected, by name, in a view from the front where a pixel is a millimetre."""
    return {grip.name: grip for grip in builder.grips(np.array([1.0, 0, 0]), np.array([0.0, -1, 0]), 1e-3)}


@pytest.fixture
def finish(desk, ear):
    """Hear the end of everything that is under way."""
    return lambda: ear.until(lambda: desk.jobs.idle)


@pytest.fixture
def scene(desk, finish):
    """A desk with a floor and a ball on it."""
    desk.open_case(empty_scene())
    finish()
    for thing in ("floor", "ball"):
        assert desk.builder.put_in(thing)
        finish()
    return desk


def test_an_empty_scene_is_filled_and_every_step_is_undone(desk, finish):
    desk.open_case(empty_scene())
    finish()
    empty = case_text(desk.case.model_copy(update={"trials": ()}))
    b = desk.builder
    assert b.put_in("floor")
    finish()
    assert b.put_in("ball", from_above(0.52, 0.31), step=0.1)
    finish()
    assert desk.case.bodies["ball"].position == pytest.approx((0.5, 0.3, 0.05))
    assert b.put_in("ball", from_above(0.5, 0.3), step=0.1)
    finish()
    assert desk.case.bodies["ball 2"].position[2] == pytest.approx(0.15, abs=1e-6)
    assert b.body == "ball 2"
    built = case_text(desk.case.model_copy(update={"trials": ()}))
    for _ in range(3):
        desk.undo()
    assert case_text(desk.case.model_copy(update={"trials": ()})) == empty
    assert b.selected == []
    for _ in range(3):
        desk.redo()
    assert case_text(desk.case.model_copy(update={"trials": ()})) == built
    finish()


def test_selection_walks_toggles_and_forgets_what_is_gone(scene, finish):
    b, heard = scene.builder, []
    scene.selection_changed.connect(lambda: heard.append(list(b.selected)))
    b.select(["ball", "nothing"])
    assert b.selected == ["ball"]
    b.toggle("floor")
    assert (b.selected, b.body) == (["ball", "floor"], None)
    b.toggle("ball")
    b.select_next()
    assert b.selected == ["ball"]
    b.select_next(-1)
    assert b.selected == ["floor"]
    b.select([])
    b.select_next(-1)
    assert b.selected == ["ball"]
    b.take_out()
    finish()
    assert (list(scene.case.bodies), b.selected) == (["floor"], [])
    b.take_out()
    assert heard[-1] == []
    b.keep_up()


def test_the_pointer_is_over_faces_then_the_ground_then_the_picture(scene):
    b = scene.builder
    assert [hit.body for hit in b.under(from_above(0.0, 0.0))] == ["ball", "floor"]
    assert [hit.body for hit in b.under(from_above(0.0, 0.0), "ball")] == ["floor"]
    point, normal = b.ground_under(from_above(2.0, 1.0))
    assert point == pytest.approx((2.0, 1.0, 0.0))
    assert normal == pytest.approx((0, 0, 1))
    point, _ = b.ground_under(from_front(3.0, 0.4))
    assert point == pytest.approx((3.0, 0.0, 0.0))
    point, _ = b.ground_under(from_front(3.0, -0.4))
    assert point == pytest.approx((3.0, 0.0, 0.0))  # nothing is there or below: the level ground
    assert Ray(np.zeros(3), FRONT).at_plane(np.ones(3), np.array([1.0, 0, 0])) is None


def test_what_stands_is_moved_along_its_face_and_what_hangs_in_the_picture(scene, finish):
    hand = scene.builder.hand
    assert hand.take("ball", from_above(0.0, 0.0))
    assert hand.holding
    hand.follow(from_above(0.43, 0.18), Snapping(step=0.1))
    assert scene.preview.draft.bodies["ball"].position[0] == pytest.approx(0.4)
    assert hand.words == "move ball"
    hand.let_go()
    finish()
    assert scene.case.bodies["ball"].position == pytest.approx((0.4, 0.2, 0.05))
    assert hand.take("ball", from_front(0.4, 0.05))
    hand.follow(from_front(0.4, 0.55), Snapping(in_picture=True))
    hand.let_go()
    finish()
    assert scene.case.bodies["ball"].position == pytest.approx((0.4, 0.2, 0.55))
    hand.take("ball", from_front(0.4, 0.55))
    hand.follow(from_front(0.9, 0.75))
    hand.put_back()
    finish()
    assert scene.case.bodies["ball"].position == pytest.approx((0.4, 0.2, 0.55))
    assert scene.preview.draft is None
    assert not hand.take("nobody", from_front(0, 0))


def test_onto_another_face_it_is_turned_flush(scene, finish):
    b = scene.builder
    b.put_in("slope", from_above(1.5, 0.0))
    b.put_in("crate", from_above(-1.0, 0.0))
    finish()
    b.hand.take("crate", from_above(-1.0, 0.0))
    b.hand.follow(from_above(1.5, 0.0))
    b.hand.let_go()
    finish()
    crate, slope = scene.case.bodies["crate"], scene.case.bodies["slope"]
    assert crate.orientation == pytest.approx(slope.orientation, abs=1e-9)


def test_the_launch_arrow_is_pulled(scene, finish):
    b = scene.builder
    start = np.array(scene.case.bodies["ball"].position)
    b.select(["floor"])
    assert "launch" not in grips(b)
    b.select(["ball"])
    assert b.hand.take_grip("ball", grips(b)["launch"])
    b.hand.follow(from_front(start[0] + 0.4, start[2] + 0.3))
    assert scene.preview.draft.bodies["ball"].velocity[0] == pytest.approx(0.4 / ARROW_SECONDS)
    b.hand.let_go()
    finish()
    assert scene.case.bodies["ball"].velocity == pytest.approx((2.0, 0.0, 1.5))
    b.edit(building.launch_as(["ball"], "angles"))
    angles = scene.case.bodies["ball"].velocity
    assert isinstance(angles, LaunchAngles)
    assert (angles.speed, degrees(angles.elevation)) == (pytest.approx(2.5), pytest.approx(36.87, abs=0.01))
    b.hand.take_grip("ball", grips(b)["launch"])
    b.hand.follow(from_front(start[0] + 0.2, start[2]), Snapping(step=0.001))
    b.hand.let_go()
    finish()
    assert scene.case["bodies.ball.speed"] == pytest.approx(1.0)
    own = building.by_angles(scene.case.bodies["ball"], np.array([1.0, 0.0, 0.0]), own=True)
    b.edit(building.launch_as(["ball"], "own angles"))
    assert scene.case.bodies["ball"].velocity == own
    b.edit(building.change_body("ball", "turn", orientation=(0.0, 0.0, 0.0, 1.0)))  # half about z
    assert building.start_velocity(scene.case.bodies["ball"]) == pytest.approx((-1.0, 0.0, 0.0))  # it turned with the body
    b.hand.take_grip("ball", grips(b)["launch"])
    b.hand.follow(from_front(start[0] + 0.2, start[2]), Snapping(step=0.001))
    b.hand.let_go()
    finish()
    assert scene.case.bodies["ball"].velocity.axes == "body"
    b.edit(building.launch_as(["ball"], "parts"))
    assert building.start_velocity(scene.case.bodies["ball"]) == pytest.approx((1.0, 0.0, 0.0))


def test_steps_by_keys_that_follow_soon_are_one_step(scene, finish):
    b = scene.builder
    b.select(["ball"])
    steps = scene.document.history.steps
    for _ in range(4):
        b.hand.nudge(np.array([0.1, 0.0, 0.0]))
    finish()
    assert scene.document.history.steps == steps + 1
    assert scene.case.bodies["ball"].position[0] == pytest.approx(0.4)
    scene.undo()
    assert scene.case.bodies["ball"].position[0] == 0.0
    finish()


def test_copies_are_selected_and_names_are_changed(scene, finish):
    b = scene.builder
    b.select(["ball"])
    b.duplicate()
    finish()
    assert b.selected == ["ball 2"]
    assert b.rename("kumquat")
    assert not b.rename("floor")
    assert not b.rename(" ")
    assert "kumquat" in scene.case.bodies
    finish()


def test_fields_take_units_amounts_and_factors(scene):
    case = scene.case
    paths = ["bodies.ball.position.z"]
    assert text_of(case, paths) == "0.05"
    assert values_from(case, paths, "12 cm") == {paths[0]: pytest.approx(0.12)}
    assert values_from(case, paths, "+2 cm") == {paths[0]: pytest.approx(0.07)}
    assert values_from(case, paths, "×1.1") == {paths[0]: pytest.approx(0.055)}
    assert values_from(case, ["bodies.ball.tilt.y"], "90") == {"bodies.ball.tilt.y": pytest.approx(np.pi / 2)}
    assert unit_shown("bodies.ball.tilt.y") == "°"
    both = ["bodies.ball.position.z", "bodies.floor.position.z"]
    assert text_of(case, both) == "mixed"
    assert values_from(case, both, "mixed") == {}
    assert set(values_from(case, both, "1")) == set(both)
    for wrong in ("", "3 kg", "abc"):
        with pytest.raises(InputError):
            values_from(case, paths, wrong)
    assert text_of(case, ["bodies.floor.mass"]) == ""


def test_numbers_are_set_as_one_step_and_what_cannot_be_is_said(scene, finish):
    assert scene.builder.set_values({"bodies.ball.position.z": 0.5, "bodies.ball.position.x": 0.1}, "set place")
    assert not scene.builder.set_values({"bodies.ball.radius": -1.0}, "set radius")
    assert not scene.builder.set_values({}, "set nothing")
    assert "bodies.ball.radius" in scene.troubles[-1]
    finish()


def test_what_can_be_asked_depends_on_what_is_there(scene, finish):
    b = scene.builder
    b.select([])
    assert b.asks_at(from_above(1.0, 0.0), 0.001) == []
    b.select(["ball"])
    found = {ask.text.partition(",")[0]: ask for ask in b.asks_at(from_above(1.0, 0.5), 0.001)}
    assert {"pass here", "land here", "rest here", "hit floor", "never touch floor", "topple"} <= set(found)
    assert [t.label for t in found["land here"].targets] == ["ball landing x 1", "ball landing y 1"]
    assert b.ask(found["land here"].targets)
    assert len(scene.case.targets) == 2
    scene.undo()
    assert scene.case.targets == ()
    finish()
    distance = hypot(1.0, 0.5)
    assert found["land here"].targets[0].tolerance == tolerance_for(distance, 0.001) == 0.02
    assert next(a.text for a in asks(scene.case, "ball", np.array([1.0, 0.0, 1.0]), None, 1e-4)).startswith("pass here")
    assert want([parse_target("ball peak height at least 1 m")]).text == "want ball peak height"


def test_skins_say_who_wears_them_and_what_acts(scene):
    assert worn_by(scene.case, "default") == ["floor", "ball"]
    acting = {a.quantity: a for a in acting_on(scene.case, "ball")}
    assert (acting["friction"].partner, acting["friction"].value) == ("default", 0.5)
    assert building.write_surface("default").change(scene.case).surfaces["default"].friction == 0.5


def test_the_whole_scene_is_edited(scene):
    case = scene.case
    assert whole_scene.set_part("title", "Ball").change(case).title == "Ball"
    assert whole_scene.set_part("duration", "1 min").change(case).duration == 60.0
    assert whole_scene.set_part("seed", "7").change(case).seed == 7
    assert whole_scene.set_rule("friction", "larger").change(case).pairing.friction == "larger"
    stepped = whole_scene.set_profile("60 Hz, 1 substep, 10 iterations").change(case)
    assert stepped.profile.kind == "stepped"
    assert whole_scene.set_profile("precise").change(stepped).profile.kind == "precise"
    for edit in (whole_scene.set_part("seed", "1.5"), whole_scene.set_part("duration", "-1"), whole_scene.set_profile("other")):
        with pytest.raises(InputError):
            edit.change(case)


def test_a_path_is_given_changed_and_taken(scene):
    case = building.set_kind("ball", "kinematic").change(scene.case)
    case = driven_paths.give_path("ball").change(case)
    assert [key.time for key in case.bodies["ball"].keyframes] == [0.0, 1.0]
    case = driven_paths.add_key("ball").change(case)
    assert case.bodies["ball"].keyframes[2].position[0] == pytest.approx(1.0)
    case = driven_paths.set_key("ball", 2, "t", "500 ms").change(case)
    assert [key.time for key in case.bodies["ball"].keyframes] == [0.0, 0.5, 1.0]
    case = driven_paths.set_key("ball", 0, "z", "20 cm").change(case)
    assert case.bodies["ball"].position[2] == 0.2
    assert len(driven_paths.remove_key("ball", 1).change(case).bodies["ball"].keyframes) == 2
    pushed = driven_paths.set_push_limit("ball", "30 N").change(case)
    assert pushed.bodies["ball"].max_force == 30.0
    assert driven_paths.set_push_limit("ball", " ").change(pushed).bodies["ball"].max_force is None
    with pytest.raises(InputError, match="above 0 N"):
        driven_paths.set_push_limit("ball", "-1").change(case)


def test_lengths_are_rounded_to_one_two_or_five():
    assert [nice_step(x) for x in (0.013, 0.03, 0.07, 4.0)] == pytest.approx([0.01, 0.02, 0.05, 5.0])
    assert on_grid(np.array([0.12, 0.37, 0.05]), np.array([0.0, 0, 1]), 0.1) == pytest.approx((0.1, 0.4, 0.05))
    assert on_grid(np.array([0.12, 0.37, 0.05]), np.array([0.0, 0, 1]), 0.0) == pytest.approx((0.12, 0.37, 0.05))
    assert support_along_x(thing_named("ball").make()) == pytest.approx(0.05)




def test_bodies_are_copied_scattered_stacked_lined_up_and_mirrored(scene, finish):
    case = arranging.copies("ball", (3, 2, 1), (0.2, 0.3, 0.0)).change(scene.case)
    places = [body.position[:2] for name, body in case.bodies.items() if name != "floor"]
    assert places == [pytest.approx(p) for p in ((0, 0), (0.2, 0), (0.4, 0), (0, 0.3), (0.2, 0.3), (0.4, 0.3))]
    one, two = (arranging.scatter("ball", 12, (-0.2, -0.2, 0.2), (0.2, 0.2, 0.4), 7).change(scene.case) for _ in range(2))
    assert one == two
    assert min(gaps_at_start(one).values()) >= -1e-9
    names = [name for name in case.bodies if name != "floor"][:3]
    stacked = arranging.on_top(names).change(case)
    assert [stacked.bodies[name].position[2] for name in names] == pytest.approx([0.05, 0.15, 0.25])
    lined = arranging.line_up(names, "x").change(case)
    assert {lined.bodies[name].position[0] for name in names} == {case.bodies[names[0]].position[0]}
    moved = building.move_body(names[1], np.array([0.35, 0.0, 0.05])).change(case)
    even = arranging.distribute(names, "x").change(moved)
    assert [even.bodies[name].position[0] for name in names] == pytest.approx([0.0, 0.2, 0.4])
    thrown = building.launch("ball", (1.0, 2.0, 0.0)).change(building.move_body("ball", np.array([0.3, 0.0, 0.5])).change(case))
    across = arranging.mirror(["ball"], "x").change(thrown)
    assert across.bodies["ball"].position[0] == -0.3
    assert across.bodies["ball"].velocity == (-1.0, 2.0, 0.0)
    assert arranging.mirror(["ball"], "x").change(across).bodies["ball"] == thrown.bodies["ball"]
    for wrong in (arranging.copies("ball", (1, 1, 1), (1, 1, 1)), arranging.scatter("ball", 0, (0, 0, 0), (1, 1, 1), 0),
                  arranging.scatter("ball", 3, (1, 0, 0), (0, 1, 1), 0)):
        with pytest.raises(InputError):
            wrong.change(case)
    scene.builder.select(["ball"])
    assert not scene.builder.arrange("stack")
    assert "Shift+click" in scene.troubles[-1]
    assert scene.builder.arrange("mirror", "x")
    finish()


def test_mass_and_density_come_to_each_other_and_the_weight_stays(scene):
    ball = scene.case.bodies["ball"]
    assert volume_of(ball) == pytest.approx(4 / 3 * np.pi * 0.05**3)
    assert comes_to(ball) == pytest.approx(950.0 * volume_of(ball))
    heavy = checked(give_other("ball", "mass").change(scene.case))
    assert heavy.bodies["ball"].density is None
    assert heavy.bodies["ball"].mass == pytest.approx(comes_to(ball), rel=1e-5)
    again = checked(give_other("ball", "density").change(heavy))
    assert again.bodies["ball"].density == pytest.approx(950.0, rel=1e-5)


def test_what_is_done_to_several_bodies_is_one_step(scene, finish):
    b, history = scene.builder, scene.document.history
    b.put_in("crate")
    finish()
    b.select(["ball", "crate"])
    steps = history.steps
    b.duplicate()
    assert (b.selected, history.steps) == (["ball 2", "crate 2"], steps + 1)
    scene.undo()
    assert list(scene.case.bodies) == ["floor", "ball", "crate"]
    both = building.together("fix both", [building.set_kind(name, "static") for name in ("ball", "crate")])
    assert {body.motion for body in both.change(scene.case).bodies.values()} == {"static"}
    finish()


def test_a_velocity_by_angles_and_back():
    assert parts_of(*angles_of((1.0, -2.0, 0.5))) == pytest.approx([1.0, -2.0, 0.5])
    assert angles_of((0.0, 0.0, 2.0)) == pytest.approx((2.0, np.pi / 2, 0.0))
