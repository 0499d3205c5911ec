"""Work that a crash would lose."""

from __future__ import annotations

import os
import subprocess
import sys
import time

import pytest

from tests.session.conftest import E, bouncing, saved
from yapa.case import get_number
from yapa.demo import DATA
from yapa.errors import InputError
from yapa.files import FileStamp
from yapa.formats.case_file import load_case
from yapa.session.recovery import Autosave, Kept, Recovery


def test_edits_in_a_row_do_not_put_the_writing_off(desk, ear):
    """One edit after another, each sooner than the pause: the file is never older than the pause and one writing."""
    file = desk.autosave.recovery.file
    for k in range(12):
        desk.set_number(E, 0.5 + 0.01 * k)
        time.sleep(0.015)
    assert file.exists()
    ear.until(lambda: get_number(Recovery.read(file).case, E) == pytest.approx(0.61), 10)


def test_a_file_belongs_to_who_holds_its_lock_whatever_its_process_id(tmp_path):
    mine = Recovery(tmp_path)
    mine.write(Kept(bouncing(), None))
    assert Recovery(tmp_path).found() == []
    code = (f"from pathlib import Path\nfrom yapa.session.recovery import Recovery\n"
            f"r = Recovery(Path({str(tmp_path)!r}))\nprint([f.name for f in r.found()])\n")
    seen = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout
    assert seen.strip() == "[]"
    mine._lock.free(remove=False)  # as the system does, however the process ends
    seen = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout
    assert mine.file.name in seen


def test_taking_work_up_leaves_it_on_the_disk_all_the_time(tmp_path):
    lost = Recovery(tmp_path)
    stamp, of_a_file = FileStamp(3, 1.0, "ab"), load_case(DATA / "orange-drop.yapa")[0].tracks
    lost.write(Kept(bouncing("lost").model_copy(update={"tracks": of_a_file}), tmp_path / "lost.yapa", stamp))
    lost._lock.free(remove=False)
    mine = Recovery(tmp_path)
    mine.write(Kept(bouncing("mine"), None))
    old = mine.file
    kept = Recovery.read(lost.file)
    mine.adopt(lost.file)
    assert kept.case.tracks[0].samples is not None  # its file may not be there any more
    assert (kept.case.title, kept.path, kept.stamp) == ("lost", tmp_path / "lost.yapa", stamp)
    assert mine.file == lost.file
    assert lost.file.exists()
    assert not old.exists()
    with pytest.raises(InputError, match="another window"):
        Recovery(tmp_path).adopt(lost.file)
    mine.close()
    with pytest.raises(InputError, match="another window"):
        Recovery(tmp_path).adopt(lost.file)  # saved or left meanwhile
    assert list(tmp_path.iterdir()) == []


def test_a_lock_whose_window_was_killed_with_nothing_to_lose_is_swept_up(tmp_path):
    lost, alive = Recovery(tmp_path), Recovery(tmp_path)
    for one in (lost, alive):
        one.write(Kept(bouncing(), None))
        one.forget()
    lost._lock.free(remove=False)
    Recovery(tmp_path).found()
    assert [p.name for p in tmp_path.iterdir()] == [alive._lock.path.name]


def test_work_given_up_is_free_though_a_child_still_holds_its_handle(tmp_path):
    lost, heir = Recovery(tmp_path), Recovery(tmp_path)
    lost.write(Kept(bouncing(), None))
    child = os.dup(lost._lock._handle)  # as between the fork and the exec of a child
    lost._lock.free(remove=False)
    heir.adopt(lost.file)
    assert heir.file == lost.file
    os.close(child)
    assert not Recovery(tmp_path).found(), "the heir's lock went with the child"


def test_a_broken_file_is_told_and_stays_where_it_is(desk, ear, tmp_path):
    broken, mine, before = tmp_path / "state" / "recovery-x.json", desk.autosave.recovery.file, desk.case
    broken.parent.mkdir(exist_ok=True)
    broken.write_text('{"path": null, "case": "{')
    desk.opener.recover(broken)
    ear.until(lambda: desk.troubles)
    assert "a broken recovery file" in desk.troubles[0]
    assert broken.exists()
    assert desk.autosave.recovery.file == mine
    assert desk.case is before


def test_what_cannot_be_kept_safe_is_said_once(tmp_path):
    (tmp_path / "state").write_text("a file where the folder should be")
    said = []
    autosave = Autosave(Recovery(tmp_path / "state"), said.append, pause=0.005)
    for _ in range(5):
        autosave.keep(Kept(bouncing(), None))
        time.sleep(0.02)
    autosave.close()
    assert len(said) == 1
    assert "cannot be kept safe" in said[0]


def test_work_saved_is_forgotten_even_if_a_writing_was_under_way(desk, ear, tmp_path):
    for k in range(6):
        desk.set_number(E, 0.5 + 0.01 * k)
        assert saved(desk, ear, tmp_path / "case.yapa")
        ear.until(lambda: not desk.autosave.recovery.file.exists())
    desk.set_number(E, 0.9)
    ear.until(desk.autosave.recovery.file.exists, 10)
    ear.until(lambda: desk.jobs.idle)
    desk.undo()
    assert desk.is_clean
    ear.until(lambda: not desk.autosave.recovery.file.exists())  # undone back to what is saved
