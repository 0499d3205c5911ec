"""For every finding a case that shows it, a near miss that does not, and a mend after which it is gone."""

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa.case import Body, Box, Cylinder, Hull, Keyframe, Pair, Pairing, Plane, Sphere, Stepped, Surface, Target, Trial, Unknown
from yapa.case.evidence import Samples, Track
from yapa.demo import DATA
from yapa.engine import simulate
from yapa.findings import check, registry
from yapa.formats.case_file import load_case as load_whole

SURFACES = {"both": Surface(restitution=0.5, friction=0.3)}


def box(size=(0.2, 0.2, 0.2), **body):
    return Body(shapes=(Box(kind="box", size=size, surface="both"),), **body)


def sheet(normal=(0.0, 0.0, 1.0)):
    return Body(motion="static", shapes=(Plane(kind="plane", normal=normal, surface="both", side="one_sided"),))


def dropped(**more):
    return scene({"orange": ball(position=(0, 0, 0.5)), "plate": floor()}, restitution=0.5, friction=0.3, **more)


def hull(depth):
    cup = [(x, y, z) for x in (-0.1, 0.1) for y in (-0.1, 0.1) for z in (0.0, 0.1)] + [(0.0, 0.0, 0.1 - depth)]
    shapes = (Hull(kind="hull", points=tuple(cup), surface="both"),)
    return scene({"cup": Body(shapes=shapes, position=(0, 0, 0.5)), "plate": floor()})


def cup(wall, bottom=True):
    """A square cup, open at the top, of walls this thick; without it a solid block."""
    def rim(half, z):
        return [(x, y, z) for x in (-half, half) for y in (-half, half)]

    points = [*rim(0.1, 0.0), *rim(0.1, 0.2), *(rim(0.1 - wall, wall) + rim(0.1 - wall, 0.2) if bottom else [])]
    shapes = (Hull(kind="hull", points=tuple(points), surface="both"),)
    return scene({"cup": Body(shapes=shapes, position=(0, 0, 0.5)), "plate": floor()})


def shelled(clearance):
    orange = Body(shapes=(Sphere(kind="sphere", radius=0.05, contact_margin=clearance),), position=(0, 0, 1))
    return scene({"orange": orange, "plate": floor()})


def lifted(**more):
    surfaces = {"soft": Surface(restitution=0.0), "rind": Surface(restitution=0.8)}
    orange = Body(shapes=(Sphere(kind="sphere", radius=0.05, surface="rind"),), position=(0, 0, 0.5))
    pad = Body(motion="static", shapes=(Plane(kind="plane", surface="soft"),))
    return dropped().model_copy(update={"surfaces": surfaces, "bodies": {"orange": orange, "pad": pad}, **more})


def damped(**profile):
    return stepped({"orange": ball(position=(0, 0, 0.5), linear_damping=0.1), "plate": floor()}, **profile)


def stepped(bodies, **profile):
    return scene(bodies, restitution=0.5, friction=0.3, profile=Stepped(**profile))


def thrown_at_wall(speed, **profile):
    wall = box((0.01, 2.0, 2.0), motion="static", position=(2.0, 0, 1.0))
    return stepped({"orange": ball(0.02, position=(0, 0, 1.0), velocity=(speed, 0, 0)), "wall": wall}, **profile)


def unknown(case, path, low, high, **more):
    return case.model_copy(update={"unknowns": (Unknown(path=path, low=low, high=high),), **more})


def rolling(resistance, duration=1.0):
    orange = ball(position=(0, 0, 0.05), velocity=(0.5, 0, 0), angular_velocity=(0, 10.0, 0))
    return scene({"orange": orange, "plate": floor()}, duration=duration, friction=0.5, rolling_resistance=resistance)


def trialled(mass):
    case = dropped()
    kept = Trial(name="Trial 1", source="by hand", values={"bodies.orange.mass": mass}, targets_met=0, targets=0,
                 outcomes={"orange apex 1": 0.5 ** 2 * 0.45})
    return case.model_copy(update={"trials": (kept,)})


def wanted(case, **target):
    return case.model_copy(update={"targets": (Target(**target),)})


def with_bar(turn=0.0, far=0.3, seconds=1.0, **body):
    half = np.radians(turn) / 2
    turned = (float(np.cos(half)), 0.0, 0.0, float(np.sin(half)))
    keys = (Keyframe(time=0.0, position=(0.1, 0, 0.1)), Keyframe(time=seconds, position=(0.1 + far, 0, 0.1), orientation=turned))
    bar = Body(motion="kinematic", shapes=(Box(kind="box", size=(0.1, 0.5, 0.1)),), keyframes=keys, **body)
    return scene({"orange": ball(position=(2, 0, 0.5)), "plate": floor(), "bar": bar})


def nudged(speed):
    """Two crates; the first slides into the second."""
    crates = {"a": box(position=(0, 0, 0.1), velocity=(speed, 0, 0)), "b": box(position=(0.21, 0, 0.1)), "plate": floor()}
    return scene(crates, restitution=0.5, friction=0.0, profile=Stepped(restitution_threshold=0.3))


def two_apart(y):
    return scene({"a": ball(position=(0, 0, 0.5)), "b": ball(position=(1, 0, 0.5)), "c": ball(position=(2, y, 0.5)), "p": floor()})


PRECISE_LATE = scene({"orange": ball(position=(-5, 0, 0.05), velocity=(1.0, 0, 0), gravity_multiplier=0.0),
                      "crate": box(position=(0, 0, 0.1), motion="static")}, duration=2.0)

WALLED = {"orange": ball(position=(0, 0, 0.05), velocity=(2.0, 0, 0)), "plate": floor(),
          "wall": box((0.1, 2, 2), motion="static", position=(0.5, 0, 1.05))}
FALLING = {**WALLED, "orange": ball(position=(0, 0, 0.3), velocity=(2.0, 0, 0))}


def excluded(groups):
    """A ball rolls to a wall; two groups pass through each other."""
    group = {"orange": "fruit", "wall": "walls", "plate": "floors"}
    bodies = {name: body.model_copy(update={"group": group[name]}) for name, body in WALLED.items()}
    return scene(bodies).model_copy(update={"collision_exclusions": (groups,)})


def tracked(aside):
    """A ball whose track begins so far beside it [m]."""
    t = np.arange(0.0, 0.4, 0.01)
    samples = Samples(t=tuple(t), x=tuple(aside + 0 * t), z=tuple(0.5 - 4.9 * t * t))
    track = Track(body="orange", name="film", samples=samples, sigma=1e-3)
    return dropped().model_copy(update={"tracks": (track,)})


# kind, a case that shows it, a near miss, whether a mend is offered
BEFORE_CASES = [
    ("nothing moves", scene({"crate": box(motion="static"), "plate": floor()}), dropped(), True),
    ("no force acts", dropped(gravity=0.0), scene({"orange": ball(velocity=(1, 0, 0)), "plate": floor()}, gravity=0.0), True),
    ("weightless", scene({"orange": ball(position=(0, 0, 1), gravity_multiplier=0.0), "plate": floor()}),
     scene({"orange": ball(position=(0, 0, 1), gravity_multiplier=0.5), "plate": floor()}), True),
    ("no gravity", dropped(gravity=0.0), dropped(gravity=0.1), True),
    ("nothing to meet", scene({"orange": ball()}), dropped(), False),
    ("face turned away", scene({"orange": ball(position=(0, 0, 1)), "sheet": sheet((0, 0, -1.0))}),
     scene({"orange": ball(position=(0, 0, 1)), "sheet": sheet()}), True),
    ("hollow filled", hull(0.06), hull(0.0), False),
    ("clearance too large",
     shelled(0.06), shelled(0.04), True),
    ("overlap at start", scene({"orange": ball(position=(0, 0, 0.04)), "plate": floor()}),
     scene({"orange": ball(position=(0, 0, 0.05)), "plate": floor()}), True),
    ("hair above support", scene({"orange": ball(position=(0, 0, 0.051)), "plate": floor()}),
     scene({"orange": ball(position=(0, 0, 0.055)), "plate": floor()}), True),
    ("off the plane", two_apart(0.02), two_apart(0.0), True),
    ("off its track", tracked(0.3), tracked(0.01), True),
    ("surface unused", dropped().model_copy(update={"surfaces": {**SURFACES, "net": Surface()}}), dropped(), True),
    ("value cancelled",
     unknown(dropped(), "surfaces.both.restitution", 0, 1, pairs=(Pair(surfaces=("both", "both"), restitution=0.4),)),
     unknown(dropped(), "surfaces.both.restitution", 0, 1), True),
    ("value hidden",
     dropped().model_copy(update={"pairs": (Pair(surfaces=("both", "both"), restitution=0.4),),
                                  "surfaces": {"both": Surface(restitution=0.7, friction=0.3)}}),
     dropped(), False),
    ("passes through", wanted(excluded(("fruit", "walls")), outcome="hit", partner="wall", condition="happens"),
     wanted(excluded(("fruit", "floors")), outcome="hit", partner="wall", condition="happens"), True),
    ("restitution above one", scene({"orange": ball(position=(0, 0, 1)), "plate": floor()}, restitution=1.02),
     scene({"orange": ball(position=(0, 0, 1)), "plate": floor()}, restitution=0.98), True),
    ("restitution lifted", lifted(), lifted(pairs=(Pair(surfaces=("soft", "rind"), restitution=0.3),)), True),
    ("restitution one", scene({"orange": ball(position=(0, 0, 1)), "plate": floor()}, restitution=1.0), dropped(), False),
    ("launch too late", PRECISE_LATE, PRECISE_LATE.model_copy(update={"duration": 6.0}), True),
    ("unit looks wrong", scene({"orange": ball(position=(0, 0, 1), mass=180.0), "plate": floor()}),
     scene({"orange": ball(position=(0, 0, 1), mass=0.18), "plate": floor()}), False),
    ("mass ratio", stepped({"a": box(mass=0.1, position=(0, 0, 0.1)), "b": box(mass=20.0, position=(0, 0, 0.3)), "p": floor()}),
     scene({"a": box(mass=0.1, position=(0, 0, 0.1)), "b": box(mass=20.0, position=(0, 0, 0.3)), "p": floor()}), True),
    ("step too long", thrown_at_wall(10.0), thrown_at_wall(2.0), True),
    ("under the cut-off", stepped({"orange": ball(position=(0, 0, 0.0515)), "plate": floor()}, restitution_threshold=0.5),
     stepped({"orange": ball(position=(0, 0, 0.25)), "plate": floor()}, restitution_threshold=0.5), True),
    ("number per step", damped(damping="per_step"), damped(), True),
    ("launch ignored", with_bar(velocity=(0.5, 0, 0)), with_bar(), True),
    ("start beside the path", with_bar(position=(0.3, 0, 0.1)), with_bar(position=(0.1, 0, 0.1)), True),
    ("path too fast", with_bar(far=2.0, seconds=0.01), with_bar(far=2.0, seconds=0.1), True),
    ("launch away from its target", wanted(scene({**WALLED, "orange": ball(position=(0, 0, 0.05), velocity=(-2.0, 0, 0))}),
                                           outcome="hit",
                                           partner="wall", condition="happens"),
     wanted(scene(WALLED), outcome="hit", partner="wall", condition="happens"), True),
    ("turns the short way", with_bar(turn=270.0), with_bar(turn=170.0), False),
]

def on_deck(deck, spin=8.0, **body):
    """A can that lies across and rolls on a deck, whose top is at z = 0."""
    can = Body(shapes=(Cylinder(kind="cylinder", radius=0.05, length=0.2, orientation=(0.5**0.5, 0.5**0.5, 0, 0), surface="both"),),
               mass=0.5, position=(0, 0, 0.05), velocity=(0.05 * spin, 0, 0), angular_velocity=(0, spin, 0))
    return scene({"can": can, "deck": deck.model_copy(update=body)}, friction=0.5, duration=1.0)


DECK = box((4.0, 4.0, 0.2), motion="static", position=(0, 0, -0.1))
DRUM = Body(motion="static", shapes=(Cylinder(kind="cylinder", radius=2.0, length=0.5, orientation=(0.5**0.5, 0.5**0.5, 0, 0),
                                              surface="both"),), position=(0, 0, -2.0))
AFTER_CASES = [
    ("rolls on corners", on_deck(DRUM), on_deck(DECK), False),
    ("no effect", unknown(dropped(), "bodies.orange.mass", 0.1, 10.0), unknown(dropped(), "surfaces.both.restitution", 0.0, 1.0),
     False),
    ("same as before", trialled(2.0), trialled(1.0), False),
    ("energy grew", scene({"orange": ball(position=(0, 0, 1)), "plate": floor()}, restitution=1.2), dropped(), False),
    ("rolls for ever", rolling(0.0), rolling(0.02), True),
    ("never rests", wanted(dropped(duration=0.6), outcome="rest time", value=1.0, tolerance=0.1),
     wanted(dropped(duration=3.0), outcome="rest time", value=1.0, tolerance=0.1), True),
    ("went the other way", scene(WALLED, restitution=0.8, duration=1.0), scene(WALLED, restitution=0.8, duration=0.2), False),
    ("under the cut-off", nudged(0.28), nudged(0.5), True),
    ("too far apart", wanted(scene(WALLED, duration=0.1), outcome="hit", partner="wall", condition="happens"),
     wanted(scene(WALLED, duration=1.0), outcome="hit", partner="wall", condition="happens"), True),
    ("target missed", unknown(wanted(dropped(), outcome="apex", index=1, value=0.3, tolerance=0.01), "surfaces.both.restitution",
                              0.1, 0.95),
     wanted(dropped(), outcome="peak speed", condition="at least", value=1.0, tolerance=0.1), True),
    ("left the scene",
     scene({"orange": ball(position=(0, 0, 1)), "shelf": box((0.1, 0.1, 0.02), motion="static", position=(1, 0, 0))}),
     dropped(), False),
    ("other contacts", wanted(scene(FALLING, restitution=0.8), outcome="contacts", value=1.0, tolerance=0.5),
     wanted(dropped(), outcome="contacts", value=1.0, tolerance=0.5), False),
]
CASES = BEFORE_CASES + AFTER_CASES


def found(case, kind):
    motion = simulate(case) if kind in {row[0] for row in AFTER_CASES} else None
    return [finding for finding in check(case, motion) if finding.kind == kind]


@pytest.mark.parametrize(("kind", "shows", "near_miss", "has_mend"), CASES, ids=[row[0] for row in CASES])
def test_a_finding_is_told_where_it_holds_and_not_where_it_nearly_does(kind, shows, near_miss, has_mend):
    here = found(shows, kind)
    assert here
    assert not found(near_miss, kind)
    assert (here[0].mend is not None) is has_mend
    assert len(here[0].cause) > 15


@pytest.mark.parametrize(("kind", "shows", "near_miss", "has_mend"), [row for row in CASES if row[3]],
                         ids=[row[0] for row in CASES if row[3]])
def test_a_mend_makes_the_finding_go_away(kind, shows, near_miss, has_mend):
    finding = found(shows, kind)[0]
    mended = finding.mend.apply(shows)
    assert finding.key not in [f.key for f in found(mended, kind)]


def test_a_finding_can_be_dismissed_for_the_case():
    case = dropped(gravity=0.0)
    key = found(case, "no gravity")[0].key
    assert not found(case.model_copy(update={"ignored_findings": (key,)}), "no gravity")


def test_every_finding_says_things_in_words():
    for kind, shows, _, _ in CASES:
        for finding in found(shows, kind):
            assert str(finding).endswith(".")
            assert finding.severity in ("trouble", "note")


def test_a_can_that_stands_and_spins_on_its_flat_end_rolls_on_nothing():
    can = Body(shapes=(Cylinder(kind="cylinder", radius=0.05, length=0.1, surface="both"),), mass=0.5, position=(0, 0, 0.05),
               angular_velocity=(0, 0, 30.0))
    case = scene({"can": can, "deck": DECK}, friction=0.1, duration=0.5)
    motion = simulate(case)
    assert motion.contact_intervals_of("can")
    assert float(motion.states[-1, motion.names.index("can"), 12]) > 10.0
    assert not found(case, "rolls on corners")


def test_the_rule_that_lifts_restitution_is_told_with_its_numbers_and_not_where_it_does_not():
    (told,) = found(lifted(), "restitution lifted")
    assert (told.about, told.cause) == ("rind+soft", "restitution is the mean of rind 0.8 and soft 0: 0.4")
    assert not found(lifted(pairing=Pairing(restitution="smaller")), "restitution lifted")
    assert not found(lifted(pairing=Pairing(restitution="product")), "restitution lifted")


def test_what_fell_out_is_told_with_its_cause():
    shelf = box((0.2, 0.2, 0.02), motion="static", position=(0, 0, 0))
    rolls_off = scene({"orange": ball(position=(0, 0, 0.06), velocity=(0.5, 0, 0)), "shelf": shelf}, restitution=0.0)
    (fell,) = found(rolls_off, "left the scene")
    assert "it last touched shelf at 0.2" in fell.cause
    beside = scene({"orange": ball(position=(1, 0, 0.06)), "shelf": shelf})
    (fell,) = found(beside, "left the scene")
    assert "it touched nothing on its way" in fell.cause
    bodies = {"orange": ball(position=(0, 0, 0.06), group="fruit"), "shelf": shelf.model_copy(update={"group": "shelves"})}
    apart = scene(bodies).model_copy(update={"collision_exclusions": (("fruit", "shelves"),)})
    (fell,) = found(apart, "left the scene")
    assert "its collisions with shelf are excluded" in fell.cause


def test_a_body_beside_its_track_is_moved_to_it_or_the_track_to_the_body():
    case = tracked(0.3)
    found = next(f for f in check(case) if f.kind == "off its track")
    assert found.mend.apply(case).bodies["orange"].position == pytest.approx((0.3, 0.0, 0.5))
    (other,) = found.also
    moved = other.apply(case)
    assert moved.tracks[0].translation == pytest.approx((-0.3, 0.0, 0.0))
    assert "off its track" not in {f.kind for f in check(moved)}
    sought = unknown(case, "bodies.orange.position.x", -1, 1)
    assert "off its track" not in {f.kind for f in check(sought)}
    height = unknown(case, "bodies.orange.position.z", 0.3, 0.7)  # along x it is beside its track all the same
    found = next(f for f in check(height) if f.kind == "off its track")
    assert found.mend.apply(height).bodies["orange"].position == pytest.approx((0.3, 0.0, 0.5))


def test_a_hull_fills_the_hollow_behind_a_thin_wall():
    (told,) = found(cup(0.004), "hollow filled")
    assert "a second face lies 0.004 m inside the convex hull" in told.cause
    assert not found(cup(0.004, bottom=False), "hollow filled")
    way = np.random.default_rng(1).normal(size=(60, 3))
    rough = way / np.linalg.norm(way, axis=1)[:, None] * np.random.default_rng(2).uniform(0.097, 0.1, 60)[:, None]
    stone = Body(shapes=(Hull(kind="hull", points=tuple(map(tuple, rough.tolist())), surface="both"),), position=(0, 0, 0.5))
    assert not found(scene({"stone": stone, "plate": floor()}), "hollow filled")


def test_a_hidden_number_is_told_with_the_rule_that_hides_it():
    rule = lifted(pairing=Pairing(friction="smaller"))
    surfaces = {"soft": Surface(friction=0.3), "rind": Surface(friction=0.9)}
    (told,) = found(rule.model_copy(update={"surfaces": surfaces}), "value hidden")
    assert (told.about, told.cause) == ("surfaces.rind.friction", "the pairing rule takes the other side's friction")


def test_no_effect_of_a_restitution_never_says_that_nothing_bounces_where_something_does():
    hidden = unknown(dropped(), "surfaces.both.restitution", 0, 1, pairs=(Pair(surfaces=("both", "both"), restitution=0.4),))
    (told,) = found(hidden, "no effect")
    assert told.cause == "the named pair both+both has its own restitution"
    slow = unknown(nudged(0.28), "surfaces.both.restitution", 0.1, 0.9)
    (told,) = found(slow, "no effect")
    assert told.cause == "the fastest contact there is at 0.28 m/s, and nothing bounces below the cut-off speed, 0.3 m/s"


def test_a_hit_that_is_missed_names_how_near_it_came_and_the_number_that_meets_it():
    short = scene({**WALLED, "orange": ball(position=(0, 0, 0.05), velocity=(0.5, 0, 0))}, duration=0.5)
    case = unknown(wanted(short, outcome="hit", partner="wall", condition="happens"), "bodies.orange.velocity.x", 0.1, 3.0)
    (told,) = found(case, "target missed")
    assert "it comes nearest" in told.cause
    assert not found(told.mend.apply(case), "target missed")


def test_a_sound_case_has_no_trouble():
    case = dropped(duration=3.0)
    assert not [f for f in check(case, simulate(case)) if f.severity == "trouble"]


def test_notes_of_one_kind_are_one_with_every_body_listed_and_mended_together():
    bodies = {f"orange {k}": ball(position=(0.5 * k, 0, 0.05), velocity=(1.0 + 0.2 * k, 0, 0),
                                  angular_velocity=(0, 20.0 + 4 * k, 0))
              for k in range(4)}
    case = scene(bodies | {"plate": floor()}, duration=1.0, friction=0.5)
    (rolls,) = found(case, "rolls for ever")
    assert all(name in rolls.about for name in bodies)
    after = rolls.mend.apply(case)
    assert not found(after, "rolls for ever")
    assert not found(case.model_copy(update={"ignored_findings": (rolls.key,)}), "rolls for ever")
    (rests,) = found(case, "never rests")
    assert rests.about == rolls.about


def test_a_merged_mend_makes_the_clip_as_long_as_the_longest_wants():
    from yapa.findings.base import Finding, Mend, set_duration
    from yapa.findings.merging import merged
    from yapa.motion.info import Severity

    notes = [Finding("late", f"b{k}", "it is late", f"by {k} s", Severity.NOTE, Mend(f"{t} s", set_duration(t)))
             for k, t in enumerate((3.0, 2.0))]
    (one,) = merged(notes)
    assert (one.about, one.cause) == ("b0 and b1", "b0: by 0 s; the others alike")
    assert one.mend.apply(dropped()).duration == 3.0
    assert merged(notes[:1]) == notes[:1]


def test_trouble_is_never_merged():
    fast = with_bar(far=2.0, seconds=0.01)
    case = fast.model_copy(update={"bodies": {**fast.bodies, "second bar": fast.bodies["bar"], "third bar": fast.bodies["bar"]}})
    assert sorted(f.about for f in check(case) if f.kind == "path too fast") == ["bar", "second bar", "third bar"]


@pytest.mark.faults
def test_a_check_that_fails_is_told_and_the_others_stand(monkeypatch):
    def broken(_case):
        raise IndexError("nothing there")
        yield

    case = load_whole(DATA / "orange-drop.yapa")[0]
    before = [f.kind for f in registry.check(case)]
    monkeypatch.setattr(registry, "BEFORE", [broken, *registry.BEFORE])
    found = registry.check(case)
    assert [f.kind for f in found if f.kind != "not checked"] == before
    (failed,) = [f for f in found if f.kind == "not checked"]
    assert "nothing there" in failed.cause


def test_unknowns_of_a_scene_in_which_nothing_moves_are_looked_at_without_a_fault():
    case = load_whole(DATA / "orange-drop.yapa")[0]
    orange = case.bodies["orange"].model_copy(update={"motion": "static"})
    unknowns = tuple(u for u in case.unknowns if not u.path.startswith("bodies."))
    still = case.model_copy(update={"bodies": {**case.bodies, "orange": orange}, "tracks": (), "trials": (), "scenes": {},
                                    "unknowns": unknowns})
    found = registry.check(still, simulate(still))
    assert "nothing moves" in [f.kind for f in found]
    assert "not checked" not in [f.kind for f in found]
