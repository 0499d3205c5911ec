"""What guards a person's work and files, in the real window."""

from __future__ import annotations

import gc
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication, QFileDialog, QLabel, QMessageBox, QPushButton, QWidget

from tests.desktop.conftest import settled
from yapa.case import get_number
from yapa.demo import DATA
from yapa.desktop.app import theme as themes
from yapa.desktop.app.app import apply_theme
from yapa.desktop.app.case_files import suggested_name
from yapa.desktop.app.main_window import MainWindow
from yapa.desktop.dialogs.bring_track import bring_track
from yapa.desktop.dialogs.import_file import ImportDialog
from yapa.formats.case_json import read_case, write_case
from yapa.session.recovery import Kept, Recovery

E = "pairs.rind+pad.restitution"


def answer(qtbot, kind, act):
    """Wait for a dialog of a kind, and act on it."""
    seen = []

    def look():
        dialog = QApplication.activeModalWidget()
        if isinstance(dialog, kind) and dialog.isVisible():
            seen.append(dialog)
            act(dialog)
        else:
            QTimer.singleShot(20, look)

    QTimer.singleShot(20, look)
    return seen


def press_button(box, text):
    next(b for b in box.buttons() if b.text().replace("&", "") == text).click()


@pytest.fixture
def saved(bench, qtbot, tmp_path):
    """A window whose case was saved, edited, and changed on the disk by someone else."""
    w = bench("orange-drop")
    path = tmp_path / "mine.yapa"
    w.session.saver.save(path)
    settled(qtbot, w.session)
    w.session.set_number(E, 0.8)
    settled(qtbot, w.session)
    write_case(read_case(path).model_copy(update={"title": "theirs"}), path)
    return w, path


def test_a_file_changed_on_disk_is_asked_about_and_overwritten_on_request(saved, qtbot):
    w, path = saved
    words = []

    def overwrite(box):
        words.append(box.text())
        press_button(box, "Overwrite")

    answer(qtbot, QMessageBox, overwrite)
    w.files.save()
    settled(qtbot, w.session)
    assert "changed by someone else" in words[0]
    assert w.session.is_clean
    assert read_case(path).title != "theirs"
    assert get_number(read_case(path), E) == 0.8


def test_theirs_can_be_opened_instead(saved, qtbot):
    w, path = saved
    answer(qtbot, QMessageBox, lambda box: press_button(box, "Open theirs"))
    w.files.save()
    qtbot.waitUntil(lambda: w.session.case.title == "theirs", timeout=10000)
    assert read_case(path).title == "theirs"


def test_save_as_keeps_both(saved, qtbot, tmp_path, monkeypatch):
    w, path = saved
    offered = []

    def choose(_parent, _title, start, _kinds):
        offered.append(start)
        return str(tmp_path / "other.yapa"), ""

    monkeypatch.setattr(QFileDialog, "getSaveFileName", choose)
    answer(qtbot, QMessageBox, lambda box: press_button(box, "Save as…"))
    w.files.save()
    settled(qtbot, w.session)
    assert read_case(path).title == "theirs"
    assert get_number(read_case(tmp_path / "other.yapa"), E) == 0.8
    assert offered == [str(path)]


def test_cancel_writes_nothing(saved, qtbot):
    w, path = saved
    answer(qtbot, QMessageBox, lambda box: press_button(box, "Cancel"))
    w.files.save()
    settled(qtbot, w.session)
    assert read_case(path).title == "theirs"
    assert not w.session.is_clean


def test_what_is_saved_before_leaving_is_written_first(bench, qtbot, tmp_path, monkeypatch):
    w = bench("orange-drop")
    w.session.set_number(E, 0.8)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "mine.yapa"), ""))
    answer(qtbot, QMessageBox, lambda box: press_button(box, "Save"))
    assert w.files.may_leave()
    assert get_number(read_case(tmp_path / "mine.yapa"), E) == 0.8
    w.session.set_number(E, 0.7)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: ("", ""))
    answer(qtbot, QMessageBox, lambda box: press_button(box, "Cancel"))
    assert not w.files.may_leave()


def test_a_window_that_begins_with_a_file_shows_its_case_or_says_why_not(qtbot, tmp_path):
    (tmp_path / "bad.yapa").write_text("{")
    for path, right in ((DATA / "orange-drop.yapa", True), (tmp_path / "bad.yapa", False)):
        w = MainWindow(Recovery(tmp_path / "state"), path)
        qtbot.addWidget(w, before_close_func=lambda w: w.session.mark_clean())
        w.show()
        qtbot.waitUntil(lambda w=w: w.pages.currentWidget() is not None, timeout=20000)
        assert (w.pages.currentWidget() is w.page("bench" if right else "start"))
        assert (w.session.case is not None) == right
        assert ("bad.yapa" in w.message.text()) != right
        settled(qtbot, w.session)


def test_lost_work_is_taken_up_from_the_start_page(qtbot, tmp_path):
    lost = Recovery(tmp_path / "state")
    lost.write(Kept(read_case(DATA / "orange-drop.yapa").model_copy(update={"title": "lost work", "tracks": ()}), None))
    lost._lock.free(remove=False)  # as the system does when a process ends
    w = MainWindow(Recovery(tmp_path / "state"))
    qtbot.addWidget(w, before_close_func=lambda w: w.session.mark_clean())
    w.show()
    qtbot.waitExposed(w)
    button = next(b for b in w.findChildren(QPushButton) if b.text().startswith("Recover work"))
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: w.session.case is not None and w.session.case.title == "lost work", timeout=10000)
    assert not w.session.is_clean
    settled(qtbot, w.session)


@pytest.mark.parametrize(("title", "name"), [
    ("Orange drop", "orange-drop.yapa"), ("a/b: c", "a-b-c.yapa"), ("…", "case.yapa"), ("x" * 120, "x" * 80 + ".yapa")])
def test_saving_suggests_a_name_that_a_file_can_have(title, name, tmp_path):
    assert suggested_name(title) == name
    (tmp_path / name).touch()


def test_the_save_dialog_shows_the_suggested_name(bench, qtbot, monkeypatch):
    w = bench("orange-drop")
    offered = []
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda _p, _t, start, _k: (offered.append(start), ("", ""))[1])
    w.files.save()
    assert Path(offered[0]).name == "orange-drop.yapa"
    assert Path(offered[0]).parent.is_dir()


def test_a_file_that_says_too_little_is_asked_about_and_read_as_answered(bench, qtbot, tmp_path):
    w = bench("orange-drop")
    t = np.arange(60) / 100
    rows = [f"{a:.3f};{1000 * a:.4f};{900 - 300 * a:.4f}" for a in t]
    path = tmp_path / "lane.txt"
    path.write_text("\n".join(["time;along;height [furlong]", *rows]))
    tracks = len(w.session.case.tracks)
    seen = {}

    def fill(dialog: ImportDialog):
        seen["asked"] = dialog.model.open_questions
        assert not dialog.done_button.isEnabled()
        qtbot.wait(20)
        dialog.roles[1].setCurrentIndex(dialog.roles[1].findData("x"))
        dialog.units[1].setCurrentText("mm")
        assert not dialog.done_button.isEnabled()
        assert "unit of height" in dialog.wrong.text()
        dialog.units[2].setCurrentText("mm")
        assert dialog.done_button.isEnabled()
        qtbot.mouseClick(dialog.done_button, Qt.MouseButton.LeftButton)

    bring_track(w, path)
    qtbot.waitUntil(lambda: any(d.isVisible() for d in w.findChildren(ImportDialog)), timeout=10000)
    fill(next(d for d in w.findChildren(ImportDialog) if d.isVisible()))
    qtbot.waitUntil(lambda: len(w.session.case.tracks) == tracks + 1, timeout=10000)
    samples = w.session.case.tracks[-1].samples
    assert any("furlong" in text for text in seen["asked"])
    assert any("along" in text for text in seen["asked"])
    assert samples.x[10] == pytest.approx(0.1)
    assert samples.z[0] == pytest.approx(0.9)


def test_files_from_elsewhere_are_read_only_once_that_is_allowed(window, qtbot, tmp_path):
    (tmp_path / "in").mkdir()
    (tmp_path / "track.csv").write_bytes((DATA / "orange-drop.csv").read_bytes())
    case = read_case(DATA / "orange-drop.yapa")
    track = case.tracks[0].model_copy(update={"file": "../track.csv", "samples": None})
    write_case(case.model_copy(update={"tracks": (track,)}), tmp_path / "in" / "case.yapa")
    answer(qtbot, QMessageBox, lambda box: press_button(box, "Do not open"))
    window.open_path(tmp_path / "in" / "case.yapa")
    settled(qtbot, window.session)
    assert window.session.case is None
    answer(qtbot, QMessageBox, lambda box: press_button(box, "Read them"))
    window.open_path(tmp_path / "in" / "case.yapa")
    qtbot.waitUntil(lambda: window.session.case is not None, timeout=10000)
    assert window.session.case.tracks[0].samples is not None


def test_a_change_of_theme_reaches_every_label(bench, qtbot, monkeypatch):
    w = bench("orange-drop")
    app = QApplication.instance()
    try:
        monkeypatch.setattr(QGuiApplication.styleHints().__class__, "colorScheme", lambda _s: Qt.ColorScheme.Dark)
        apply_theme(app)
        w.apply_theme()
        qtbot.wait(50)
        colours = {}
        for label in w.findChildren(QLabel):
            role = label.property("role")
            if label.isVisible() and role:
                colours.setdefault(role, set()).add(label.palette().color(label.foregroundRole()).name().upper())
        assert {"ink", "soft"} <= set(colours)
        for role, seen in colours.items():
            assert seen == {getattr(themes.DARK, role).upper()}, role
    finally:
        monkeypatch.undo()
        apply_theme(app)
        w.apply_theme()
    for label in w.findChildren(QLabel):
        if label.isVisible() and label.property("role") == "ink":
            assert label.palette().color(label.foregroundRole()).name().upper() == themes.LIGHT.ink.upper()


def test_dialogs_that_are_closed_leave_nothing_behind(bench, qtbot):
    w = bench("orange-drop")

    def open_and_close():
        for command, name in (("Outcomes…", "outcomes"), ("What may be wrong…", "findings")):
            w.run_command(command)
            dialog = w.dialogs[name]
            qtbot.waitUntil(dialog.isVisible, timeout=5000)
            settled(qtbot, w.session)
            dialog.close()
        QApplication.sendPostedEvents(None, 52)  # DeferredDelete
        qtbot.wait(20)
        gc.collect()
        return len(w.findChildren(QWidget))

    first = open_and_close()
    assert [open_and_close() for _ in range(3)] == [first] * 3


def test_a_start_card_shows_the_motion_of_its_own_case(window, qtbot):
    qtbot.waitUntil(lambda: all(card.curve for card in window.start.cards), timeout=20000)
    own = {card.case.title: np.array(card.curve) for card in window.start.cards}
    bar = next(curve for title, curve in own.items() if "weep" in title)
    wanted = next(curve for title, curve in own.items() if "want" in title.lower())
    assert np.ptp(bar[:, 1]) > 0
    assert bar.shape != wanted.shape or not np.allclose(bar, wanted)
