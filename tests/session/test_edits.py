"""Edits that a hand makes: what each changes, what undo calls it, and that all of them can be undone."""

from __future__ import annotations

import pytest

from tests.session.conftest import E
from yapa.case import Samples, Target, Track, get_number
from yapa.session import edits

APEX = Target(outcome="apex", index=1, value=0.5, tolerance=0.01)


def unknown(case, path):
    return next((u for u in case.unknowns if u.path == path), None)


@pytest.mark.parametrize(("edit", "text"), [
    (edits.set_number("gravity", 5.0), "set gravity"),
    (edits.free("gravity"), "free gravity"),
    (edits.lock(E, True), "lock restitution · rind on pad"),
    (edits.set_range(E, 0.2, 0.9), "range of restitution · rind on pad"),
    (edits.remove_unknown(E), "remove restitution · rind on pad"),
    (edits.add_target(APEX), "want apex 1"),
    (edits.remove_track("track of orange"), "remove track of orange"),
    (edits.change_trial(0, pinned=True), "change trial"),
    (edits.remove_trial(0), "remove trial"),
    (edits.dismiss("no-force.orange", "no force"), "never mind no force"),
    (edits.use_values({E: 0.61}, "use the smallest change"), "use the smallest change"),
])
def test_every_edit_is_a_step_with_a_name_that_can_be_undone_and_redone(desk, edit, text):
    before = desk.case
    assert desk.make(edit)
    after = desk.case
    assert after is not before
    assert desk.document.history.undo_text == text
    desk.undo()
    assert desk.case is before
    assert desk.document.history.redo_text == text
    desk.redo()
    assert desk.case is after


def test_a_freed_number_has_its_usual_range_with_room_on_both_sides(desk):
    assert desk.set_number("gravity", 45.0)
    assert desk.make(edits.free("gravity"))
    assert unknown(desk.case, "gravity").high == 90.0
    assert desk.make(edits.free("bodies.orange.radius"))
    radius = get_number(desk.case, "bodies.orange.radius")
    freed = unknown(desk.case, "bodies.orange.radius")
    assert (freed.low, freed.high, freed.transform) == (pytest.approx(radius / 20), pytest.approx(20 * radius), "log")
    assert desk.make(edits.lock("gravity", True))
    assert unknown(desk.case, "gravity").fixed
    assert desk.make(edits.free("gravity"))  # one that is there already is given back to the fit
    assert not unknown(desk.case, "gravity").fixed


@pytest.mark.parametrize(("edit", "words"), [
    (edits.set_range(E, 0.9, 0.2), "a range that rises"),
    (edits.set_range(E, 0.1, 1e9), "from 0 to"),
    (edits.set_number(E, -1.0), "from 0 to"),
    (edits.set_number("bodies.nobody.mass", 1.0), "a number of this case"),
])
def test_what_cannot_be_done_is_said_and_changes_nothing(desk, edit, words):
    before = desk.case
    assert not desk.make(edit)
    assert words in desk.troubles[-1]
    assert desk.case is before


def test_targets_are_added_changed_and_taken_away(desk):
    desk.make(edits.add_target(APEX))
    other = APEX.model_copy(update={"value": 0.4})
    desk.make(edits.replace_target(0, other))
    assert desk.case.targets == (other,)
    desk.make(edits.replace_target(0, None))
    assert desk.case.targets == ()
    assert desk.document.history.undo_text == "remove target"


def test_a_track_gets_a_free_name_and_the_clip_lasts_as_long_as_it(desk):
    t = tuple(k * 0.1 for k in range(60))
    track = Track(name="track of orange", body="orange", samples=Samples(t=t, z=tuple(1.0 + 0.1 * x for x in t)))
    assert desk.make(edits.bring_tracks([track]))
    assert [track.name for track in desk.case.tracks] == ["track of orange", "track of orange 2"]
    assert desk.case.duration == t[-1]


def test_a_dismissed_finding_is_told_again_on_demand(desk):
    desk.make(edits.dismiss("a", "kind"))
    desk.make(edits.dismiss("b", "kind"))
    assert desk.case.ignored_findings == ("a", "b")
    desk.make(edits.restore_findings())
    assert desk.case.ignored_findings == ()


def test_a_trial_is_restored_where_its_numbers_are_still_unknowns(desk, ear):
    desk.set_number(E, 0.61)
    ear.until(lambda: desk.jobs.idle)
    first = desk.case.trials[0].values[E]
    desk.restore(0)
    assert get_number(desk.case, E) == first
    assert desk.words[-1] == "restored as set up"
    desk.make(edits.remove_unknown(E))
    desk.set_number(E, 0.5)
    desk.restore(0)
    assert get_number(desk.case, E) == 0.5


def test_an_edit_of_everything_beside_the_case_is_one_step(desk):
    desk.edit(desk.case.model_copy(update={"notes": "another"}), "note")
    assert desk.document.history.undo_text == "note"
    desk.edit(desk.case, "nothing")  # the same case is no step
    assert desk.document.history.undo_text == "note"
