"""Whatever is typed into whatever field there is, is taken or refused in words; fields are found by walking the widgets."""

from __future__ import annotations

import os

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit

from tests.desktop.conftest import laid_out, settled
from yapa.case.quantity_text import plain_number
from yapa.demo import DATA
from yapa.desktop.dialogs.bring_table import TableDialog
from yapa.desktop.dialogs.copies import Copies
from yapa.desktop.dialogs.import_file import ImportDialog
from yapa.desktop.dialogs.manual_evidence import NoteDialog
from yapa.desktop.dialogs.new_from_outcomes import NewFromOutcomes
from yapa.desktop.dialogs.new_from_track import NewFromTrack
from yapa.desktop.dialogs.numbers import NumbersDialog
from yapa.desktop.dialogs.target import TargetDialog
from yapa.errors import InputError
from yapa.formats.case_json import case_text, parse_case
from yapa.session.importing import ImportForm
from yapa.session.table_form import TableForm

COUNT = int(os.environ.get("YAPA_TEXTS", "2000" if os.environ.get("YAPA_HARD") else "12"))
NUMBERS = st.one_of(st.floats().map(str), st.integers(-10**30, 10**30).map(str), st.floats(-10, 10).map("{:.3g}".format))
UNITS = st.sampled_from(["", "m", "cm", " mm", " s", "ms", " deg", "°", "kg", " g", "%", "N", " parsec", "m/s", "1/s"])
WORDS = st.sampled_from([
    "nan", "-inf", "1e999", "×1.1", "+2 cm", "mixed", "3 m**2**9**9", "3 (m", "2 9^9^9^9 m", "", " ", "orange",
    "floor", "a.b", "a|b",
    "0.3 x 0.2 x 0.1", "0.74, 0.41", "t^2", "1.4 - g*t^2/2", "sqrt(", "1/0", "hit floor", "at 0.3 s", "٣", "−3", "\u202e", "🍊",
    "(0,0,0)", "0,0,1 .. 1,1,2"])
TEXTS = st.one_of(st.tuples(NUMBERS, UNITS).map("".join), WORDS, st.text(max_size=30),
                  st.text("0123456789.,-+eE xX/*()", max_size=12))


def each_text(one, *about):
    """Try many texts with one field."""
    @settings(max_examples=COUNT, deadline=None, database=None, suppress_health_check=list(HealthCheck))
    @given(TEXTS)
    def tried(text):
        one(text, *about)

    tried()


def typed(field, text, end=Qt.Key.Key_Return):
    """Mark what stands in a field, put the text in its place as a hand does, and press a key."""
    field.selectAll()
    field.insert(text)
    field.setModified(True)
    QTest.keyClick(field, end)


def fields_of(widget):
    return [f for f in widget.findChildren(QLineEdit) if f.isVisibleTo(widget) and f.isEnabled() and not f.isReadOnly()]


def word_of(field):
    return field.accessibleName() or field.placeholderText() or field.parent().accessibleName() or field.objectName()


def is_number(text):
    try:
        plain_number(text, "it")
    except InputError:
        return False
    return True


def check(window):
    """The case that is open could be saved and loaded."""
    case = window.session.case
    assert case_text(parse_case(case_text(case), "typed")) == case_text(case)


@pytest.mark.parametrize("select", [(), ("orange",), ("floor",), ("orange", "floor")], ids=lambda names: "+".join(names) or "scene")
def test_fields_of_the_card_take_or_refuse_every_text(bench, qtbot, select):
    window = bench("orange-drop")
    window.show_work("build")
    names = [name for name in window.session.case.bodies if name in select or (select and name != "orange" and "floor" in select)]
    window.session.builder.select(names)
    card = window.bench.card
    qtbot.waitUntil(lambda: len(fields_of(card)) > 3, timeout=20000)
    settled(qtbot, window.session)
    laid_out(qtbot, window)
    words = [word_of(f) for f in fields_of(card)]
    for word in dict.fromkeys(words):
        def one(text, word):
            field = next((f for f in fields_of(card) if word_of(f) == word), None)
            if field is None:  # the card has other lines now
                window.session.undo()
                return
            before = window.session.case
            typed(field, text)
            if window.session.case is not before:
                check(window)
                window.session.undo()
            window.session.builder.select(names)

        each_text(one, word)


DIALOGS = {
    "target": lambda w, _p: TargetDialog(w, ["orange", "floor"]),
    "outcomes": lambda w, _p: NewFromOutcomes(w),
    "note": lambda w, _p: NoteDialog(w, w.session.case),
    "copies": lambda w, _p: Copies(w, "orange", 1),
    "bring a track": lambda w, p: ImportDialog(w, ImportForm.of_file(p / "track.csv"), w.session),
    "pixels": lambda w, p: ImportDialog(w, ImportForm.of_file(p / "pixels.csv"), w.session),
    "new from a track": lambda w, p: NewFromTrack(w, ImportForm.of_file(p / "track.csv"), w.session),
    "table": lambda w, p: TableDialog(w, TableForm.of_file(p / "table.csv", w.session.case)),
}


@pytest.mark.parametrize("name", DIALOGS)
def test_fields_of_a_form_take_or_refuse_every_text(bench, qtbot, tmp_path, name, monkeypatch):
    """Done is pressed after each text; the form says what is wrong, or takes it: with Done enabled, one of the two."""
    window = bench("orange-drop")
    (tmp_path / "track.csv").write_text((DATA / "orange-drop.csv").read_text())
    (tmp_path / "pixels.csv").write_text("frame,x [px],y [px]\n" + "".join(f"{k},{100 + k},{900 - 10 * k}\n" for k in range(30)))
    (tmp_path / "table.csv").write_text("height [cm],rebound [cm]\n50,20\n75,30\n100,40\n125,50\n")
    dialog = DIALOGS[name](window, tmp_path)
    closed = []
    monkeypatch.setattr(dialog, "accept", lambda: closed.append(True))
    dialog.show()
    fields = fields_of(dialog)
    assert fields
    for field in fields:
        was = field.text()

        def one(text, field, was):
            closed.clear()
            typed(field, text, Qt.Key.Key_Tab)
            if dialog.done_button.isEnabled():
                dialog._accept()
                assert closed or dialog.wrong.text(), f"{word_of(field)}: {text!r} is neither taken nor refused"
            else:
                assert dialog.wrong.text(), f"{word_of(field)}: {text!r} stops the form without a word"
            field.setText(was)

        each_text(one, field, was)
    dialog.reject()
    check(window)


def test_fields_of_all_numbers_of_a_body_take_or_refuse_every_text(bench):
    window = bench("orange-drop")
    dialog = NumbersDialog(window, window.session, "orange", ("bodies.orange.",))
    dialog.show()
    for path, field in list(dialog.fields.items()):
        def one(text, path, field):
            before = window.session.case
            window.troubles.clear()
            typed(field, text)
            if window.session.case is not before:
                check(window)
                window.session.undo()
            else:
                assert window.troubles or is_number(text), f"{path}: {text!r} is neither taken nor refused"

        each_text(one, path, field)
    dialog.close()


def test_fields_of_unknowns_take_or_refuse_every_text(bench):
    window = bench("orange-drop")
    column = window.bench.unknowns
    for word in [word_of(f) for f in fields_of(column)]:
        def one(text, word):
            field = next((f for f in fields_of(column) if word_of(f) == word), None)
            if field is None:
                return
            before = window.session.case
            typed(field, text)
            if window.session.case is not before:
                check(window)
                window.session.undo()

        each_text(one, word)
