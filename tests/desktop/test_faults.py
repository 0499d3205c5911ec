"""Whatever throws is seen: in a slot, a thread, a job, a form; the notice says what became of the case, and the window goes on."""

from __future__ import annotations

import sys
import threading

import pytest
from PySide6.QtCore import QTimer
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtWidgets import QApplication, QDialogButtonBox
from shiboken6 import isValid

from yapa.desktop.bench.trials.filmstrip import TrialCard
from yapa.desktop.dialogs.fault import FaultNotice
from yapa.desktop.dialogs.new_from_track import NewFromTrack, new_from_track
from yapa.desktop.widgets.form_dialog import FormDialog
from yapa.desktop.widgets.menus import Menu
from yapa.session.edits import Edit, remove_trial
from yapa.session.jobs import Queue

pytestmark = pytest.mark.faults


@pytest.fixture
def faulty(bench, monkeypatch):
    """A window with a case, whose faults reach its own hooks alone."""
    window = bench("orange-drop")
    hooks = window.fault_hooks
    monkeypatch.setattr(hooks, "_before", (lambda *a: None,) * 3)
    sys.excepthook, threading.excepthook, sys.unraisablehook = hooks._mine
    return window


def throw():
    raise ZeroDivisionError("by nothing")


def notices(window):
    return [d for d in window.findChildren(FaultNotice) if d.isVisible()]


def test_a_fault_in_a_slot_is_said_with_what_became_of_the_case_and_its_details_are_copied(faulty, qtbot):
    QTimer.singleShot(0, throw)
    qtbot.waitUntil(lambda: bool(notices(faulty)), timeout=5000)
    (notice,) = notices(faulty)
    assert notice.case.text() == "The case is untouched."
    assert "by nothing" in notice.copied.text()
    (buttons,) = notice.findChildren(QDialogButtonBox)
    next(b for b in buttons.buttons() if b.text() == "Copy details").click()
    assert "ZeroDivisionError: by nothing" in QApplication.clipboard().text()
    assert "in throw" in QApplication.clipboard().text()
    assert "by nothing" in faulty.troubles[-1]


def test_the_same_fault_again_is_counted_in_one_notice(faulty, qtbot):
    for _ in range(3):
        QTimer.singleShot(0, throw)
    qtbot.waitUntil(lambda: bool(notices(faulty)) and len(notices(faulty)[0].faults) == 3, timeout=5000)
    assert len(notices(faulty)) == 1
    assert "3 times" in notices(faulty)[0].head.text()


def test_a_fault_in_a_thread_and_in_a_job_are_said(faulty, qtbot):
    threading.Thread(target=throw, name="odd thread").start()
    faulty.session.jobs.run(Queue.SIDE, "dividing", lambda _job: throw(), print, faulty.session.show_error)
    qtbot.waitUntil(lambda: bool(notices(faulty)) and len(notices(faulty)[0].faults) == 2, timeout=5000)
    assert {fault.activity for fault in notices(faulty)[0].faults} == {"working in odd thread", "dividing"}


def test_a_fault_that_comes_after_an_edit_says_that_the_edit_stands(faulty, qtbot):
    def edit_and_throw():
        faulty.session.make(Edit("another title", lambda c: c.model_copy(update={"title": "other"})))
        throw()

    QTimer.singleShot(0, edit_and_throw)
    qtbot.waitUntil(lambda: bool(notices(faulty)), timeout=5000)
    assert "“another title” stands, and undo takes it back" in notices(faulty)[0].case.text()


def test_a_fault_of_an_edit_leaves_the_case_and_the_window_goes_on(faulty, qtbot):
    before = faulty.session.case
    QTimer.singleShot(0, lambda: faulty.session.make(Edit("divide", lambda _case: throw())))
    qtbot.waitUntil(lambda: bool(notices(faulty)), timeout=5000)
    assert faulty.session.case is before
    assert faulty.session.make(Edit("title", lambda c: c.model_copy(update={"title": "goes on"})))


def test_a_form_whose_work_fails_can_be_used_again(faulty, qtbot):
    class Odd(FormDialog):
        broken = True

        def take(self):
            if self.broken:
                throw()

    form = Odd("Odd form", faulty)
    form.show()
    QTimer.singleShot(0, form.done_button.click)
    qtbot.waitUntil(lambda: bool(notices(faulty)), timeout=5000)
    assert form.isVisible()
    assert form.done_button.isEnabled()
    assert "unexpected" in form.wrong.text()
    form.broken = False
    form.done_button.click()
    assert not form.isVisible()


def test_a_new_case_whose_making_fails_leaves_its_dialog_usable(window, qtbot, tmp_path, monkeypatch):
    monkeypatch.setattr(window.fault_hooks, "_before", (lambda *a: None,) * 3)
    sys.excepthook = window.fault_hooks._mine[0]
    path = tmp_path / "fall.csv"
    path.write_text("t,x,z\n" + "".join(f"{k / 50},{0.01 * k},{1 - 0.001 * k * k}\n" for k in range(20)))
    new_from_track(window, path)
    qtbot.waitUntil(lambda: bool(window.findChildren(NewFromTrack)), timeout=5000)
    (form,) = window.findChildren(NewFromTrack)
    monkeypatch.setattr(form, "use", lambda _tracks: throw())
    qtbot.waitUntil(form.done_button.isEnabled, timeout=5000)
    form.done_button.click()
    qtbot.waitUntil(lambda: bool(notices(window)), timeout=5000)
    assert form.isVisible()
    assert form.done_button.isEnabled()
    monkeypatch.undo()
    form.done_button.click()
    qtbot.waitUntil(lambda: not form.isVisible(), timeout=5000)
    assert window.session.case.tracks


def test_the_hooks_of_a_window_that_is_closed_are_gone(window):
    before = window.fault_hooks._before
    sys.excepthook, threading.excepthook, sys.unraisablehook = window.fault_hooks._mine
    window.session.mark_clean()
    window.close()
    assert (sys.excepthook, threading.excepthook, sys.unraisablehook) == before


def test_a_menu_of_a_card_that_is_made_anew_while_it_stands_open_does_no_harm(bench, qtbot):
    window = bench("orange-drop")
    strip = window.bench.findChild(TrialCard)
    at = strip.rect().center()
    QApplication.postEvent(strip, QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, strip.mapToGlobal(at)))
    qtbot.waitUntil(lambda: isinstance(QApplication.activePopupWidget(), Menu), timeout=5000)
    menu = QApplication.activePopupWidget()
    window.session.make(remove_trial(0))
    qtbot.waitUntil(lambda: not isValid(strip), timeout=10000)
    assert menu.isVisible()
    before = window.session.case
    menu.actions()[-1].trigger()
    menu.close()
    assert window.session.case is before
