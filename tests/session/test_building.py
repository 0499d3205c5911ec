"""Building a scene by hand: what the pointer meets, where things stand, and every edit of a scene."""

from __future__ import annotations

from math import cos, radians, sin, sqrt

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa.case import Body, Box, Capsule, Case, Cylinder, Hull, Keyframe, Plane, Sphere, Target, Track, Trial, Unknown
from yapa.case.evidence import Samples
from yapa.case.scene import LaunchAngles, NaturalRoll
from yapa.case.takes import Take
from yapa.case.validation import checked
from yapa.demo import DATA
from yapa.engine import simulate
from yapa.engine.compile.pair_materials import effective_values
from yapa.errors import InputError
from yapa.findings import check
from yapa.findings.gaps import gaps_at_start
from yapa.formats.case_file import load_case
from yapa.formats.target_text import parse_target
from yapa.session.building import scene_edits as building
from yapa.session.building.picking import hits_along, hits_in
from yapa.session.building.placing import flush, moved_out, moved_to, place_of, reach_towards, stood_on, tidy, with_body
from yapa.session.building.renaming import renamed
from yapa.session.building.stock import STOCK, is_endless, thing_named
from yapa.session.building.taking_out import names_in, referring, without

UP = np.array([0.0, 0.0, 1.0])
EMPTY = Case(bodies={})
HALF = radians(45) / 2
SHAPES = {
    "sphere": Sphere(kind="sphere", radius=0.1), "box": Box(kind="box", size=(0.2, 0.3, 0.4)),
    "capsule": Capsule(kind="capsule", radius=0.1, length=0.3), "cylinder": Cylinder(kind="cylinder", radius=0.1, length=0.3),
    "hull": Hull(kind="hull", points=[(x, y, z) for x in (-0.1, 0.1) for y in (-0.15, 0.15) for z in (-0.2, 0.2)])}


def hit(case, origin, direction):
    motion = simulate(case, times=np.array([0.0]))
    way = np.array(direction, dtype=float)
    return hits_along(motion.bodies, motion.states[0], np.array(origin, dtype=float), way / np.linalg.norm(way))


@pytest.mark.parametrize("kind", SHAPES)
def test_a_ray_meets_the_surface_of_every_shape_from_every_side(kind):
    rng = np.random.default_rng(3)
    body = Body(shapes=[SHAPES[kind]], position=(0.3, -0.2, 0.5), orientation=(cos(HALF), sin(HALF), 0.0, 0.0))
    case = Case(bodies={"it": body})
    for way in rng.normal(size=(40, 3)):
        away = way / np.linalg.norm(way)
        (found,) = hit(case, np.array(body.position) + 3 * away, -away)
        assert found.body == "it"
        assert np.linalg.norm(found.normal) == pytest.approx(1.0)
        assert found.normal @ away > 0
        # nothing of a convex body lies beyond the face that is met
        assert (found.point - body.position) @ found.normal == pytest.approx(reach_towards(body, found.normal), abs=1e-9)
    assert hit(case, (3.0, 0, 0.5), (0, 1, 0)) == []


def test_the_nearest_comes_first_and_a_floor_is_met_from_above_only():
    case = scene({"a": ball(0.1, position=(0, 0, 1)), "b": ball(0.1, position=(0, 0, 2)), "ground": floor()})
    assert [h.body for h in hit(case, (0, 0, 5), (0, 0, -1))] == ["b", "a", "ground"]
    assert [h.body for h in hit(case, (1, 0, -1), (0, 0, 1))] == []
    motion = simulate(case, times=np.array([0.0]))
    assert [h.body for h in hits_in(motion, 0, np.array([0.0, 0, 5]), -UP, "b")] == ["a", "ground"]


@pytest.mark.parametrize("name", [thing.name for thing in STOCK])
def test_every_thing_of_the_stock_stands_on_the_floor_touching_it_and_the_scene_runs(name):
    case = building.put_in(thing_named("floor"), "floor", np.zeros(3), UP).change(EMPTY)
    if name == "floor":
        return
    case = checked(building.put_in(thing_named(name), name, np.array([0.3, 0.1, 0.0]), UP).change(case))
    body = case.bodies[name]
    assert reach_towards(body, -UP) == pytest.approx(place_of(body)[2], abs=1e-9)
    gap = {pair: g for pair, g in gaps_at_start(case).items() if name in pair}
    assert all(abs(g) < 1e-9 for g in gap.values())
    motion = simulate(case)
    assert motion.status == "complete"
    trouble = [f for f in check(case) if f.severity == "trouble" and f.kind not in ("nothing moves",)]
    assert trouble == []


def test_what_stands_on_a_slope_lies_flush_or_upright():
    normal = np.array([sin(radians(20)), 0.0, cos(radians(20))])
    crate = thing_named("crate").make()
    lying = stood_on(crate, np.zeros(3), normal)
    assert reach_towards(lying, -normal) == pytest.approx(0.1)
    assert np.array(place_of(lying)) == pytest.approx(0.1 * normal)
    upright = stood_on(crate, np.zeros(3), normal, upright=True)
    assert upright.orientation == (1.0, 0.0, 0.0, 0.0)
    assert np.array(place_of(upright)) @ normal == pytest.approx(reach_towards(upright, -normal))
    assert flush(-UP)[0] == pytest.approx(0.0, abs=1e-12)
    assert tidy(-1e-17) == 0.0


def test_where_something_stands_already_it_is_moved_out_along_the_normal():
    case = building.put_in(thing_named("floor"), "floor", np.zeros(3), UP).change(EMPTY)
    for k in range(3):
        case = building.put_in(thing_named("ball"), f"ball {k}", np.zeros(3), UP).change(case)
    heights = sorted(body.position[2] for name, body in case.bodies.items() if name != "floor")
    assert heights == pytest.approx([0.05, 0.15, 0.25], abs=1e-6)
    assert moved_out(case, "floor", UP) is case
    assert list(with_body(case, "can", thing_named("can").make()).bodies)[-1] == "can"


def test_a_slope_keeps_its_slope_to_what_it_stands_on():
    level = stood_on(thing_named("slope").make(), np.zeros(3), UP)
    assert level.orientation == pytest.approx((cos(radians(10)), 0.0, sin(radians(10)), 0.0))
    tilted = np.array([sin(radians(5)), 0.0, cos(radians(5))])
    steeper = stood_on(thing_named("slope").make(), np.zeros(3), tilted)
    assert steeper.orientation == pytest.approx((cos(radians(12.5)), 0.0, sin(radians(12.5)), 0.0))


def test_a_driven_body_takes_its_path_along():
    bar = thing_named("driven bar").make()
    there = moved_to(bar, np.array([1.0, 0.0, 0.2]))
    assert there.keyframes[1].position == (1.5, 0.0, 0.2)
    assert is_endless(thing_named("floor").make())
    assert not is_endless(bar)


def built():
    """A case in which a body stands in everything that can name one."""
    case, _ = load_case(DATA / "orange-wanted.yapa")
    orange = case.bodies["orange"]
    lemon = orange.model_copy(update={"position": (1.0, 0.0, 0.5), "angular_velocity": NaturalRoll(rolling_on="board")})
    board = Body(motion="static", shapes=[Box(kind="box", size=(0.5, 0.5, 0.02))], position=(1.0, 0.0, 0.4))
    sheet = Body(motion="static", shapes=[Plane(kind="plane")], placed_under="orange")
    seen = Samples(t=[0.0, 0.1, 0.2, 0.3, 0.4], z=[1.0, 0.9, 0.7, 0.4, 0.2])
    track = Track(name="film", body="orange", sigma=0.001, samples=seen)
    targets = [parse_target(text) for text in (
        "orange apex 1 = 0.4 ± 0.01 m", "lemon hit with orange happens",
        "lemon contact order through orange, padded plate at least 0 s",
        "orange travel - lemon travel at least 0.1 m", "all of fruit peak height at least 0.1 m")]
    tied = [{"path": "bodies.orange.drag_coefficient", "factor": 1.0}]
    unknowns = [Unknown(path="bodies.orange.mass", low=0.1, high=1.0),
                Unknown(path="bodies.lemon.mass", low=0.1, high=1.0, linked=tied)]
    trial = Trial(name="as set up", source="as set up", values={"bodies.orange.mass": 0.2}, outcomes={"orange apex 1": 0.4})
    take = Take(name="one", tracks=["film"], values={"bodies.orange.position.z": 1.0}, free_per_take=["bodies.orange.mass"])
    return checked(case.model_copy(update={
        "bodies": {**case.bodies, "lemon": lemon, "board": board, "sheet": sheet},
        "groups": {"fruit": ("orange", "lemon")}, "tracks": (track,),
        "targets": tuple(targets), "unknowns": tuple(unknowns), "trials": (trial,), "takes": (take,)}))


def test_a_new_name_follows_everywhere():
    case = built()
    after = checked(renamed(case, "orange", "kumquat"))
    assert "orange" not in after.model_dump_json().replace("orange apex", "").replace(case.title, "").replace(case.notes, "")
    assert list(after.bodies) == [name.replace("orange", "kumquat") for name in case.bodies]
    assert after.trials[0].outcomes == {"kumquat apex 1": 0.4}
    assert [t.label for t in after.targets][3] == "kumquat travel - lemon travel"
    assert checked(renamed(after, "kumquat", "orange")) == case
    with pytest.raises(InputError, match="no body and no group"):
        building.rename_body("orange", "fruit").change(case)
    assert building.rename_body("orange", "kumquat").change(case) == after


def test_what_is_taken_out_takes_with_it_what_refers_to_it():
    case = built()
    named = referring(case, ["orange"])
    assert {"track film", "unknown bodies.orange.mass", "group fruit"} <= set(named)
    assert "sheet, placed under it" in named
    assert referring(case, ["board"]) == ["lemon, rolling on it"]
    assert sum(text.startswith("target ") for text in named) == 5
    after = checked(without(case, ["orange"]))
    assert "orange" not in after.bodies
    assert after.tracks == after.targets == ()
    assert after.groups == {"fruit": ("lemon",)}
    assert [u.path for u in after.unknowns] == ["bodies.lemon.mass"]
    assert after.unknowns[0].linked == ()
    assert without(case, ["board"]).bodies["lemon"].angular_velocity == (0.0, 0.0, 0.0)
    assert building.take_out(["orange"]).change(case) == after
    assert names_in(case, Target(outcome="apex", index=1, condition="happens", body="lemon")) == {"lemon"}
    table = case.model_copy(update={"targets": (), "tracks": (), "takes": ()})
    assert referring(table, ["padded plate"]) == []


def test_a_copy_stands_beside_and_carries_no_evidence():
    case = built()
    thrown = building.launch("orange", (1.0, 0.0, 0.0)).change(case)
    after = checked(building.duplicate("orange", "orange 2").change(thrown))
    copy = after.bodies["orange 2"]
    assert copy.velocity == (0.0, 0.0, 0.0)
    assert copy.position[0] - after.bodies["orange"].position[0] == pytest.approx(1.25 * 2 * copy.shapes[0].radius)
    assert (after.unknowns, after.tracks) == (thrown.unknowns, thrown.tracks)
    again = building.duplicate("orange", "orange 2", launch=True).change(thrown)
    assert again.bodies["orange 2"].velocity == (1.0, 0.0, 0.0)
    assert building.free_name(after, "orange") == "orange 3"


def test_a_body_is_moved_turned_thrown_and_rolls():
    case = built()
    turned = (sqrt(0.5), 0.0, sqrt(0.5), 0.0)
    after = building.move_body("orange", np.array([0.1, 0.2, 0.9]), turned).change(case)
    assert (after.bodies["orange"].position, after.bodies["orange"].orientation) == ((0.1, 0.2, 0.9), turned)
    after = building.launch("orange", LaunchAngles(speed=2.0, elevation=0.5)).change(after)
    assert after["bodies.orange.elevation"] == 0.5
    after = checked(building.roll_on("orange", "padded plate").change(after))
    assert after.bodies["orange"].angular_velocity == NaturalRoll(rolling_on="padded plate")
    assert building.roll_on("orange", None).change(after).bodies["orange"].angular_velocity == (0.0, 0.0, 0.0)
    assert building.change_body("orange", "set", hollow=True).change(after).bodies["orange"].hollow


def test_what_it_is_can_be_changed_and_back():
    case = built().model_copy(update={"takes": (), "tracks": (), "targets": ()})
    fixed = checked(building.set_kind("orange", "static").change(case))
    assert "bodies.orange.mass" not in [u.path for u in fixed.unknowns]
    keyed = building.change_body("orange", "path", motion="kinematic", velocity=(0.0, 0.0, 0.0), keyframes=(
        Keyframe(time=0.0, position=(0, 0, 1)), Keyframe(time=1.0, position=(1, 0, 1)))).change(case)
    free = building.set_kind("orange", "dynamic").change(keyed)
    assert (free.bodies["orange"].keyframes, free.bodies["orange"].position) == ((), (0.0, 0.0, 1.0))
    assert building.WORDS[building.set_kind("orange", "kinematic").change(free).bodies["orange"].motion] == "driven"


def test_skins_are_shared_copied_and_named_pairs_win():
    case = built()
    own = checked(building.wear("lemon", "lemon peel").change(case))
    assert own.surfaces["lemon peel"] == own.surfaces["rind"]
    assert own.bodies["lemon"].shapes[0].surface == "lemon peel"
    after = checked(building.set_effective("lemon peel", "pad", "friction", 0.9).change(own))
    acting = {v.quantity: v for v in effective_values(after) if set(v.surfaces) == {"lemon peel", "pad"}}
    assert (acting["friction"].value, acting["friction"].source) == (0.9, "named pair lemon peel+pad")
    again = building.set_effective("pad", "lemon peel", "friction", 0.2).change(after)
    assert len(again.pairs) == len(after.pairs)


def test_bodies_pass_through_those_that_are_named_and_meet_the_others():
    case = scene({"a": ball(position=(0, 0, 1)), "b": ball(position=(0, 0, 2)), "c": ball(position=(0, 0, 3)), "ground": floor()})
    after = checked(building.pass_through("a", ["b", "ground"]).change(case))

    def meet(one, two):
        groups = frozenset((after.bodies[one].group, after.bodies[two].group))
        return groups not in {frozenset(p) for p in after.collision_exclusions}

    assert [meet("a", other) for other in ("b", "c", "ground")] == [False, True, False]
    assert meet("b", "c")
    assert meet("b", "ground")
    after = building.pass_through("a", []).change(after)
    assert all(meet("a", other) for other in ("b", "c", "ground"))
    assert after.collision_exclusions == ()
