"""For every finding a case that shows it, a near miss that does not, and a mend after which it is gone."""

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa.case import Body, Box, Hull, Key, Pair, Plane, Precise, Sphere, Stepped, Surface, Target, Trial, Unknown
from yapa.engine import simulate
from yapa.findings import AFTER, BEFORE, check
from yapa.findings.base import Finding

SURFACES = {"both": Surface(restitution=0.5, friction=0.3)}


def box(size=(0.2, 0.2, 0.2), **body):
    return Body(shapes=(Box(kind="box", size=size, surface="both"),), **body)


def sheet(normal=(0.0, 0.0, 1.0)):
    return Body(motion="static", shapes=(Plane(kind="plane", normal=normal, surface="both", sides="one side"),))


def dropped(**more):
    return scene({"orange": ball(position=(0, 0, 0.5)), "plate": floor()}, restitution=0.5, friction=0.3, **more)


def hull(depth):
    cup = [(x, y, z) for x in (-0.1, 0.1) for y in (-0.1, 0.1) for z in (0.0, 0.1)] + [(0.0, 0.0, 0.1 - depth)]
    shapes = (Hull(kind="hull", points=tuple(cup), surface="both"),)
    return scene({"cup": Body(shapes=shapes, position=(0, 0, 0.5)), "plate": floor()})


def shelled(clearance):
    orange = Body(shapes=(Sphere(kind="sphere", radius=0.05, clearance=clearance),), position=(0, 0, 1))
    return scene({"orange": orange, "plate": floor()})


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
    orange = ball(position=(0, 0, 0.05), velocity=(0.5, 0, 0), spin=(0, 10.0, 0))
    return scene({"orange": orange, "plate": floor()}, duration=duration, friction=0.5, rolling_resistance=resistance)


def trialled(mass):
    case = dropped()
    kept = Trial(name="Trial 1", origin="by hand", values={"bodies.orange.mass": mass}, targets_met=0, targets=0,
                 outcomes={"orange apex 1": 0.5 ** 2 * 0.45})
    return case.model_copy(update={"trials": (kept,)})


def wanted(case, **target):
    return case.model_copy(update={"targets": (Target(**target),)})


def with_bar(turn=0.0, **body):
    half = np.radians(turn) / 2
    turned = (float(np.cos(half)), 0.0, 0.0, float(np.sin(half)))
    keys = (Key(time=0.0, position=(0.1, 0, 0.1)), Key(time=1.0, position=(0.4, 0, 0.1), orientation=turned))
    bar = Body(motion="kinematic", shapes=(Box(kind="box", size=(0.1, 0.5, 0.1)),), path=keys, **body)
    return scene({"orange": ball(position=(2, 0, 0.5)), "plate": floor(), "bar": bar})


def two_apart(y):
    return scene({"a": ball(position=(0, 0, 0.5)), "b": ball(position=(1, 0, 0.5)), "c": ball(position=(2, y, 0.5)), "p": floor()})


PRECISE_LATE = scene({"orange": ball(position=(-5, 0, 0.05), velocity=(1.0, 0, 0), gravity_multiplier=0.0),
                      "crate": box(position=(0, 0, 0.1), motion="static")}, duration=2.0)

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
    ("surface unused", dropped().model_copy(update={"surfaces": {**SURFACES, "net": Surface()}}), dropped(), True),
    ("value cancelled",
     unknown(dropped(), "surfaces.both.restitution", 0, 1, pairs=(Pair(between=("both", "both"), restitution=0.4),)),
     unknown(dropped(), "surfaces.both.restitution", 0, 1), True),
    ("restitution above one", scene({"orange": ball(position=(0, 0, 1)), "plate": floor()}, restitution=1.02),
     scene({"orange": ball(position=(0, 0, 1)), "plate": floor()}, restitution=0.98), True),
    ("restitution one", scene({"orange": ball(position=(0, 0, 1)), "plate": floor()}, restitution=1.0), dropped(), False),
    ("launch too late", PRECISE_LATE, PRECISE_LATE.model_copy(update={"duration": 6.0}), True),
    ("unit looks wrong", scene({"orange": ball(position=(0, 0, 1), mass=180.0), "plate": floor()}),
     scene({"orange": ball(position=(0, 0, 1), mass=0.18), "plate": floor()}), False),
    ("mass ratio", stepped({"a": box(mass=0.1, position=(0, 0, 0.1)), "b": box(mass=20.0, position=(0, 0, 0.3)), "p": floor()}),
     scene({"a": box(mass=0.1, position=(0, 0, 0.1)), "b": box(mass=20.0, position=(0, 0, 0.3)), "p": floor()}), True),
    ("step too long", thrown_at_wall(10.0), thrown_at_wall(2.0), True),
    ("under the cut-off", stepped({"orange": ball(position=(0, 0, 0.0515)), "plate": floor()}, cutoff_speed=0.5),
     stepped({"orange": ball(position=(0, 0, 0.25)), "plate": floor()}, cutoff_speed=0.5), True),
    ("number per step", damped(damping="factor per step"), damped(), True),
    ("launch ignored", with_bar(velocity=(0.5, 0, 0)), with_bar(), True),
    ("start beside the path", with_bar(position=(0.3, 0, 0.1)), with_bar(position=(0.1, 0, 0.1)), True),
    ("turns the short way", with_bar(turn=270.0), with_bar(turn=170.0), False),
]

WALLED = {"orange": ball(position=(0, 0, 0.05), velocity=(2.0, 0, 0)), "plate": floor(),
          "wall": box((0.1, 2, 2), motion="static", position=(0.5, 0, 1.05))}
FALLING = {**WALLED, "orange": ball(position=(0, 0, 0.3), velocity=(2.0, 0, 0))}
AFTER_CASES = [
    ("no effect", unknown(dropped(), "bodies.orange.mass", 0.1, 10.0), unknown(dropped(), "surfaces.both.restitution", 0.0, 1.0),
     False),
    ("same as before", trialled(2.0), trialled(1.0), False),
    ("energy grew", scene({"orange": ball(position=(0, 0, 1)), "plate": floor()}, restitution=1.2), dropped(), False),
    ("rolls for ever", rolling(0.0), rolling(0.02), True),
    ("never rests", wanted(dropped(duration=0.6), outcome="rest time", value=1.0, tolerance=0.1),
     wanted(dropped(duration=3.0), outcome="rest time", value=1.0, tolerance=0.1), True),
    ("went the other way", scene(WALLED, restitution=0.8, duration=1.0), scene(WALLED, restitution=0.8, duration=0.2), False),
    ("missed", wanted(scene(WALLED, duration=0.1), outcome="hit", partner="wall", condition="happens"),
     wanted(scene(WALLED, duration=1.0), outcome="hit", partner="wall", condition="happens"), False),
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
    assert not found(case.model_copy(update={"dismissed": (key,)}), "no gravity")


def test_every_check_is_tried_and_says_things_in_words():
    assert len(BEFORE) + len(AFTER) >= 25
    for kind, shows, _, _ in CASES:
        for finding in found(shows, kind):
            assert isinstance(finding, Finding)
            assert str(finding).endswith(".")
            assert finding.weight in ("trouble", "note")


def test_a_sound_case_has_no_trouble():
    case = dropped(duration=3.0)
    assert not [f for f in check(case, simulate(case)) if f.weight == "trouble"]
    assert isinstance(case.profile, Precise)
