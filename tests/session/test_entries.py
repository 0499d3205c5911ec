"""Every number and choice of the case format can be reached and changed: the schema itself is walked."""

from __future__ import annotations

from math import radians
from typing import get_args

import pytest
from pydantic import BaseModel

from yapa.case import (
    Body,
    Box,
    Capsule,
    Case,
    Cylinder,
    Hull,
    Pair,
    Plane,
    Samples,
    Sphere,
    Surface,
    Target,
    Track,
    Unknown,
)
from yapa.case.constants import Constant
from yapa.case.curves import Curve
from yapa.case.importing import ImportSettings
from yapa.case.kept_scenes import KeptScene
from yapa.case.profiles import OverlapCorrection, Precise, Sleep, Stepped
from yapa.case.scene import Camera, Direction, Keyframe, LaunchAngles, NaturalRoll
from yapa.case.takes import Take
from yapa.case.trial_table import Measured, TrialTable
from yapa.case.unknowns import Estimate, Tie, Trial
from yapa.errors import InputError
from yapa.formats.target_text import parse_target
from yapa.session.entries import NOT_HERE, Entry, entries_of, set_entry

HULL = ((0.0, 0.0, 0.0), (0.1, 0.0, 0.0), (0.0, 0.1, 0.0), (0.0, 0.0, 0.1))


ASKED = ("lime hit with floor happens",
         "lime x at 0.5 = 1 ± 0.1", "lime miss of (1, 0, 0) at most 0.1",
         "lime inside (0, 0, 0) to (1, 1, 1) at least 0",
         "lime waypoints (0, 0, 1), (1, 0, 0) at most 0.1", "lime wholly inside camera shot at least 0",
         "lime contact order through floor, crate at least 0.01")


def rich() -> Case:
    """A case with one of every part that a case can have."""
    def ball(**fields):
        return Body(shapes=(Sphere(kind="sphere", radius=0.05),), **fields)

    bodies = {
        "floor": Body(motion="static", shapes=(Plane(kind="plane"),)),
        "crate": Body(shapes=(Box(kind="box", size=(0.3, 0.2, 0.2)), Capsule(kind="capsule", radius=0.02, length=0.1),
                              Cylinder(kind="cylinder", radius=0.02, length=0.1), Hull(kind="hull", points=HULL)),
                      position=(2.0, 0.0, 0.5)),
        "lemon": ball(group="loose", position=(0.0, 0.0, 1.0), velocity=LaunchAngles(speed=1.0, elevation=0.5, azimuth=0.1)),
        "lime": ball(position=(1.0, 0.0, 1.0), velocity=Direction(direction=(1.0, 0.0, 0.0), speed=1.0)),
        "orange": ball(position=(-1.0, 0.0, 0.05), velocity=(1.0, 0.0, 0.0), angular_velocity=NaturalRoll(rolling_on="floor")),
        "bar": Body(motion="kinematic", shapes=(Box(kind="box", size=(0.1, 0.1, 0.1)),), max_force=5.0,
                    keyframes=(Keyframe(time=0.0, position=(5.0, 0.0, 0.1)), Keyframe(time=1.0, position=(6.0, 0.0, 0.1)))),
    }
    path = "bodies.lemon.speed"
    return Case(
        title="rich", bodies=bodies, surfaces={"rind": Surface(), "default": Surface(), "pad": Surface()},
        pairs=(Pair(surfaces=("rind", "default")),),
        groups={"fruit": ("lemon", "lime")}, cameras={"shot": Camera(position=(0.0, -3.0, 1.0), aim=(0.0, 0.0, 0.0))},
        constants={"reaction_time": Constant(value=0.2)}, profile=Stepped(overlap_correction=OverlapCorrection(), sleep=Sleep()),
        tracks=(Track(name="film", body="lemon", samples=Samples(t=(0.0, 0.1, 0.2, 0.3, 0.4), z=(1.0, 0.9, 0.8, 0.7, 0.6))),
                Track(name="film 2", body="lime", samples=Samples(t=(0.0, 0.1, 0.2, 0.3, 0.4), z=(1.0, 0.9, 0.8, 0.7, 0.6)))),
        targets=(*(parse_target(text) for text in ASKED),
                 Target(outcome="rest time", body="lime", value=1.0, tolerance=0.1),
                 Target(outcome="rest time", body="fruit", each="all", condition="within", value=1.0, upper=2.0)),
        curves=(Curve(name="radar", body="lemon", quantity="speed", t=(0.0, 0.1, 0.2), y=(1.0, 1.2, 1.3)),
                Curve(name="ruler", body="lime", quantity="distance", point=(0.0, 0.0, 0.0), t=(0.0, 0.1, 0.2), y=(1.0, 1.2, 1.3))),
        table=TrialTable(columns={"height": (1.0, 2.0), "bounce": (0.5, 0.9)}, units={"height": "m"},
                         free_per={"height": ("bodies.lemon.speed",)}, settings={"bodies.lemon.position.z": "height"},
                         measured=(Measured(outcome="lemon apex 1", value="bounce"),)),
        takes=(Take(name="take 1", tracks=("film", "film 2"), values={"bodies.lime.gravity_multiplier": 0.9},
                    targets=(Target(outcome="apex", index=1, body="fruit", each="all", condition="within", value=1.0, upper=2.0),
                    )),),
        unknowns=(Unknown(path=path, low=0.1, high=5.0, linked=(Tie(path="bodies.lime.speed"),)),
                  Unknown(path="bodies.orange.velocity.x", low=0.0, high=3.0)))


def models(kind, found):
    """Every model that can stand in a case."""
    if isinstance(kind, type) and issubclass(kind, BaseModel) and kind not in found:
        found.add(kind)
        for field in kind.model_fields.values():
            models(field.annotation, found)
    for one in get_args(kind):
        models(one, found)
    return found


ELSEWHERE = {Trial, Estimate, Samples, ImportSettings, KeptScene}
"""parts of what NOT_HERE leaves out"""


def owner(case, where):
    """The part and the field that an entry belongs to."""
    part, found = case, ("", "")
    for key in where:
        if isinstance(part, BaseModel) and key in type(part).model_fields:
            found = type(part).__name__, key
            part = getattr(part, key)
        elif isinstance(part, dict | tuple) and key != "form":
            part = part[key]
    return found


def holds_parts(kind):
    return (isinstance(kind, type) and issubclass(kind, BaseModel)) or any(holds_parts(one) for one in get_args(kind))


def other(entry: Entry) -> list[str]:
    """Texts that may be another value of an entry."""
    if entry.choices:
        return [c for c in entry.choices if c != entry.text]
    try:
        return [f"{float(entry.text) * 0.9:.6g}" if float(entry.text) else "0.25", "2", "3", "5"]
    except ValueError:
        pass
    pieces = entry.text.split(", ")
    if len(pieces) > 1 and ";" not in entry.text and not any(c.isalpha() for c in entry.text):
        return [", ".join([*pieces[:-1], "0.125"]), ", ".join(["0.5", *pieces[1:]]), ", ".join(pieces[:-1])]
    rows = ["0, 0, 0; 0.2, 0, 0; 0, 0.2, 0; 0, 0, 0.2", "0, 0, 0; 2, 2, 2"]
    return [*rows, "0.5, 0.5, 0.5", "0.5", "2", "x", "lemon, lime", "lemon, orange", "lemon", "floor", "lime", "crate", "shot",
            "all, loose", "rind", "rind, pad", "any", "film 2, film", "another", "bodies.lime.gravity_multiplier",
            "bodies.orange.velocity.x",
            "bodies.lemon.gravity_multiplier",
            "bodies.lemon.speed", "lemon apex 1", "height", "film", "a word", "m", "2, 3, 4", "1"]


def changes(case: Case, entry: Entry) -> bool:
    for text in other(entry):
        try:
            after = set_entry(entry.where, text).change(case)
            after = Case.model_validate(after.model_dump())
        except (InputError, ValueError):
            continue
        if after != case and next(e.text for e in entries_of(after) if e.where == entry.where) != entry.text:
            return True
    return False


def test_every_field_of_every_part_of_a_case_has_an_entry_that_changes_it():
    held = {}  # (part, field) -> whether one of its entries can be changed
    for case in (rich(), rich().model_copy(update={"profile": Precise()})):
        for e in entries_of(case):
            key = owner(case, e.where)
            held[key] = held.get(key, False) or changes(case, e)
    assert [key for key, changed in held.items() if not changed] == []
    for model in models(Case, set()) - ELSEWHERE:
        for name, field in model.model_fields.items():
            if (model.__name__, name) in NOT_HERE or (len(get_args(field.annotation)) == 1 and name == "kind"):
                continue
            assert any(m == model.__name__ and f == name for m, f in held) or holds_parts(field.annotation), (model.__name__, name)


@pytest.mark.parametrize(("where", "text", "message"), [
    (("duration",), "soon", "a number"),
    (("duration",), "2 kg", "unit"),
    (("seed",), "1.5", "a whole number"),
    (("bodies", "floor", "motion"), "lazy", "dynamic or static or kinematic"),
    (("bodies", "floor", "hollow"), "perhaps", "yes or no"),
    (("profile", "form"), "quick", "precise or stepped"),
    (("bodies", "floor", "position"), "1, 2", "3 values with commas"),
])
def test_what_cannot_be_is_said(where, text, message):
    with pytest.raises(InputError, match=message):
        set_entry(where, text).change(rich())


def test_numbers_take_units_and_angles_are_in_degrees():
    case = rich()
    assert set_entry(("duration",), "1500 ms").change(case).duration == 1.5
    after = set_entry(("bodies", "lemon", "velocity", "elevation"), "45").change(case)
    assert after.bodies["lemon"].velocity.elevation == pytest.approx(radians(45))
    for text in ("4.5e1", "0.7853981633974483 rad"):
        other_way = set_entry(("bodies", "lemon", "velocity", "elevation"), text).change(case)
        assert other_way.bodies["lemon"].velocity.elevation == pytest.approx(radians(45))
    shown = {e.where: e for e in entries_of(after)}
    assert (shown["bodies", "lemon", "velocity", "elevation"].text, shown["duration",].unit) == ("45", "s")


def test_a_part_in_another_form_keeps_what_both_have():
    case = rich()
    after = set_entry(("bodies", "lemon", "shapes", 0, "form"), "capsule").change(case)
    assert after.bodies["lemon"].shapes[0].radius == 0.05
    after = set_entry(("bodies", "lemon", "velocity", "form"), "direction").change(case)
    assert after.bodies["lemon"].velocity.speed == 1.0
    assert set_entry(("profile", "sleep", "form"), "none").change(case).profile.sleep is None
