"""Noted by hand: heights, ratios, a rest time, a curve of theory, an earlier trial become evidence; marks are made on the stage."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from yapa.case import Case
from yapa.desktop.widgets.choice import Choice
from yapa.desktop.widgets.form_dialog import FormDialog, ask, number_from
from yapa.session.edits import bring_tracks
from yapa.session.manual_evidence import formula_track, note

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow


USUAL = 0.01
"""m: how well a curve of theory is to be met, if it is not said"""


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
        self.formulas = {axis: self.field(f"{axis}(t)", "", "A curve of theory: arithmetic of t [s] and g; it becomes a track")
                         for axis in "xz"}
        self.tolerance = self.field("How sure", "", "In metres, seconds or as a ratio; left empty, what is usual for each")
        for field, example in ((self.apexes, "0.74, 0.41"), (self.ratios, "0.55, 0.56"), (self.rest, "2.1"),
                               (self.formulas["x"], "1.2 * t"), (self.formulas["z"], "1.4 - g * t^2 / 2"),
                               (self.tolerance, "as usual")):
            field.setPlaceholderText(example)
        self.setMinimumWidth(440)
        self.trial = Choice()
        self.trial.addItems(["none", *(t.name for t in case.trials)])
        self.trial.setAccessibleName("trial")
        self.trial.setToolTip("The motion of an earlier trial, as a track to be met again")
        self.form.addRow("As in trial", self.trial)

    def take(self) -> None:
        """Read the notes; what cannot be read is said in the dialog."""
        body, sure = self.body.currentText(), self.tolerance.text().strip()
        formulas = {axis: field.text() for axis, field in self.formulas.items() if field.text().strip()}
        tolerance = number_from(self.tolerance, "how sure") if sure else None
        trial = self.trial.currentText() if self.trial.currentIndex() > 0 else ""
        noted = [self.apexes.text().strip(), self.ratios.text().strip(), self.rest.text().strip(), trial]
        self.after, self.lines = self._case, []
        if any(noted) or not formulas:
            self.after, self.lines = note(
                self._case, body, apexes=self.apexes.text(), ratios=self.ratios.text(),
                rest=number_from(self.rest, "rest time") if self.rest.text().strip() else None, trial=trial,
                tolerance=tolerance)
        if formulas:
            track = formula_track("theory", body, formulas, self._case.duration, self._case.fields.gravity, tolerance or USUAL)
            self.after = bring_tracks([track]).change(self.after)
            self.lines.append(f"track theory of {body}")


def open_dialog(window: MainWindow) -> None:
    """Evidence without a recording."""
    case = window.session.case
    if case is None or not case.dynamic_bodies():
        return
    dialog = NoteDialog(window, case)
    if ask(dialog) and dialog.after is not None:
        window.session.edit(dialog.after, "note by hand")
        window.show_message("noted: " + "; ".join(dialog.lines))
