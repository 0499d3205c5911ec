"""The files that were opened or saved last."""

from __future__ import annotations

from tests.session.conftest import saved
from yapa.session.recent import FILE, MOST, RecentFiles


def test_the_newest_comes_first_each_once_and_what_is_gone_is_not_listed(tmp_path):
    recent = RecentFiles(tmp_path / "state")
    assert recent.present() == []
    files = [tmp_path / f"case {k}.yapa" for k in range(MOST + 2)]
    for file in files:
        file.write_text("{}")
        recent.note(file)
    recent.note(files[3])
    assert recent.present() == [files[3], *(f for f in reversed(files) if f != files[3])][:MOST]
    files[3].unlink()
    assert files[3] not in RecentFiles(tmp_path / "state").present()


def test_a_list_that_cannot_be_read_or_written_stops_nothing(tmp_path):
    (tmp_path / FILE).write_text("{nonsense")
    recent = RecentFiles(tmp_path)
    assert recent.present() == []
    (tmp_path / "taken").write_text("a file, no folder")
    RecentFiles(tmp_path / "taken").note(tmp_path / FILE)
    assert RecentFiles(tmp_path / "taken").present() == []


def test_what_is_saved_and_opened_is_noted(desk, ear, tmp_path):
    path = tmp_path / "orange.yapa"
    assert saved(desk, ear, path)
    ear.until(lambda: desk.jobs.idle)
    assert desk.recent.present() == [path]
    other = tmp_path / "other.yapa"
    other.write_text(path.read_text())
    desk.opener.load(other)
    ear.until(lambda: desk.jobs.idle)
    assert desk.recent.present() == [other, path]
