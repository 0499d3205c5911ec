"""What may be read and written, and how."""

from __future__ import annotations

import os
import stat
import threading

import pytest

from yapa.errors import MAX_MESSAGE, InputError, InputIssue, bad_input
from yapa.files import (
    PART_PREFIX,
    PART_SUFFIX,
    FileStamp,
    _open_part,
    changed_since,
    check_outputs,
    forget_parts,
    open_regular,
    read_regular,
    stamp_of,
    write_atomically,
)


def node(path, kind):
    """A device of one's own, where one may be made."""
    try:
        os.mknod(path, kind | 0o666, os.makedev(1, 3))
    except (PermissionError, OSError):
        pytest.skip("no device can be made here")
    return path


def test_a_link_stays_and_what_it_names_is_replaced(tmp_path):
    target, link = tmp_path / "target.txt", tmp_path / "link.txt"
    target.write_text("old")
    link.symlink_to(target)
    write_atomically(link, "new")
    assert link.is_symlink()
    assert target.read_text() == "new"
    (tmp_path / "dangling").symlink_to(tmp_path / "later.txt")
    write_atomically(tmp_path / "dangling", "there now")
    assert (tmp_path / "later.txt").read_text() == "there now"


def test_a_device_is_written_straight_or_refused_but_never_replaced(tmp_path):
    path = node(tmp_path / "null", stat.S_IFCHR)
    write_atomically(path, "gone", streams=True)
    assert stat.S_ISCHR(path.stat().st_mode)
    with pytest.raises(InputError, match="a device"):
        write_atomically(path, "gone")
    block = node(tmp_path / "disk", stat.S_IFBLK)
    with pytest.raises(InputError, match="a block device"):
        write_atomically(block, "gone", streams=True)
    assert stat.S_ISBLK(block.stat().st_mode)


def test_a_pipe_gets_what_its_reader_waits_for(tmp_path):
    pipe, read = tmp_path / "pipe", []
    os.mkfifo(pipe)
    reader = threading.Thread(target=lambda: read.append(pipe.read_text()))
    reader.start()
    write_atomically(pipe, "through", streams=True)
    reader.join(10)
    assert read == ["through"]
    with pytest.raises(InputError, match="a named pipe"):
        write_atomically(pipe, "text")


def test_reading_never_waits_for_a_pipe(tmp_path):
    os.mkfifo(tmp_path / "pipe")
    with pytest.raises(InputError, match="a named pipe"):
        open_regular(tmp_path / "pipe")
    for odd in (tmp_path, node(tmp_path / "null", stat.S_IFCHR)):
        with pytest.raises(InputError):
            open_regular(odd)


@pytest.mark.parametrize("mode", [0o444, 0o555, 0o400])
def test_a_file_without_permission_to_write_is_refused_for_root_too(tmp_path, mode):
    path = tmp_path / "kept.txt"
    path.write_text("kept")
    path.chmod(mode)
    with pytest.raises(InputError, match="permission"):
        write_atomically(path, "new")
    assert path.read_text() == "kept"


def test_a_name_as_long_as_a_name_can_be_is_written(tmp_path):
    path = tmp_path / ("n" * 250 + ".yapa")
    write_atomically(path, "new")
    assert path.read_text() == "new"
    assert [p.name for p in tmp_path.iterdir()] == [path.name]
    with pytest.raises(InputError, match="too long"):
        write_atomically(tmp_path / ("n" * 256), "new")


@pytest.mark.parametrize("name", ["a\0b", "n" * 5000, "\udcff"])
def test_a_name_that_no_file_can_have_is_told_in_few_words(tmp_path, name):
    for act in (lambda: read_regular(tmp_path / name, 10), lambda: write_atomically(tmp_path / name / "x", "text")):
        with pytest.raises(InputError) as told:
            act()
        assert len(str(told.value).encode("utf-8", "replace")) <= 2048


def test_permissions_stay_and_a_failed_write_leaves_nothing(tmp_path, monkeypatch):
    path = tmp_path / "kept.txt"
    path.write_text("kept")
    path.chmod(0o640)
    write_atomically(path, "new")
    assert stat.S_IMODE(path.stat().st_mode) == 0o640

    def full(_handle):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(InputError, match="No space left"):
        write_atomically(path, "newer")
    assert path.read_text() == "new"
    assert [p.name for p in tmp_path.iterdir()] == ["kept.txt"]


def test_an_output_that_is_an_input_or_another_output_is_refused(tmp_path):
    case, link = tmp_path / "case.yapa", tmp_path / "link.yapa"
    case.write_text("x")
    link.symlink_to(case)
    os.link(case, tmp_path / "hard.yapa")
    for output in (case, link, tmp_path / "hard.yapa", tmp_path / "." / "case.yapa"):
        with pytest.raises(InputError, match="that this command reads"):
            check_outputs([case], [output])
    with pytest.raises(InputError, match="the same place"):
        check_outputs([case], [tmp_path / "a", tmp_path / "a"])
    with pytest.raises(InputError, match="no "):
        check_outputs([case], [tmp_path / "nowhere" / "a"])
    check_outputs([case], [tmp_path / "a", tmp_path / "b"])


def test_equal_content_is_the_same_file_whatever_its_time(tmp_path):
    path = tmp_path / "case.yapa"
    assert stamp_of(path) is None
    assert not changed_since(path, FileStamp.of(b"old"))  # what is gone holds nothing to lose
    path.write_text("old")
    stamp = stamp_of(path)
    os.utime(path, (1, 1))
    assert not changed_since(path, stamp)
    path.write_text("new")
    os.utime(path, (stamp.modified, stamp.modified))
    assert changed_since(path, stamp)  # of the same size and time
    assert changed_since(path, None)


def test_messages_stay_short_and_count_what_they_leave_out():
    assert len(str(bad_input("w" * 5000, "f" * 5000, "e" * 5000))) < 1000
    many = InputError([InputIssue(f"row {k}", "x" * 200, "y" * 200) for k in range(400)], "file")
    text = str(many)
    assert len(text.encode()) <= MAX_MESSAGE + 200
    assert text.endswith("more")
    assert len(many.problems) == 400
    assert "\n" not in str(bad_input("a\nb", "c", "d"))


def test_what_a_killed_process_left_is_swept_and_what_is_being_written_stays(tmp_path):
    left = tmp_path / f"{PART_PREFIX}abc{PART_SUFFIX}"
    left.write_text("half")
    part, handle = _open_part(tmp_path)
    forget_parts(tmp_path)
    assert not left.exists()
    assert part.exists()
    os.close(handle)
    forget_parts(tmp_path)
    assert not part.exists()


def test_a_file_is_replaced_while_its_folder_is_swept(tmp_path):
    target, stop = tmp_path / "case.yapa", threading.Event()

    def sweep():
        while not stop.is_set():
            forget_parts(tmp_path)

    sweeper = threading.Thread(target=sweep)
    sweeper.start()
    for k in range(100):
        write_atomically(target, str(k))
    stop.set()
    sweeper.join()
    assert target.read_text() == "99"
    assert [p.name for p in tmp_path.iterdir()] == ["case.yapa"]
