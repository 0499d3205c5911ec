"""The end of a fit: merged into what its own document has become, and into no other."""

from __future__ import annotations

import numpy as np
import pytest

from tests.session.conftest import E, bouncing, saved
from yapa.case import Target, get_number
from yapa.formats.case_json import read_case
from yapa.session.edits import add_target, remove_track, set_range
from yapa.session.fit_job import find_numbers


def begin(desk, ear, held):
    assert desk.fits.start()
    ear.until(held.running.is_set)


def end(desk, ear, held, value=0.7):
    held.value = value
    held.gate.set()
    ear.until(lambda: not desk.fits.running and desk.jobs.idle)


def test_an_unchanged_case_takes_values_and_trial_as_one_step(desk, ear, held):
    before, steps = desk.case, desk.document.history.steps
    begin(desk, ear, held)
    end(desk, ear, held)
    assert get_number(desk.case, E) == 0.7
    assert desk.case.trials[-1].source == "fit"
    assert desk.document.history.steps == steps + 1
    desk.undo()
    assert desk.case is before


def test_an_edit_meanwhile_that_the_values_do_not_depend_on_stays_and_the_values_are_set(desk, ear, held):
    begin(desk, ear, held)
    desk.set_number("gravity", 5.0)
    end(desk, ear, held)
    assert get_number(desk.case, "gravity") == 5.0
    assert get_number(desk.case, E) == 0.7
    assert [t.source for t in desk.case.trials] == ["as set up", "by hand", "fit"]


@pytest.mark.parametrize(("edit", "word"), [
    (lambda d: d.set_number(E, 0.61), "restitution"),
    (lambda d: d.make(remove_track("track of orange")), "a track"),
    (lambda d: d.make(add_target(Target(outcome="apex", index=1, value=0.5, tolerance=0.01))), "what is wanted"),
    (lambda d: d.make(set_range(E, 0.05, 0.95)), "an unknown"),
])
def test_an_edit_that_they_depend_on_keeps_the_trial_and_says_where_it_stands(desk, ear, held, edit, word):
    begin(desk, ear, held)
    assert edit(desk)
    kept = get_number(desk.case, E)
    end(desk, ear, held)
    assert get_number(desk.case, E) == kept
    trial = desk.case.trials[-1]
    assert (trial.source, trial.values[E]) == ("fit", 0.7)
    assert any(word in said and repr(trial.name) in said for said in desk.words)


def test_a_case_opened_meanwhile_is_not_touched(desk, ear, held, tmp_path):
    begin(desk, ear, held)
    first = desk.document
    desk.open_case(bouncing("another"), tmp_path / "another.yapa")
    end(desk, ear, held)
    assert desk.case.title == "another"
    assert get_number(desk.case, E) == get_number(first.case, E)
    assert all(t.source != "fit" for t in desk.case.trials)
    assert saved(desk, ear, tmp_path / "another.yapa")
    assert read_case(tmp_path / "another.yapa").title == "another"


def test_a_fit_whose_end_waits_to_be_heard_is_dropped_with_its_document(desk, ear, held):
    begin(desk, ear, held)
    held.gate.set()
    desk.fits.job.over.wait(0.2)  # it has ended, and nobody has heard of it
    desk.open_case(bouncing("another"))
    ear.until(lambda: desk.jobs.idle)
    assert desk.case.title == "another"
    assert not desk.fits.running
    assert all(t.source != "fit" for t in desk.case.trials)


def test_work_recovered_meanwhile_is_not_replaced(desk, ear, held, tmp_path):
    from yapa.session.recovery import Kept, Recovery

    lost = Recovery(tmp_path / "state")
    lost.write(Kept(bouncing("lost work"), tmp_path / "lost.yapa"))
    lost._lock.free(remove=False)
    begin(desk, ear, held)
    desk.opener.recover(lost.file)
    ear.until(lambda: desk.case.title == "lost work")
    end(desk, ear, held)
    assert desk.case.title == "lost work"
    assert desk.path == tmp_path / "lost.yapa"
    assert not desk.is_clean


@pytest.mark.faults
@pytest.mark.parametrize("error", [ValueError("odd"), np.linalg.LinAlgError("singular"), MemoryError()])
def test_whatever_a_fit_raises_it_ends_and_says_so(desk, ear, held, error):
    before = desk.case
    held.error = error
    begin(desk, ear, held)
    end(desk, ear, held)
    assert not desk.fits.running
    assert desk.case is before
    assert desk.troubles
    held.error = None
    held.gate.clear()
    begin(desk, ear, held)  # and another can begin
    end(desk, ear, held)
    assert desk.case.trials[-1].source == "fit"


@pytest.mark.parametrize("offset", [10.0, -10.0])
def test_a_clock_that_leaves_no_sample_is_refused_in_words_and_ends_the_fit(desk, ear, offset):
    desk.fits.fit = find_numbers
    track = desk.case.tracks[0].model_copy(update={"time_offset": offset})
    desk.edit(desk.case.model_copy(update={"tracks": (track,)}), "late clock")
    assert desk.fits.start()
    ear.until(lambda: not desk.fits.running and desk.jobs.idle)
    assert any("which leaves 0 samples" in words for words in desk.troubles)
    assert not any("unexpected" in words for words in desk.troubles)


def test_stopping_keeps_the_best_so_far_as_a_trial(desk, ear, held):
    begin(desk, ear, held)
    desk.fits.stop()
    ear.until(lambda: not desk.fits.running and desk.jobs.idle)
    assert desk.case.trials[-1].source == "stopped fit"


def test_a_second_fit_waits_for_the_stopped_one_of_a_document_that_is_gone(desk, ear, held):
    begin(desk, ear, held)
    desk.open_case(bouncing("second"))
    assert desk.fits.start()
    end(desk, ear, held, 0.66)
    assert desk.case.title == "second"
    assert get_number(desk.case, E) == 0.66
    assert sum(t.source == "fit" for t in desk.case.trials) == 1
