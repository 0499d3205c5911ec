"""Every number and choice of a case, in the list of the window."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QLineEdit

from tests.desktop.conftest import settled
from yapa.desktop.dialogs.everything import VALUE, EverythingDialog
from yapa.session.entries import entries_of


def opened(w, qtbot):
    w.run_command("Every number and choice…")
    dialog = next(d for d in w.findChildren(EverythingDialog) if d.isVisible())
    qtbot.waitExposed(dialog)
    return dialog


def editor_at(dialog, qtbot, words):
    """Narrow the list to one entry, and open its editor by a key."""
    dialog.words.clear()
    qtbot.keyClicks(dialog.words, words)
    assert dialog.shown.rowCount() == 1, words
    dialog.list.setCurrentIndex(dialog.shown.index(0, VALUE))
    dialog.list.setFocus()
    qtbot.keyClick(dialog.list.viewport(), Qt.Key.Key_F2)
    return next(e for kind in (QComboBox, QLineEdit) for e in dialog.list.findChildren(kind) if e.isVisible())


def test_every_entry_is_in_the_list_and_has_an_editor_of_its_kind(bench, qtbot):
    w = bench("orange-drop")
    dialog = opened(w, qtbot)
    entries = entries_of(w.session.case)
    assert dialog.shown.rowCount() == len(entries) > 100
    delegate = dialog.list.itemDelegate()
    for row, entry in enumerate(entries):
        index = dialog.shown.index(row, VALUE)
        editor = delegate.createEditor(dialog.list, None, index)
        delegate.setEditorData(editor, index)
        shown = editor.currentText() if entry.choices else editor.text()
        assert shown == entry.text, entry.words
        editor.deleteLater()


def test_a_number_and_a_choice_are_changed_where_they_stand(bench, qtbot):
    w = bench("orange-drop")
    dialog = opened(w, qtbot)
    editor = editor_at(dialog, qtbot, "duration")
    editor.selectAll()
    qtbot.keyClicks(editor, "1500 ms")
    qtbot.keyClick(editor, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: w.session.case.duration == 1.5, timeout=5000)
    editor = editor_at(dialog, qtbot, "pairing friction")
    qtbot.keyClicks(editor, "larger")
    qtbot.waitUntil(lambda: w.session.case.pairing.friction == "larger", timeout=5000)
    settled(qtbot, w.session)
    w.session.undo()
    w.session.undo()
    assert w.session.case.duration != 1.5
    assert dialog.entries.entries == entries_of(w.session.case)


def test_what_cannot_be_is_said_and_the_value_stays(bench, qtbot):
    w = bench("orange-drop")
    dialog = opened(w, qtbot)
    before = w.session.case
    editor = editor_at(dialog, qtbot, "duration")
    editor.selectAll()
    qtbot.keyClicks(editor, "soon")
    qtbot.keyClick(editor, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: bool(w.troubles), timeout=5000)
    assert w.session.case is before
    assert "a number" in w.troubles[-1]
