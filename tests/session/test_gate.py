"""One gate: no edit makes a case that a file could not hold; what is refused is said, and the case before it stays."""

from __future__ import annotations

import os

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from yapa.case import Case
from yapa.case.bounds import MAX_POSITION
from yapa.case.quantity_text import number_in, plain_number
from yapa.case.scene import Pair, Surface
from yapa.demo import DATA
from yapa.errors import InputError, YapaError
from yapa.formats.case_json import case_text, parse_case
from yapa.formats.target_text import parse_target
from yapa.session import edits
from yapa.session.building import arranging, asking, assembling, driven_paths, scene_edits, target_marks, whole_scene
from yapa.session.building.stock import STOCK, thing_named
from yapa.session.building.weights import give_other
from yapa.session.demo_cases import is_shipped
from yapa.session.edits import Edit
from yapa.session.entries import entries_of, set_entry

ODD = (float("nan"), float("inf"), -float("inf"), 1e300, -1e7)


def raw(name, **changes):
    """An edit of a body whose values nobody checks."""
    return Edit("raw", lambda c: c.model_copy(update={"bodies": {**c.bodies, name: c.bodies[name].model_copy(update=changes)}}))


@pytest.mark.parametrize("value", ODD)
@pytest.mark.parametrize("build", [
    lambda v: scene_edits.move_body("orange", np.array([v, 0.0, 1.0])),
    lambda v: raw("orange", velocity=(0.0, v, 0.0)),
    lambda v: Edit("raw", lambda c: c.model_copy(update={"surfaces": {**c.surfaces, "odd": Surface().model_copy(
        update={"friction": v})}})),
    lambda v: Edit("raw", lambda c: c.model_copy(update={
        "pairs": tuple(p.model_copy(update={"restitution": v}) for p in c.pairs)})),
    lambda v: Edit("raw", lambda c: c.model_copy(update={"duration": v})),
    lambda v: Edit("raw", lambda c: c.model_copy(update={"tracks": tuple(t.model_copy(update={"translation": (0.0, 0.0, v)})
                                                                         for t in c.tracks)})),
])
def test_a_number_that_no_file_holds_is_refused_with_its_path(desk, build, value):
    before = desk.case
    if not before.pairs:
        desk.make(Edit("pair", lambda c: c.model_copy(update={"pairs": (Pair(surfaces=("default", "default")),)})))
        before = desk.case
    assert not desk.make(build(value))
    assert desk.case is before
    assert "expected" in desk.troubles[-1]
    assert any(part in desk.troubles[-1] for part in ("bodies.orange", "surfaces.odd", "pairs.0", "duration", "tracks.0"))


def test_a_body_that_gets_its_copy_after_an_odd_number_stays_savable(desk):
    assert not desk.make(raw("orange", position=(float("inf"), 0.0, 0.0)))
    assert desk.make(scene_edits.duplicate("orange", "twin"))
    assert parse_case(case_text(desk.case), "saved").bodies["twin"] == desk.case.bodies["twin"]


def test_a_value_below_its_bound_never_gets_into_a_pair(desk):
    assert not desk.make(scene_edits.type_effective("default", "default", "restitution", "-0.764"))
    assert not desk.make(scene_edits.type_effective("default", "default", "restitution", "nan"))
    assert desk.make(scene_edits.type_effective("default", "default", "restitution", "0,764"))
    assert desk.case.pairs[-1].restitution == 0.764


@pytest.mark.parametrize("text", ["0", "1.5", "-1"])
def test_a_cut_off_that_cannot_be_is_refused_in_words(desk, text):
    where = next(e.where for e in entries_of(desk.case) if e.where[-1] == "restitution_threshold")
    desk.set_number("profile.restitution_threshold", float(text))
    assert (desk.troubles and "restitution_threshold" in desk.troubles[-1]) or get_of(desk.case, where) == float(text)


def get_of(case, where):
    part = case
    for key in where:
        part = getattr(part, key) if isinstance(key, str) and hasattr(part, key) else part[key]
    return part


def test_what_is_made_before_there_is_an_edit_is_refused_in_words_too(desk):
    flat = np.zeros(3)
    assert not desk.make_from(lambda: asking.want([target_marks.end_inside("orange", flat, flat)]))
    desk.notes.path = [(0.0, (0.0, 0.0, 1.0)), (0.03, (0.0, 0.0, 0.9))]
    assert not desk.notes.end_path(0.01)
    assert len(desk.troubles) == 2
    assert not desk.make_from(lambda: None)


def test_a_range_of_a_number_that_is_no_unknown_any_more_is_refused_in_words(desk):
    path = desk.case.unknowns[0].path
    assert desk.make(edits.remove_unknown(path))
    assert not desk.make(edits.set_range(path, 0.1, 0.2))
    assert "free it first" in desk.troubles[-1]


TEXTS = st.one_of(
    st.text(max_size=12), st.floats().map(str), st.integers(-10**400, 10**400).map(str),
    st.sampled_from(["nan", "inf", "-Infinity", "1e999", "-1e999 cm", "1e308 km", "١٢", "0x10", "1_000", "∞", "NaN m", "", " ",
                     "−3"]))


@settings(deadline=None, max_examples=300)
@given(TEXTS)
def test_no_text_becomes_nan_or_infinity(text):
    for read in (lambda: plain_number(text, "it"), lambda: number_in(text, "m", "it")):
        words, value = "expected", 0.0
        try:
            value = read()
        except InputError as error:
            words = str(error)
        assert np.isfinite(value)
        assert "expected" in words


@settings(deadline=None, max_examples=60)
@given(st.data())
def test_every_entry_takes_a_text_or_refuses_it_and_what_it_makes_can_be_saved_and_loaded(data):
    case = rich_case()
    entry = data.draw(st.sampled_from(entries_of(case)))
    try:
        after = set_entry(entry.where, data.draw(TEXTS)).applied(case)
    except InputError:
        return
    assert parse_case(case_text(after), "saved") == parse_case(case_text(after), "again")
    assert case_text(parse_case(case_text(after), "saved")) == case_text(after)


def rich_case() -> Case:
    """A scene with a body of every thing of the stock that has one, a path, a camera and a profile."""
    case = Case(title="rich", bodies={})
    for k, name in enumerate(("floor", "ball", "crate", "can")):
        case = scene_edits.put_in(thing_named(name), name, np.array([0.4 * k, 0.0, 0.0]), np.array([0.0, 0.0, 1.0])).applied(case)
    case = scene_edits.set_kind("crate", "kinematic").applied(case)
    case = driven_paths.give_path("crate").applied(case) if not case.bodies["crate"].keyframes else case
    return whole_scene.set_profile("precise").applied(case)


def test_only_what_changed_is_validated_anew():
    case = rich_case()
    after = scene_edits.move_body("ball", np.array([0.1, 0.2, MAX_POSITION])).applied(case)
    assert after.bodies["can"] is case.bodies["can"]


def test_what_comes_to_be_driven_stands_still_until_it_has_a_path(desk):
    assert desk.make(scene_edits.set_kind("orange", "kinematic"))
    (key,) = desk.case.bodies["orange"].keyframes
    assert key.position == desk.case.bodies["orange"].position
    assert desk.make(driven_paths.give_path("orange"))
    assert len(desk.case.bodies["orange"].keyframes) == 2


def test_a_case_that_ships_is_opened_as_a_copy_and_never_saved_over(desk, ear, tmp_path):
    shipped = DATA / "orange-drop.yapa"
    assert is_shipped(shipped)
    assert is_shipped(shipped.parent / ".." / "data" / "orange-drop.yapa")
    assert not is_shipped(tmp_path / "orange-drop.yapa")
    before = shipped.read_bytes()
    desk.opener.load(shipped)
    ear.until(lambda: desk.jobs.idle)
    assert desk.case.title == "Orange drop"
    assert desk.path is None
    assert all(track.file is None for track in desk.case.tracks)
    desk.saver.save(shipped, overwrite=True)
    ear.until(lambda: desk.jobs.idle)
    assert shipped.read_bytes() == before
    assert "ships with Yapa" in desk.troubles[-1]


OPERATIONS = {
    "duplicate": lambda a, b: scene_edits.duplicate(a, "twin"),
    "duplicate with its launch": lambda a, b: scene_edits.duplicate(a, "twin", launch=True),
    "copies": lambda a, b: arranging.copies(a, (2, 1, 2), (0.3, 0.0, 0.4)),
    "scatter": lambda a, b: arranging.scatter(a, 3, (-1.0, -1.0, 0.0), (1.0, 1.0, 1.0), 1),
    "scatter sizes": lambda a, b: arranging.scatter(a, 3, (-1.0, -1.0, 0.0), (1.0, 1.0, 1.0), 1, (0.5, 1.5)),
    "on top": lambda a, b: arranging.on_top([a, b]), "below": lambda a, b: arranging.on_top([b, a]),
    "line up": lambda a, b: arranging.line_up([a, b], "x"), "evenly": lambda a, b: arranging.distribute([a, b, "third"], "x"),
    "mirror": lambda a, b: arranging.mirror([a, b], "x"), "join": lambda a, b: assembling.join([a, b]),
    "take apart": lambda a, b: assembling.take_apart(a), "take out": lambda a, b: scene_edits.take_out([a]),
    "driven": lambda a, b: scene_edits.set_kind(a, "kinematic"), "dynamic": lambda a, b: scene_edits.set_kind(a, "dynamic"),
    "fixed": lambda a, b: scene_edits.set_kind(a, "static"), "roll": lambda a, b: scene_edits.roll_on(a, b),
    "angles": lambda a, b: scene_edits.launch_as([a], "own angles"), "through": lambda a, b: scene_edits.pass_through(a, [b]),
    "rename": lambda a, b: scene_edits.rename_body(a, "new"), "wear": lambda a, b: scene_edits.wear(a, "skin"),
    "path": lambda a, b: driven_paths.give_path(a), "push": lambda a, b: driven_paths.set_push_limit(a, "3 N"),
    "other weight": lambda a, b: give_other(a, "density"), "physics": lambda a, b: assembling.copy_physics(a, [b], ["surface"]),
}


@pytest.mark.parametrize("thing", [thing.name for thing in STOCK])
def test_whatever_is_done_to_whatever_there_is_can_be_saved_or_is_refused_in_words(thing):
    """Things × things × operations, one after the other and each by itself."""
    names = [t.name for t in STOCK]
    rng = np.random.default_rng(names.index(thing))
    for other in names if os.environ.get("YAPA_HARD") else rng.choice(names, 2):
        case, up = Case(title="pair", bodies={}), np.array([0.0, 0.0, 1.0])
        for k, (name, kind) in enumerate((("one", thing), ("other", other), ("third", "crate"))):
            case = scene_edits.put_in(thing_named(kind), name, np.array([0.7 * k, 0.0, 0.0]), up).applied(case)
        for words in rng.permutation(list(OPERATIONS)):
            try:
                after = OPERATIONS[words]("one", "other").applied(case)
            except YapaError:
                continue
            assert case_text(parse_case(case_text(after), words)) == case_text(after), f"{words} of {thing} and {other}"
            case = after if rng.random() < 0.3 and {"one", "other", "third"} <= set(after.bodies) else case


@pytest.mark.faults
def test_a_listener_that_fails_does_not_keep_an_edit_from_being_shown(desk, ear):
    def broken():
        raise ZeroDivisionError("by nothing")

    desk.case_changed.connect(broken)
    before = desk.preview.comparison
    assert desk.set_number("gravity", 5.0)
    ear.until(lambda: desk.jobs.idle)
    assert desk.preview.comparison is not before
    assert desk.case.fields.gravity == 5.0
    assert "by nothing" in desk.troubles[0]


@pytest.mark.parametrize("text", ["contact order through floor, wall at least 0.01 ± 0.005", "ball x at 0.3 s = 0.4 ± 0.01",
                                  "ball hit with floor happens", "ball apex 1 = 0.5 ± 0.01"])
def test_a_target_with_arguments_of_its_own_is_taken(text):
    case, up = Case(title="wish", bodies={}), np.array([0.0, 0.0, 1.0])
    for name in ("floor", "wall", "ball"):
        case = scene_edits.put_in(thing_named(name), name, np.array([0.4 * len(case.bodies), 0.0, 0.0]), up).applied(case)
    after = edits.add_target(parse_target(text)).applied(case)
    assert case_text(parse_case(case_text(after), "saved")) == case_text(after)
