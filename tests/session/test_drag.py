"""Dragging an outcome without a screen."""

from __future__ import annotations

import pytest

from tests.session.conftest import E
from yapa.case import Target, get_number
from yapa.errors import bad_input
from yapa.outcomes import read
from yapa.session import edits
from yapa.session.drag import with_wish
from yapa.session.handles import rounded_value
from yapa.session.pull_words import pull_words


@pytest.fixture
def handle(desk):
    return next(h for h in desk.preview.comparison.handles if h.name == "orange apex 1")


def followed(desk, ear):
    ear.until(lambda: desk.drag.frame is not None and desk.jobs.idle)


def test_what_is_pulled_is_followed_and_kept_as_one_edit_when_it_is_let_go(desk, ear, handle):
    told = []
    desk.pull_began.connect(lambda h: told.append(h.name))
    desk.pull_followed.connect(lambda f: told.append("followed"))
    desk.pull_ended.connect(lambda: told.append("ended"))
    before, steps = desk.case, desk.document.history.steps
    assert desk.drag.begin(handle)
    assert desk.drag.pulling
    wanted = handle.target.value + 0.05
    desk.drag.to(wanted)
    followed(desk, ear)
    assert desk.case is before
    assert read(desk.preview.comparison.motion, "apex", "orange", 1).value == pytest.approx(wanted, abs=1e-3)
    desk.drag.let_go()
    ear.until(lambda: desk.case is not before)
    assert desk.document.history.steps == steps + 1
    assert desk.document.history.undo_text == "pull orange apex 1"
    assert desk.case.targets[-1].value == pytest.approx(wanted, abs=5e-4)
    assert get_number(desk.case, E) == pytest.approx(desk.drag.frame.values[E], abs=2e-4)
    assert len(repr(get_number(desk.case, E))) <= 6  # no more digits than a tolerance of 5 mm can tell
    assert (told[0], told[1], told[-1]) == ("orange apex 1", "followed", "ended")
    ear.until(lambda: desk.jobs.idle)
    assert desk.case.trials[-1].source == "by hand"


def test_what_is_let_go_while_a_wish_is_followed_is_kept_once_it_was(desk, ear, handle):
    before = desk.case
    desk.drag.begin(handle)
    desk.drag.to(handle.target.value + 0.02)
    desk.drag.to(handle.target.value + 0.04)
    desk.drag.let_go()
    desk.drag.to(9.0)  # the hand is off
    ear.until(lambda: desk.case is not before)
    assert desk.case.targets[-1].value == pytest.approx(handle.target.value + 0.04, abs=5e-4)


def test_given_up_everything_is_as_before(desk, ear, handle):
    before = desk.case
    desk.drag.begin(handle)
    desk.drag.to(handle.target.value + 0.05)
    followed(desk, ear)
    desk.drag.put_back()
    ear.until(lambda: desk.jobs.idle)
    assert not desk.drag.pulling
    assert desk.preview.values == {}
    assert desk.case is before
    assert read(desk.preview.comparison.motion, "apex", "orange", 1).value == pytest.approx(handle.target.value)


def test_nothing_is_taken_while_something_is_or_a_fit_runs_or_nothing_is_free(desk, ear, held, handle):
    desk.fits.start()
    assert not desk.drag.begin(handle)
    held.gate.set()
    ear.until(lambda: not desk.fits.running)
    assert desk.drag.begin(handle)
    assert not desk.drag.begin(handle)
    desk.drag.put_back()
    for u in desk.case.unknowns:
        desk.make(edits.lock(u.path, True))
    assert not desk.drag.begin(handle)
    assert "every number is locked" in desk.troubles[-1]


def test_an_edit_meanwhile_ends_the_drag(desk, handle):
    desk.drag.begin(handle)
    desk.set_number(E, 0.61)
    assert not desk.drag.pulling


def test_a_pull_that_fails_is_told_and_puts_back(desk, ear, handle, monkeypatch):
    def refused(*_args, **_more):
        raise bad_input("apex 1", "no bounce", "a motion that bounces")

    monkeypatch.setattr("yapa.session.drag.Pull", refused)
    desk.drag.begin(handle)
    desk.drag.to(0.9)
    ear.until(lambda: not desk.drag.pulling)
    assert "no bounce" in desk.troubles[-1]


def test_a_wish_takes_the_place_of_the_same_one_with_its_tolerance_and_weight(desk):
    case = desk.case.model_copy(update={"targets": (Target(outcome="apex", index=1, value=0.5, tolerance=0.02, weight=3.0),)})
    wish = Target(outcome="apex", body="orange", index=1, value=0.6, tolerance=0.005)
    kept, = with_wish(case, wish, 0.61234)
    assert (kept.value, kept.tolerance, kept.weight) == (rounded_value(0.61234, 0.02), 0.02, 3.0)
    other = wish.model_copy(update={"index": 2})
    assert len(with_wish(case, other, 0.4)) == 2


def pulled_to(desk, ear, name, by, steps=6):
    """Pull an outcome in steps, as a hand does, by so much of its unit."""
    handle = next(h for h in desk.preview.comparison.handles if h.name == name)
    assert desk.drag.begin(handle)
    for k in range(1, steps + 1):
        desk.drag.to(handle.target.value + by * k / steps)
        ear.until(lambda: not desk.drag._busy)
    return handle


@pytest.fixture
def held_apex(desk, ear):
    """The first apex is asked for as it is; only the restitution is free."""
    value = next(h for h in desk.preview.comparison.handles if h.name == "orange apex 1").target.value
    desk.make(edits.add_target(Target(outcome="apex", index=1, body="orange", value=value, tolerance=0.004)))
    for unknown in desk.case.unknowns:
        desk.make(edits.lock(unknown.path, unknown.path != E))
    ear.until(lambda: desk.jobs.idle)
    return desk


def test_what_is_met_holds_and_letting_go_of_it_lets_the_outcome_follow(held_apex, ear):
    desk = held_apex
    before = desk.case
    handle = pulled_to(desk, ear, "orange apex 2", 0.1)
    assert desk.drag.frame.held_by == ("orange apex 1",)
    desk.drag.let_go()
    assert desk.drag.stuck
    assert desk.drag.pulling
    assert desk.case is before
    desk.drag.loosen("orange apex 1")
    assert desk.drag.let_loose == {"orange apex 1"}
    ear.until(lambda: desk.drag.frame.reached and not desk.drag._busy)
    assert not desk.drag.stuck
    desk.drag.let_go()
    ear.until(lambda: desk.case is not before)
    assert desk.case.targets[-1].value == pytest.approx(handle.target.value + 0.1, abs=1e-3)
    assert len(desk.case.targets) == 2


def test_what_is_held_is_kept_as_far_as_it_came(held_apex, ear):
    desk = held_apex
    before = desk.case
    handle = pulled_to(desk, ear, "orange apex 2", 0.1)
    desk.drag.let_go()
    desk.drag.keep()
    ear.until(lambda: desk.case is not before and desk.jobs.idle)
    assert all(report.met for report in desk.preview.comparison.targets)
    assert handle.target.value < desk.case.targets[-1].value < handle.target.value + 0.05
    assert desk.document.history.undo_text == "pull orange apex 2"


def test_where_nothing_is_free_the_numbers_that_would_move_it_most_are_offered(desk, ear, handle):
    for unknown in desk.case.unknowns:
        desk.make(edits.lock(unknown.path, True))
    ear.until(lambda: desk.jobs.idle)
    heard = []
    desk.pull_offered.connect(lambda: heard.append(list(desk.drag.offers)))
    assert not desk.drag.begin(handle)
    ear.until(lambda: bool(heard))
    assert E in heard[0]
    assert len(heard[0]) == 3
    assert desk.drag.free(E)
    assert desk.drag.offers == []
    ear.until(lambda: desk.jobs.idle)
    assert desk.drag.begin(handle)


def test_a_time_is_pulled_along_the_time_axis(desk, ear):
    before = desk.case
    handle = pulled_to(desk, ear, "orange bounce time 2", -0.02)
    assert handle.in_time
    desk.drag.let_go()
    ear.until(lambda: desk.case is not before)
    assert desk.case.targets[-1].value == pytest.approx(handle.target.value - 0.02, abs=1e-3)


def test_the_words_of_a_pull_tell_its_value_and_what_holds_it(held_apex, ear):
    desk = held_apex
    handle = next(h for h in desk.preview.comparison.handles if h.name == "orange apex 2")
    assert pull_words(desk.drag, handle) == [f"orange apex 2  {handle.target.value:.3f} m"]
    pulled_to(desk, ear, "orange apex 2", 0.1)
    words = pull_words(desk.drag, desk.drag.handle)
    assert "→" in words[0]
    assert words[1].endswith("held by orange apex 1")
