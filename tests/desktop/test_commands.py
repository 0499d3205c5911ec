"""Commands, pages and dialogs are rows of registries; the finder finds them."""

from __future__ import annotations

from collections import Counter
from typing import get_args

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import QApplication, QDialog, QMenu

from tests.desktop.conftest import settled
from yapa.case.scene import Box, Capsule, Cylinder, Hull, Plane, Sphere
from yapa.demo import DATA
from yapa.desktop.app.commands import COMMANDS
from yapa.desktop.app.finder import matching
from yapa.desktop.app.main_window import MainWindow
from yapa.desktop.bench.evidence.sketches import SKETCHES
from yapa.desktop.pages.registry import PAGES
from yapa.session.jobs import Queue
from yapa.session.new_case import empty_scene
from yapa.session.recovery import Recovery

OUTCOME_SPECS = {"New from a track…", "New from outcomes…", "Open…", "Save as…", "Bring a track…", "Quit",
          "Bring a table of trials…",          "Say what should happen…", "Note by hand…", "Save"}
"""What waits for an answer, or closes the window."""


def test_every_command_has_a_key_of_its_own_a_tip_and_an_entry_in_its_menu(window):
    assert max(Counter(c.key for c in COMMANDS).values()) == 1
    assert max(Counter(c.text for c in COMMANDS).values()) == 1
    for command in COMMANDS:
        action = window.actions_by_text[command.text]
        assert action.shortcut() == QKeySequence(command.key)
        assert action.toolTip() == command.tip
        menu = next(m for m in window.menuBar().findChildren(QMenu) if m.title() == command.menu)
        assert action in menu.actions()


@pytest.mark.parametrize("command", [c.text for c in COMMANDS if c.text not in OUTCOME_SPECS])
def test_a_command_without_a_case_does_nothing_wrong(window, command):
    window.run_command(command)
    assert window.troubles == []


def test_a_plain_key_is_not_heard_while_a_person_types(bench, qtbot):
    w = bench("orange-drop")
    value = next(iter(w.bench.unknowns.rows.values())).value
    value.setFocus()
    qtbot.waitUntil(lambda: QApplication.focusWidget() is value, timeout=5000)
    fit = next(c for c in COMMANDS if c.text == "Fit")
    w._on_key(fit)
    assert not w.session.fits.running


def test_the_finder_in_the_status_line_does_the_command_that_is_found(bench, qtbot):
    w = bench("orange-drop")
    w.session.playback.go_to(0.8)
    w.bench.stage.setFocus()
    w.run_command("Find a command")
    qtbot.waitUntil(w.finder.hasFocus, timeout=5000)
    assert w.finder.list.isVisible()
    qtbot.keyClicks(w.finder, "put the play head")
    assert w.finder.list.topLevelItemCount() == 1
    qtbot.keyClicks(w.finder, " at")
    qtbot.keyClick(w.finder, Qt.Key.Key_Down)
    qtbot.keyClick(w.finder, Qt.Key.Key_Return)
    assert w.session.playback.time == 0.0
    assert not w.finder.list.isVisible()
    assert w.bench.stage.hasFocus()


def test_esc_closes_the_finder_and_gives_the_keys_back(bench, qtbot):
    w = bench("orange-drop")
    w.bench.stage.setFocus()
    w.run_command("Find a command")
    qtbot.keyClick(w.finder, Qt.Key.Key_Up)
    assert w.finder.list.currentItem() is not w.finder.list.topLevelItem(0)
    qtbot.keyClick(w.finder, Qt.Key.Key_Escape)
    assert not w.finder.isVisible()
    assert w.bench.stage.hasFocus()


def test_a_case_that_was_opened_last_is_opened_again_by_its_number(qtbot, tmp_path):
    path = tmp_path / "kept.yapa"
    path.write_bytes((DATA / "orange-wanted.yapa").read_bytes())
    w = MainWindow(Recovery(tmp_path / "state"))
    qtbot.addWidget(w)
    w.show()
    qtbot.waitExposed(w)
    w.run_command("Open again…")
    qtbot.waitUntil(lambda: "no case" in w.message.text(), timeout=5000)
    w.open_path(path)
    qtbot.waitUntil(lambda: w.session.path == path and path in w.session.recent.present(), timeout=20000)
    settled(qtbot, w.session)
    w.session.open_case(empty_scene())
    w.run_command("Open again…")
    qtbot.waitUntil(lambda: QApplication.activePopupWidget() is not None, timeout=5000)
    menu = QApplication.activePopupWidget()
    assert menu.accessibleName() == "opened or saved last"
    qtbot.keyClick(menu, Qt.Key.Key_1)
    qtbot.waitUntil(lambda: w.session.path == path, timeout=20000)
    w.session.mark_clean()
    w.close()


def test_help_tells_of_what_has_the_keys_and_of_every_key(bench, qtbot):
    w = bench("orange-drop")
    w.bench.stage.setFocus()
    w.run_command("Help")
    dialog = next(d for d in w.findChildren(QDialog) if d.windowTitle() == "Help")
    words = dialog.words.toPlainText()
    assert "Stage" in words
    for command in COMMANDS:
        assert command.key in words


def test_words_are_looked_for_in_names_tips_and_keys():
    assert [c.text for c in matching("undo")] == ["Undo"]
    assert "Save" in [c.text for c in matching("ctrl+s")]
    assert matching("no such thing") == []
    assert len(matching("")) == len(COMMANDS)


def test_every_page_is_made_when_it_is_first_shown(window):
    assert set(window._built) == {"start"}
    for page in PAGES:
        window.show_page(page.name)
        assert window.pages.currentWidget() is window.page(page.name)


def test_what_lasts_is_told_with_how_to_stop_it(window, qtbot):
    stopped = []

    def work(job):
        job.report_progress(0.5)
        while not job.cancel.is_set():
            pass
        job.cancel.raise_if_cancelled()

    window.session.search("searching something", work, stopped.append, lambda error: stopped.append(type(error).__name__))
    qtbot.waitUntil(lambda: window.help.text() == "searching something · 50% · Esc stops", timeout=5000)
    window.run_command("Stop")
    settled(qtbot, window.session)
    assert stopped == ["Cancelled"]
    assert "Space plays" in window.help.text()
    assert window.session.jobs.under_way(Queue.SEARCH) == []


def test_every_kind_of_shape_has_a_sketch():
    kinds = {get_args(member.model_fields["kind"].annotation)[0] for member in (Sphere, Box, Capsule, Cylinder, Hull, Plane)}
    assert set(SKETCHES) == kinds


def test_the_start_page_leads_back_to_the_case_that_is_open(bench):
    w = bench("orange-drop")
    w.run_command("Start page")
    assert w.pages.currentWidget() is w.start
    w.run_command("Back to the case")
    assert w.pages.currentWidget() is w.bench
