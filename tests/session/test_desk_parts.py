"""What a desk announces, and how its parts are heard."""

from __future__ import annotations

import threading

import pytest

from tests.session.conftest import E, bouncing, saved
from yapa.case import Estimate, Track, get_number, with_numbers
from yapa.errors import bad_input
from yapa.fitting import FitResult, Progress
from yapa.fitting.problem.cancel import Cancel, Cancelled
from yapa.fitting.problem.problem import FitProblem
from yapa.session import edits, ledger
from yapa.session.document import Document, same_but_ledger
from yapa.session.fit_end import FitEnd, changed_meanwhile, merge
from yapa.session.history import History
from yapa.session.jobs import Queue
from yapa.session.late_trials import LateTrials
from yapa.session.manual_evidence import note
from yapa.session.measured_side import MeasuredSide
from yapa.session.recovery import state_folder


def test_a_fit_is_announced_followed_and_ended(desk, ear):
    told = []
    desk.fit_started.connect(lambda: told.append("started"))
    desk.fit_progressed.connect(lambda p: told.append(p.phase))
    desk.fit_ended.connect(lambda r: told.append(r.stopped if r is not None else None))
    gate = threading.Event()

    def fit(case, progress, cancel):
        progress(Progress("descending", 2.0, 7, {E: 0.4}, 0.5))
        gate.wait(30)
        return FitResult({E: Estimate(value=0.4, std=0.01)}, 1.0, 7, 0.0, "converged")

    desk.fits.fit = fit
    assert desk.fits.start()
    assert not desk.fits.start()
    ear.until(lambda: "descending" in told)
    assert (desk.fits.job.fraction, desk.fits.job.text) == (0.5, "descending")
    assert desk.preview.values == {E: 0.4}
    gate.set()
    ear.until(lambda: desk.jobs.idle)
    assert told == ["started", "descending", "converged"]
    assert desk.fits.result.values == {E: 0.4}
    assert get_number(desk.case, E) == 0.4
    assert desk.newest_fit().name == "fit 1"
    desk.set_number(E, 0.41)
    assert desk.newest_fit() is None


def test_the_history_is_announced_with_every_step(desk):
    told = []
    desk.history_changed.connect(lambda: told.append(desk.document.history.undo_text))
    desk.make(edits.free("gravity"))
    desk.undo()
    assert told == ["free gravity", None]


def test_what_is_under_way_is_announced_and_can_be_stopped(desk, ear, held):
    told, ends = [], []
    desk.jobs_changed.connect(lambda: told.append([j.text for j in desk.jobs.under_way(Queue.SEARCH)]))

    def work(job):
        job.report_progress(0.25, "a quarter")
        while not job.cancel.is_set():
            pass
        job.cancel.raise_if_cancelled()

    desk.search("searching", work, ends.append, lambda error: ends.append(type(error).__name__))
    desk.fits.start()
    ear.until(lambda: ["a quarter"] in told)
    desk.stop()
    ear.until(lambda: desk.jobs.idle)
    assert ends == ["Cancelled"]
    assert desk.case.trials[-1].source == "stopped fit"


def test_a_file_that_is_read_can_be_stopped_and_what_it_holds_is_dropped(desk, ear):
    gate, opened = threading.Event(), []
    desk.opener.open_by("opening", lambda: gate.wait(30), opened.append)
    desk.stop()
    gate.set()
    ear.until(lambda: desk.jobs.idle)
    assert opened == []
    assert desk.troubles == []


def test_what_comes_from_a_worker_is_heard_while_the_desk_is_open(desk, ear):
    heard = []
    desk.from_worker(lambda: heard.append(1))
    ear.hear()
    desk.close()
    desk.from_worker(lambda: heard.append(2))
    ear.hear()
    assert heard == [1]


def test_an_edit_of_values_is_evaluated_for_the_ledger_later(desk, ear):
    assert desk.make_by_hand(edits.use_values({E: 0.6}, "use a way"))
    ear.until(lambda: desk.jobs.idle)
    trial = desk.case.trials[-1]
    assert (trial.source, trial.values[E]) == ("by hand", 0.6)
    assert "restitution" in trial.summary
    assert desk.document.history.undo_text == "use a way"  # the trial is no step
    assert not desk.make_by_hand(edits.use_values({E: -1.0}, "never"))


def test_a_file_for_a_document_that_is_gone_is_dropped(desk, ear, tmp_path):
    clear, shown = tmp_path / "second.csv", []
    clear.write_text("t,x,z\n" + "".join(f"{k / 30},{0.1 * k},{1 - 0.01 * k * k}\n" for k in range(12)))
    desk.tracks.look_into(clear, shown.append)
    desk.open_case(bouncing("another"))
    ear.until(lambda: desk.jobs.idle)
    assert shown == []
    desk.tracks.look_into(tmp_path / "missing.csv", shown.append)
    ear.until(lambda: bool(desk.troubles))
    assert "missing.csv" in desk.troubles[-1]


def test_cases_that_differ_in_their_ledger_alone_show_the_same(desk):
    case = desk.case
    assert desk.document.shows(case.model_copy(update={"trials": (), "notes": "x", "title": "y"}))
    assert not desk.document.shows(with_numbers(case, {E: 0.5}))
    assert same_but_ledger(case, case.model_copy(update={"ignored_findings": ("a",)}))


def test_a_recovered_case_is_changed_until_it_is_saved(desk, ear, tmp_path):
    desk.document.history.mark_changed()
    assert not desk.is_clean
    assert saved(desk, ear, tmp_path / "kept.yapa")
    assert desk.is_clean


def test_the_end_of_a_fit_is_merged_by_what_was_changed_meanwhile():
    start = bouncing()
    result = FitResult({E: Estimate(value=0.4, std=0.01)}, 1.0, 1, 0.0, "converged")
    trial = ledger.fit_trial(with_numbers(start, result.values), result)
    end = FitEnd(start, result, trial)
    assert changed_meanwhile(start, end) is None
    assert get_number(merge(start, end).case, E) == 0.4
    edited = with_numbers(start, {E: 0.7})
    assert "restitution" in changed_meanwhile(edited, end)
    merged = merge(edited, end)
    assert get_number(merged.case, E) == 0.7
    assert merged.case.trials[-1].name == ledger.fit_name(start) == "fit 1"
    assert "fit 1" in merged.sentence


def test_work_is_kept_in_a_folder_of_the_persons_own(monkeypatch, tmp_path):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    assert state_folder().is_relative_to(tmp_path)


def test_a_first_trial_keeps_how_a_case_came_and_is_no_step(desk, ear):
    assert desk.case.trials[0].name == "as set up"
    assert desk.document.history.undo_text is None
    desk.document.history.push(desk.case.model_copy(update={"trials": ()}), "forget")
    late = LateTrials(desk, desk.jobs, desk)
    late.note_set_up()
    ear.until(lambda: desk.jobs.idle)
    assert [t.name for t in desk.case.trials] == ["as set up"]
    late.note_set_up()  # there is one
    assert desk.jobs.idle


def test_of_two_hand_edits_in_a_row_only_the_newer_is_evaluated(desk, ear):
    late, told = LateTrials(desk, desk.jobs, desk), []
    desk.case_changed.connect(lambda: told.append(len(desk.case.trials)))
    late.note_by_hand()
    late.note_by_hand()
    ear.until(lambda: desk.jobs.idle)
    assert [t.source for t in desk.case.trials] == ["as set up", "by hand"]
    assert told == [2]
    assert desk.troubles == []


def test_a_ledger_that_has_grown_is_announced_for_the_open_document_alone(desk):
    told = []
    desk.case_changed.connect(lambda: told.append(1))
    desk.amended(desk.document)
    desk.amended(Document(History(bouncing())))
    assert told == [1]


def test_a_trial_has_its_score_outcomes_and_curve():
    case = bouncing()
    trial = ledger.make_trial(case, "mine", "by hand", {E: 0.6}, 1.5, 0, 0, changed="restitution")
    assert trial.outcomes["apex 1"] > 0.1
    assert len(trial.curve) == ledger.CURVE_POINTS
    assert ledger.misfit_of_columns([]) is None


def test_values_under_the_hand_are_dropped_with_the_case_they_were_of(desk):
    desk.preview.values = {E: 0.5}
    desk.preview.drop_stale()
    assert desk.preview.values == {}


def test_the_measured_side_holds_where_only_launches_differ(desk):
    side = desk.preview.builder.measured_side
    assert side.holds_for(with_numbers(desk.case, {"bodies.orange.velocity.x": 1.0}))
    assert side.holds_for(with_numbers(desk.case, {"bodies.orange.position.x": 1.0}))  # a ball's track is not read by its start
    assert not side.holds_for(with_numbers(desk.case, {"bodies.orange.radius": 0.05}))


def test_tracks_that_were_read_for_another_case_are_not_read_again(desk):
    side = desk.preview.builder.measured_side
    assert MeasuredSide.of(FitProblem(with_numbers(desk.case, {E: 0.5}), Cancel(), evaluate_only=True)) is side
    other = MeasuredSide.of(FitProblem(with_numbers(desk.case, {"gravity": 5.0}), Cancel(), evaluate_only=True))
    assert other is not side
    assert MeasuredSide.of(FitProblem(desk.case, Cancel(), evaluate_only=True)) is side


def test_evidence_by_hand_is_a_step_like_any_other(desk):
    after, lines = note(desk.case, "orange", apexes="0.7, 0.4")
    desk.edit(after, "note by hand")
    assert len(desk.case.targets) == len(lines) == 2


def test_edits_that_the_desk_makes_of_files_and_trials_are_edits_too(desk):
    restored = edits.restore_trial(desk.case, 0)
    assert restored.text == "restore as set up"
    samples = desk.case.tracks[0].samples
    added = edits.bring_tracks([Track(name="second", body="orange", samples=samples)])
    assert added.text == "bring second"
    assert len(added.change(desk.case).tracks) == 2


@pytest.mark.faults
def test_a_stop_that_was_asked_for_is_no_error(desk):
    desk.show_error(Cancelled())
    assert desk.troubles == []
    desk.show_error(bad_input("it", "nothing", "something"))
    assert len(desk.troubles) == 1
    desk.show_error(ValueError("no such thing"))  # a fault is announced where it is heard
    assert len(desk.troubles) == 1
    desk.faults.rest()
    desk.faults.hear(ValueError("no such thing"), "looking")
    assert "no such thing" in desk.troubles[-1]
    assert desk.troubles[-1].endswith("the case is untouched")
