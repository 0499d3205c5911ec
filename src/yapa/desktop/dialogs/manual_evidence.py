"""Noted by hand: apex heights, ratios, a stopwatch, marks and a drawn path become evidence."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from yapa.case import Case
from yapa.desktop.widgets.choice import Choice
from yapa.desktop.widgets.form_dialog import FormDialog, ask, number_from
from yapa.session.manual_evidence import note

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow


class NoteDialog(FormDialog):
    """What was seen without a recording, in the words of a notebook."""

    def __init__(self, parent: QWidget | None, case: Case) -> None:
        super().__init__("Noted by hand", parent, "Keep as evidence")
        self._case = case
        self.after: Case | None = None
        self.lines: list[str] = []
        self.body = Choice()
        self.body.addItems(case.dynamic_bodies())
        self.body.setAccessibleName("body")
        self.form.addRow("Body", self.body)
        self.apexes = self.field("Apexes", "", "How high it rose after each bounce, in order: 0.74, 0.41", "m")
        self.ratios = self.field("Ratios", "", "Each apex over the one before, from the second on: 0.55, 0.56")
        self.rest = self.field("Rest time", "", "What the stopwatch showed when it lay still", "s")
        self.marks = self.field("Marks", "", "Seen at a place at a time: TIME:X,Y,Z, - where not seen, blanks between several")
        self.path = self.field("Path", "", "A path drawn through places, TIME:X,Y,Z TIME:X,Y,Z …; it becomes a track")
        self.tolerance = self.field("How sure", "", "In metres, seconds or as a ratio; left empty, what is usual for each")
        for field, example in ((self.apexes, "0.74, 0.41"), (self.ratios, "0.55, 0.56"), (self.rest, "2.1"),
                               (self.marks, "0.53:0,-,0.04"), (self.path, "0:0,0,1.4 0.3:0,0,1.0"), (self.tolerance, "as usual")):
            field.setPlaceholderText(example)
        self.setMinimumWidth(440)
        self.trial = Choice()
        self.trial.addItems(["", *(t.name for t in case.trials)])
        self.trial.setAccessibleName("trial")
        self.trial.setToolTip("The motion of an earlier trial, as a track to be met again")
        self.form.addRow("As in trial", self.trial)

    def take(self) -> None:
        """Read the notes; what cannot be read is said in the dialog."""
        self.after, self.lines = note(
            self._case, self.body.currentText(), apexes=self.apexes.text(), ratios=self.ratios.text(),
            rest=number_from(self.rest, "rest time") if self.rest.text().strip() else None, marks=self.marks.text().split(),
            path=self.path.text(), trial=self.trial.currentText(),
            tolerance=number_from(self.tolerance, "how sure") if self.tolerance.text().strip() else None)


def open_dialog(window: MainWindow) -> None:
    """Evidence without a recording."""
    case = window.session.case
    if case is None or not case.dynamic_bodies():
        return
    dialog = NoteDialog(window, case)
    if ask(dialog) and dialog.after is not None:
        window.session.edit(dialog.after, "note by hand")
        window.show_message("noted: " + "; ".join(dialog.lines))
