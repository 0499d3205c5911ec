"""Saving, off the interface's thread."""

from __future__ import annotations

import shutil
import threading

import pytest

from tests.session.conftest import E, saved
from yapa.case import get_number
from yapa.demo import DATA
from yapa.formats.case_file import load_case
from yapa.formats.case_json import read_case
from yapa.session import saving


@pytest.fixture
def held_writing(monkeypatch):
    """Writing begins, and waits to be let go."""
    begun, gate, real = threading.Event(), threading.Event(), saving.save

    def wait(*arguments):
        begun.set()
        assert gate.wait(30)
        return real(*arguments)

    monkeypatch.setattr(saving, "save", wait)
    return begun, gate


def test_a_save_under_way_keeps_nobody_and_what_is_edited_meanwhile_is_unsaved(desk, ear, held_writing, tmp_path):
    begun, gate = held_writing
    desk.set_number(E, 0.7)
    desk.saver.save(tmp_path / "case.yapa")
    ear.until(begun.is_set)
    assert desk.saver.busy
    assert [job.text for job in desk.jobs.under_way()].count("saving case.yapa") == 1
    desk.set_number(E, 0.8)
    gate.set()
    ear.until(lambda: not desk.saver.busy)
    assert get_number(read_case(tmp_path / "case.yapa"), E) == 0.7
    assert desk.path == tmp_path / "case.yapa"
    assert not desk.is_clean
    desk.undo()
    assert desk.is_clean


def test_what_waits_to_be_saved_can_be_stopped_and_what_is_being_written_is_written(desk, ear, held_writing, tmp_path):
    begun, gate = held_writing
    desk.saver.save(tmp_path / "one.yapa")
    ear.until(begun.is_set)
    desk.saver.save(tmp_path / "two.yapa")
    desk.stop()
    gate.set()
    ear.until(lambda: not desk.saver.busy)
    assert (tmp_path / "one.yapa").exists()
    assert not (tmp_path / "two.yapa").exists()
    assert desk.path == tmp_path / "one.yapa"
    assert desk.troubles == []


def test_saves_asked_for_one_after_the_other_all_happen(desk, ear, tmp_path):
    for name in ("one", "two", "three"):
        desk.saver.save(tmp_path / f"{name}.yapa")
    ear.until(lambda: not desk.saver.busy)
    assert [(tmp_path / f"{name}.yapa").exists() for name in ("one", "two", "three")] == [True] * 3
    assert desk.path == tmp_path / "three.yapa"
    assert desk.is_clean


def test_a_case_opened_while_another_is_written_keeps_its_own_path(desk, ear, held_writing, tmp_path):
    begun, gate = held_writing
    desk.set_number(E, 0.7)
    desk.saver.save(tmp_path / "case.yapa")
    ear.until(begun.is_set)
    first = desk.document
    desk.open_case(first.case)
    gate.set()
    ear.until(lambda: not desk.saver.busy)
    assert first.path == tmp_path / "case.yapa"
    assert first.history.is_clean
    assert desk.path is None


def test_what_cannot_be_written_is_told_and_nothing_is_lost(desk, ear, tmp_path):
    desk.set_number(E, 0.7)
    assert not saved(desk, ear, tmp_path / "no such folder" / "case.yapa")
    assert "no such folder" in desk.troubles[0]
    assert desk.path is None


def test_a_step_taken_back_after_the_file_moved_still_finds_its_tracks(desk, ear, tmp_path):
    for folder in ("here", "there"):
        (tmp_path / folder).mkdir()
    for name in ("orange-drop.yapa", "orange-drop.csv"):
        shutil.copy(DATA / name, tmp_path / "here" / name)
    desk.opener.load(tmp_path / "here" / "orange-drop.yapa")
    ear.until(lambda: desk.path is not None)
    assert desk.case.tracks[0].file == "orange-drop.csv"
    desk.set_number(E, 0.7)
    desk.set_number(E, 0.8)
    path = tmp_path / "there" / "moved.yapa"
    assert saved(desk, ear, path)
    desk.undo()
    desk.undo()
    assert saved(desk, ear, path)
    case, _ = load_case(path)
    assert len(case.tracks[0].samples.t) == len(desk.case.tracks[0].samples.t)
