"""Evidence by hand: marks, taps, a drawn path, heights noted; each one step."""

from __future__ import annotations

import pytest

from yapa.session.hand_notes import CONTACTS, MIN_STEP, RESTS, HandNotes, mark_edit, tapped


def test_a_mark_is_where_and_when_and_another_of_the_same_time_replaces_it(desk):
    steps = desk.document.history.steps
    assert desk.notes.whose() == "orange"
    desk.playback.go_to(0.5)
    assert desk.notes.mark((0.1, float("nan"), 0.4), 0.01)
    assert [(t.outcome, t.time, t.value, t.tolerance) for t in desk.case.targets] == [("x", 0.5, 0.1, 0.01), ("z", 0.5, 0.4, 0.01)]
    assert desk.notes.mark((0.2, float("nan"), 0.5), 0.01)
    assert [t.value for t in desk.case.targets] == [0.2, 0.5]
    assert desk.document.history.steps == steps + 2
    assert mark_edit("orange", 0.5, (0.0, 0.0, 0.0), 0.01).text == "mark orange at 0.5 s"


def test_taps_become_times_of_contacts_in_order_or_of_the_rest(desk):
    heard = []
    desk.notes_changed.connect(lambda: heard.append(len(desk.notes.taps)))
    assert isinstance(desk.notes, HandNotes)
    for time in (1.05, 0.53, 1.4):
        desk.playback.go_to(time)
        desk.notes.tap()
    assert heard == [1, 2, 3]
    assert desk.notes.keep_taps(CONTACTS, 0.5)
    assert [(t.index, t.value) for t in desk.case.targets] == [(1, 0.53), (2, 1.05), (3, 1.4)]
    assert desk.case.targets[0].tolerance == pytest.approx(0.025)
    assert desk.notes.taps == []
    desk.notes.tap()
    assert desk.notes.keep_taps(RESTS)
    assert desk.case.targets[-1].outcome == "rest time"
    assert not desk.notes.keep_taps(RESTS)
    desk.notes.tap()
    desk.notes.discard()
    assert tapped([], RESTS, "orange") == []


def test_a_path_is_drawn_with_its_timing(desk):
    tracks = len(desk.case.tracks)
    for k in range(40):
        desk.notes.draw(0.2 + MIN_STEP / 2 * k, (0.01 * k, 0.0, 1.0 - 0.01 * k))
    assert 15 <= len(desk.notes.path) <= 20
    assert desk.notes.end_path(0.01)
    drawn = desk.case.tracks[-1]
    assert len(desk.case.tracks) == tracks + 1
    assert (drawn.name, drawn.sigma) == ("drawn", 0.01)
    assert drawn.samples.t[0] == pytest.approx(0.2)
    assert not desk.notes.end_path(0.01)


def test_a_height_is_noted_without_moving_a_number(desk):
    handle = next(h for h in desk.preview.comparison.handles if h.name == "orange apex 1")
    before = desk.case
    assert desk.notes.height(handle, handle.target.value + 0.1)
    assert desk.case.targets[-1].value == pytest.approx(handle.target.value + 0.1, abs=1e-3)
    assert desk.case.bodies is before.bodies
    assert desk.case.pairs is before.pairs
