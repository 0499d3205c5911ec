"""What is under the hand: the newest is shown, one run a look, tracks read once, trials laid beside."""

from __future__ import annotations

import threading
import time

import numpy as np
import pytest
from tools.trace_look import trace

from tests.session.conftest import E, bouncing
from yapa.case import get_number
from yapa.engine import simulate
from yapa.fitting.initial import seen
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.problem.track_residuals import residual_columns
from yapa.session import edits
from yapa.session.comparison import ComparisonBuilder


def test_one_move_of_a_knob_is_one_run_and_reads_lists_and_imports_nothing():
    told = trace()
    assert told.engine_runs == 1
    assert told.listings == 0
    assert told.tracks_read == 0
    assert told.imported == []
    assert "session/preview.py" in told.modules


def test_a_knob_under_the_hand_is_followed_and_changes_nothing(desk, ear):
    looks, before = [], desk.case
    desk.comparison_changed.connect(looks.append)
    desk.preview.preview_value(E, 0.5)
    ear.until(lambda: bool(looks))
    assert looks[-1].values[E] == 0.5
    assert desk.preview.comparison is looks[-1]
    assert desk.case is before
    assert desk.preview.latencies[-1][0] == desk.preview.requested_at
    desk.preview.set({})
    ear.until(lambda: desk.jobs.idle)
    assert desk.preview.comparison.values[E] == get_number(before, E)


def test_of_many_values_only_the_newest_is_looked_at_after_the_one_under_way(desk, ear):
    looks = []
    desk.comparison_changed.connect(lambda c: looks.append(c.values[E]))
    for k in range(20):
        desk.preview.preview_value(E, 0.5 + 0.01 * k)
    ear.until(lambda: desk.jobs.idle)
    assert looks[-1] == pytest.approx(0.69)
    assert len(looks) <= 3


def test_values_that_can_never_be_are_not_followed(desk):
    desk.preview.preview_value(E, -3.0)
    desk.preview.preview_value("bodies.nobody.mass", 1.0)
    assert desk.preview.values == {}


def test_a_look_is_the_motion_and_the_residuals_of_two_runs(ear):
    case = bouncing()
    builder = ComparisonBuilder(case)
    there = builder.at({E: 0.6})
    alone = simulate(case, {E: 0.6})
    assert np.array_equal(there.motion.states, alone.states)
    columns = residual_columns(FitProblem(case, evaluate_only=True), {E: 0.6})
    shown = {trace.name: trace.residual for trace in there.traces if trace.residual is not None}
    for _data, axis, r in columns:
        name = {"x": "travel", "z": "height"}.get(axis)
        if name in shown:
            assert np.nanmax(np.abs(shown[name] - r)) < 1e-6  # σ: the last step of the run ends elsewhere


def test_tracks_are_read_again_only_where_they_or_what_they_lie_on_changed(desk, ear, monkeypatch):
    read = []
    real = seen.reconstruct_tracks
    monkeypatch.setattr("yapa.session.measured_side.reconstruct_tracks", lambda problem: read.append(1) or real(problem))
    side = desk.preview.builder.measured_side
    for edit in (edits.set_number(E, 0.6), edits.set_number("bodies.orange.velocity.x", 0.3), edits.free("gravity")):
        desk.make(edit)
        ear.until(lambda: desk.jobs.idle)
        assert desk.preview.builder.measured_side is side
    assert read == []
    desk.make(edits.set_number("gravity", 9.0))
    ear.until(lambda: desk.jobs.idle)
    assert read == [1]


def test_a_trial_is_laid_beside_and_taken_away(desk, ear):
    told = []
    desk.beside_changed.connect(told.append)
    desk.set_number(E, 0.5)
    ear.until(lambda: desk.jobs.idle)
    desk.preview.lay_beside(0)
    ear.until(lambda: desk.preview.other is not None)
    assert told == [desk.preview.other]
    assert desk.preview.other_name == "as set up"
    assert desk.preview.other.values[E] == desk.case.trials[0].values[E]
    desk.preview.lay_beside(None)
    assert told[-1] is None
    assert desk.preview.other is None
    assert desk.preview.other_name == ""


def test_another_document_has_nothing_of_the_last_ones_preview(desk, ear):
    desk.preview.lay_beside(0)
    desk.preview.preview_value(E, 0.5)
    desk.open_case(bouncing("another"))
    assert desk.preview.values == {}
    assert desk.preview.comparison is None
    ear.until(lambda: desk.jobs.idle)
    assert desk.preview.other is None
    assert desk.preview.case.title == "another"


def test_a_comparison_that_was_made_elsewhere_is_shown_as_it_is(desk):
    looks = []
    desk.comparison_changed.connect(looks.append)
    made = ComparisonBuilder(desk.case).at({E: 0.55})
    desk.preview.show({E: 0.55}, made)
    assert looks == [made]
    assert desk.preview.values == {E: 0.55}
    assert desk.preview.comparison is made


@pytest.mark.faults
def test_a_job_in_the_queue_of_looks_hands_over_its_result_or_its_error(desk, ear):
    ends = []
    desk.preview.run("counting", lambda _job: 3, lambda found, error: ends.append((found, error)))
    desk.preview.run("failing", lambda _job: 1 / 0, lambda found, error: ends.append((found, type(error))))
    ear.until(lambda: len(ends) == 2)
    assert ends == [(3, None), (None, ZeroDivisionError)]


def test_a_look_at_a_case_that_is_gone_is_asked_to_stop_and_not_shown(desk, ear, monkeypatch):
    begun, stops, real = threading.Event(), [], desk.preview.evaluate

    def evaluate(case, values, cancel, budget):
        if not begun.is_set():  # the look at the first case: it ends once it is asked to stop
            begun.set()
            while not cancel.is_set():
                time.sleep(0.001)
            stops.append(cancel.is_set())
        return real(case, values, cancel, budget)

    monkeypatch.setattr(desk.preview, "evaluate", evaluate)
    shown = []
    desk.comparison_changed.connect(lambda comparison: shown.append(desk.case.title))
    desk.preview.request()
    assert begun.wait(30)
    desk.open_case(bouncing("another"))
    ear.until(lambda: desk.jobs.idle)
    assert stops == [True]
    assert shown == ["another"]


def test_one_step_aside_is_shown_while_a_number_is_pressed(desk, ear):
    heard = []
    desk.steps_changed.connect(lambda: heard.append(len(desk.preview.steps)))
    desk.preview.show_steps(E, 0.02)
    ear.until(lambda: desk.jobs.idle)
    here = desk.case[E]
    assert [c.values[E] for c in desk.preview.steps] == pytest.approx([here - 0.02, here + 0.02])
    desk.preview.preview_value(E, 0.6)
    desk.preview.show_steps(E, 0.02)
    ear.until(lambda: desk.jobs.idle)
    assert desk.preview.steps[1].values[E] == pytest.approx(0.62)
    desk.preview.show_steps(None)
    assert desk.preview.steps == []
    assert heard[-1] == 0
    assert 2 in heard
