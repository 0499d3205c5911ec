"""Bodies that belong together: joined, taken apart, grouped; physics copied from one to others."""

from __future__ import annotations

import numpy as np
import pytest

from tests.session.test_builder import finish, scene  # noqa: F401  (fixtures)
from yapa.case import Target, Unknown
from yapa.case.rotations import orientation_of
from yapa.case.validation import checked
from yapa.engine import simulate
from yapa.errors import InputError
from yapa.session.building import scene_edits
from yapa.session.building.assembling import PHYSICS, copy_physics, group, join, mass_of, rename_group, take_apart, ungroup
from yapa.session.building.stock import thing_named
from yapa.session.new_case import empty_scene

UP = np.array([0.0, 0, 1])


def two(**fields):
    """A floor, a crate that is turned and thrown, and a ball beside it."""
    case = empty_scene()
    for name, at in (("floor", 0.0), ("crate", 0.0), ("ball", 0.3)):
        high = 0.0 if name == "floor" else 0.5
        case = scene_edits.put_in(thing_named(name), name, np.array([at, 0, high]), UP).change(case)
    crate = case.bodies["crate"].model_copy(update={
        "orientation": orientation_of((0.0, 0.4, 0.2)), "velocity": (1.0, 0, 2.0), "angular_velocity": (0, 3.0, 0)})
    return case.model_copy(update={"bodies": {**case.bodies, "crate": crate, **fields}, "duration": 0.3})


def test_joined_bodies_keep_their_places_their_weight_and_the_first_ones_launch():
    case = two()
    crate, ball = case.bodies["crate"], case.bodies["ball"]
    one = join(["crate", "ball"]).change(case)
    whole = one.bodies["crate"]
    assert list(one.bodies) == ["floor", "crate"]
    assert mass_of(whole) == pytest.approx(mass_of(crate) + mass_of(ball))
    assert whole.velocity == (1.0, 0, 2.0)
    info = simulate(one).body("crate")
    assert info.mass == pytest.approx(mass_of(whole))
    alike = case.model_copy(update={"bodies": {**case.bodies, "ball": ball.model_copy(update={"density": crate.density})}})
    assert join(["crate", "ball"]).change(alike).bodies["crate"].density == crate.density
    back = take_apart("crate").change(one)
    places = {name: body.position for name, body in back.bodies.items()}
    assert places["crate 2"] == pytest.approx(ball.position, abs=1e-9)
    assert places["crate"] == pytest.approx(crate.position, abs=1e-9)
    assert back.bodies["crate"].orientation == pytest.approx(crate.orientation, abs=1e-9)
    assert sum(mass_of(back.bodies[name]) for name in ("crate", "crate 2")) == pytest.approx(mass_of(whole))


def test_parts_of_a_turning_body_go_on_as_it_did():
    case = two()
    one = join(["crate", "ball"]).change(case)
    arm = np.subtract(case.bodies["ball"].position, case.bodies["crate"].position)
    apart = take_apart("crate").change(one)
    v = np.array(apart.bodies["crate 2"].velocity)
    assert v == pytest.approx(np.array([1.0, 0, 2.0]) + np.cross([0, 3.0, 0], arm), abs=1e-9)
    assert apart.bodies["crate 2"].angular_velocity == (0.0, 3.0, 0.0)
    planks = take_apart("bin").change(scene_edits.put_in(thing_named("open bin"), "bin", np.zeros(3), UP).change(case))
    assert [n for n in planks.bodies if n.startswith("bin")] == ["bin", "bin 2", "bin 3", "bin 4", "bin 5"]
    assert {planks.bodies[n].motion for n in planks.bodies if n.startswith("bin")} == {"static"}


@pytest.mark.parametrize(("edit", "words"), [
    (join(["crate"]), "two or more"), (join(["crate", "floor"]), "have a size"), (take_apart("ball"), "two shapes or more"),
    (take_apart("bar"), "has no path"), (group(["crate", "ball"], "ball"), "no body and no group"),
    (rename_group("fruit", ""), "no body and no group"), (copy_physics("crate", ["floor"], {"launch"}), "forces move"),
    (join(["crate", "shell"]), "all solid, or all hollow")])
def test_what_cannot_be_done_says_what_can(edit, words):
    case = scene_edits.put_in(thing_named("driven bar"), "bar", np.array([2.0, 0, 0]), UP).change(two())
    bar = case.bodies["bar"]
    case = case.model_copy(update={"bodies": {**case.bodies, "bar": bar.model_copy(update={"shapes": (*bar.shapes, *bar.shapes)}),
                                              "shell": case.bodies["ball"].model_copy(update={"hollow": True})}})
    with pytest.raises(InputError, match=words):
        edit.change(case)


def test_a_group_is_named_asked_for_and_forgotten():
    case = group(["crate", "ball"], "fruit").change(two())
    assert case.groups == {"fruit": ("crate", "ball")}
    wish = Target(outcome="travel", body="fruit", each="all", condition="at least", value=0.1)
    case = rename_group("fruit", "load").change(case.model_copy(update={"targets": (wish,)}))
    assert case.targets[0].body == "load"
    assert ungroup("load").change(case).groups == {}
    assert ungroup("load").change(case).targets == ()


def test_chosen_physics_are_copied_and_nothing_else():
    case = scene_edits.wear("crate", "wood").change(two())
    case = scene_edits.change_body("crate", "damp", linear_damping=0.3).change(case)
    after = copy_physics("crate", ["ball"], {"mass", "surface"}).change(case).bodies["ball"]
    assert (after.density, after.shapes[0].surface, after.linear_damping) == (300.0, "wood", 0.0)
    assert checked(copy_physics("crate", ["ball"], {"mass"}).change(case)) is not None
    after = copy_physics("crate", ["ball"], set(PHYSICS)).change(case).bodies["ball"]
    assert (after.velocity, after.linear_damping, after.shapes[0].radius) == ((1.0, 0, 2.0), 0.3, 0.05)


def test_the_desk_joins_groups_and_keeps_what_is_selected(scene, finish):  # noqa: F811
    b, said = scene.builder, []
    scene.message.connect(said.append)
    scene.error.connect(said.append)
    b.put_in("crate")
    finish()
    scene.make(scene_edits.together("free", [scene_edits.change_body("crate", "x", linear_damping=0.1)]))
    scene.edit(scene.case.model_copy(update={"unknowns": (Unknown(path="bodies.crate.linear_damping", low=0, high=1),)}), "free")
    b.select(["ball"])
    assert not b.group()
    assert not b.ungroup()
    assert not b.take_apart()
    assert not b.join()
    b.select(["ball", "crate"])
    assert not b.take_apart()
    assert b.group()
    assert scene.case.groups == {"group": ("ball", "crate")}
    assert b.ungroup()
    b.keep_or_free()
    assert b.held_fast == {"ball", "crate"}
    b.keep_or_free()
    assert b.held_fast == set()
    assert b.join()
    finish()
    assert b.selected == ["ball"]
    assert "unknown bodies.crate.linear_damping" in said[-1]
    assert b.take_apart()
    finish()
    assert b.selected == ["ball", "ball 2"]
