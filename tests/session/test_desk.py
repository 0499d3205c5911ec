"""What a window does with a document, without one."""

from __future__ import annotations

import os
import threading

import pytest

from tests.session.conftest import E, bouncing, saved
from yapa.case import Unknown, get_number
from yapa.case.parameters import numbers
from yapa.engine.runner import Program
from yapa.fitting.problem.problem import FitProblem
from yapa.formats.case_json import read_case, write_case
from yapa.session import ledger
from yapa.session.edits import set_range


def test_a_file_changed_by_someone_else_is_not_overwritten_unasked(desk, ear, tmp_path):
    path, asked = tmp_path / "case.yapa", []
    desk.changed_on_disk.connect(asked.append)
    assert saved(desk, ear, path)
    desk.set_number(E, 0.8)
    write_case(bouncing("theirs"), path)
    assert not saved(desk, ear, path)
    assert asked == [path]
    assert read_case(path).title == "theirs"
    assert not desk.is_clean
    assert saved(desk, ear, path, overwrite=True)
    assert get_number(read_case(path), E) == 0.8


def test_a_file_that_was_only_touched_or_is_gone_is_saved(desk, ear, tmp_path):
    path = tmp_path / "case.yapa"
    assert saved(desk, ear, path)
    os.utime(path, (1, 1))
    desk.set_number(E, 0.8)
    assert saved(desk, ear, path)
    path.unlink()
    desk.set_number(E, 0.81)
    assert saved(desk, ear, path)
    assert path.exists()


def test_opening_does_not_wait_for_a_fit(desk, ear, held, tmp_path):
    write_case(bouncing("from a file"), tmp_path / "case.yapa")
    desk.fits.start()
    ear.until(held.running.is_set)
    desk.opener.load(tmp_path / "case.yapa")
    ear.until(lambda: desk.case.title == "from a file")


def test_of_several_files_asked_for_the_last_is_opened(desk, ear, tmp_path):
    for name in ("first", "second", "third"):
        write_case(bouncing(name), tmp_path / f"{name}.yapa")
        desk.opener.load(tmp_path / f"{name}.yapa")
    ear.until(lambda: desk.jobs.idle)
    assert desk.case.title == "third"
    desk.opener.load(tmp_path / "first.yapa")
    desk.open_case(bouncing("made meanwhile"))
    ear.until(lambda: desk.jobs.idle)
    assert desk.case.title == "made meanwhile"


def test_a_pipe_in_place_of_a_track_is_refused_and_holds_nothing_up(desk, ear, tmp_path):
    os.mkfifo(tmp_path / "track.csv")
    case = bouncing("piped")
    track = case.tracks[0].model_copy(update={"file": "track.csv"})
    write_case(case.model_copy(update={"tracks": (track,)}), tmp_path / "piped.yapa")
    desk.opener.load(tmp_path / "piped.yapa")
    ear.until(lambda: bool(desk.troubles))
    assert "a named pipe" in desk.troubles[-1]
    write_case(bouncing("after"), tmp_path / "after.yapa")
    desk.opener.load(tmp_path / "after.yapa")
    ear.until(lambda: desk.case.title == "after")


def test_a_released_number_is_evaluated_off_the_interface_thread(desk, ear, monkeypatch):
    from yapa.session import ledger as trials

    threads = []
    real = trials.hand_trial

    def noted(*args):
        threads.append(threading.current_thread())
        return real(*args)

    monkeypatch.setattr(trials, "hand_trial", noted)
    desk.set_number(E, 0.77)
    ear.until(lambda: bool(threads) and desk.jobs.idle)
    assert threading.main_thread() not in threads
    assert desk.case.trials[-1].source == "by hand"


def test_a_value_that_can_never_be_is_refused_and_looks_at_nothing(desk, ear):
    before = desk.case
    assert not desk.set_number("bodies.orange.angular_velocity.y", 1e300)
    assert "1e+300" in desk.troubles[-1]
    desk.preview.preview_value("bodies.orange.angular_velocity.y", 1e300)
    assert desk.preview.values == {}
    assert desk.case is before
    assert not desk.make(set_range(E, 0.1, 1e9))


def test_an_edit_by_hand_simulates_reads_and_judges_nothing_on_the_interfaces_thread(desk, ear, monkeypatch):
    worked = []
    for owner, name in ((Program, "run"), (Program, "__init__"), (FitProblem, "__post_init__"), (ledger, "hand_trial")):
        def heard(*arguments, real=getattr(owner, name), **more):
            worked.append(threading.current_thread())
            return real(*arguments, **more)

        monkeypatch.setattr(owner, name, heard)
    for k in range(5):
        desk.set_number(E, 0.5 + 0.01 * k)
    ear.until(lambda: desk.jobs.idle)
    assert worked
    assert threading.current_thread() not in worked
    assert desk.case.trials[-1].values[E] == pytest.approx(0.54)


def test_another_range_keeps_what_else_an_unknown_is(desk):
    path, tied = "bodies.orange.mass", "bodies.orange.linear_damping"
    assert {path, tied} <= set(numbers(desk.case))
    kept = tuple(u for u in desk.case.unknowns if u.path not in (path, tied))
    desk.edit(desk.case.model_copy(update={"unknowns": (*kept, Unknown(path=path, low=0.1, high=1.0, linked=(tied,)))}), "tie")
    assert desk.make(set_range(path, 0.2, 2.0))
    unknown = next(u for u in desk.case.unknowns if u.path == path)
    assert (unknown.low, unknown.high, unknown.linked) == (0.2, 2.0, (tied,))


def test_a_document_is_taken_up_again_as_it_was_left(desk, ear):
    desk.set_number(E, 0.8)
    left, steps = desk.document, desk.document.history.steps
    desk.open_case(bouncing("another"))
    assert desk.case.title == "another"
    desk.take_up(left)
    assert desk.document is left
    assert (get_number(desk.case, E), desk.document.history.steps, desk.is_clean) == (0.8, steps, False)
    desk.undo()
    assert get_number(desk.case, E) != 0.8
    ear.until(lambda: desk.jobs.idle)


def test_one_thousand_edits_are_undone_one_by_one(desk, ear):
    first = get_number(desk.case, E)
    for k in range(1000):
        desk.edit(desk.case.model_copy(update={"notes": f"note {k}"}), "note")
    assert desk.document.history.steps == 1000
    for _ in range(1000):
        desk.undo()
    assert desk.case.notes != "note 0"
    assert get_number(desk.case, E) == first
    ear.until(lambda: desk.jobs.idle)


def test_a_case_that_reads_files_from_elsewhere_is_asked_about_first(desk, ear, tmp_path):
    from yapa.demo import DATA

    (tmp_path / "elsewhere").mkdir()
    (tmp_path / "here").mkdir()
    (tmp_path / "elsewhere" / "track.csv").write_bytes((DATA / "orange-drop.csv").read_bytes())
    case = bouncing("from elsewhere")
    track = case.tracks[0].model_copy(update={"file": "../elsewhere/track.csv"})
    write_case(case.model_copy(update={"tracks": (track,)}), tmp_path / "here" / "case.yapa")
    asked = []
    desk.outside_files.connect(asked.append)
    desk.opener.load(tmp_path / "here" / "case.yapa")
    ear.until(lambda: bool(asked))
    assert desk.case.title == "Orange drop"
    assert asked[0].files == [tmp_path / "elsewhere" / "track.csv"]
    asked[0].allow()
    ear.until(lambda: desk.case.title == "from elsewhere")
    assert desk.case.tracks[0].samples is not None
