"""Copies of what is selected: in a row or a grid, or scattered in a box."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QLineEdit, QWidget

from yapa.case.quantity_text import number_in
from yapa.desktop.widgets.choice import Choice
from yapa.desktop.widgets.form_dialog import FormDialog, ask
from yapa.errors import bad_input
from yapa.session.building import arranging
from yapa.session.edits import Edit

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow

ARRANGEMENTS = ("in a row or a grid", "scattered")


class Copies(FormDialog):
    """How many, and where."""

    def __init__(self, parent: QWidget | None, name: str, seed: int) -> None:
        super().__init__(f"Copies of {name}", parent, "Put them in")
        self._name = name
        self.edit: Edit | None = None
        self.way = Choice()
        self.way.addItems(list(ARRANGEMENTS))
        self.way.setAccessibleName("how")
        self.way.setToolTip("In equal steps, or at random places that overlap nothing")
        self.form.addRow("How", self.way)
        self.counts = self.field("How many along x, y, z", "5, 1, 1", "The body itself is the first of them")
        self.steps = self.field("From one to the next", "20 cm, 20 cm, 20 cm", "Along x, y and z; any unit")
        self.count = self.field("How many", "10", "Copies that are scattered")
        self.low = self.field("Box from", "-0.5, -0.5, 0.2", "Its lower corner: x, y, z; any unit", "m")
        self.high = self.field("Box to", "0.5, 0.5, 1.0", "Its upper corner", "m")
        self.sizes = self.field("Sizes from, to", "1, 1", "Parts of the body's own size, drawn at random: 0.7, 1.3")
        self.seed = self.field("Seed", str(seed), "The same seed gives the same places")
        self.way.currentTextChanged.connect(self._shape)
        self._shape(ARRANGEMENTS[0])

    def _shape(self, way: str) -> None:
        for fields, on in (((self.counts, self.steps), way == ARRANGEMENTS[0]),
                           ((self.count, self.low, self.high, self.sizes, self.seed), way == ARRANGEMENTS[1])):
            for edit in fields:
                self.form.setRowVisible(edit, on)

    def take(self) -> None:
        """Make the edit."""
        if self.way.currentText() == ARRANGEMENTS[0]:
            counts = [_whole(text, "copies") for text in _three(self.counts)]
            self.edit = arranging.copies(self._name, counts, [number_in(text, "m", "step") for text in _three(self.steps)])
        else:
            low, high = ([number_in(text, "m", "box") for text in _three(edit)] for edit in (self.low, self.high))
            count, seed = _whole(self.count.text(), "copies"), _whole(self.seed.text(), "seed")
            sizes = tuple(number_in(text.strip(), "", "sizes") for text in self.sizes.text().split(","))
            if len(sizes) != 2:
                raise bad_input("Sizes from, to", repr(self.sizes.text()), "two numbers with a comma between")
            self.edit = arranging.scatter(self._name, count, low, high, seed, None if sizes == (1.0, 1.0) else (sizes[0], sizes[1]))


def _three(edit: QLineEdit) -> list[str]:
    parts = [part.strip() for part in edit.text().split(",")]
    if len(parts) != 3:
        raise bad_input(edit.accessibleName(), repr(edit.text()), "three numbers with commas between")
    return parts


def _whole(text: str, what: str) -> int:
    try:
        return int(text)
    except ValueError:
        raise bad_input(what, repr(text), "a whole number") from None


def open_dialog(window: MainWindow) -> None:
    """Ask how the one body that is selected is copied."""
    session, name = window.session, window.session.builder.body
    if session.case is None:
        return
    if name is None:
        session.error.emit("copies: found no body, or several, selected; expected one: click it on the stage or in the list")
        return
    dialog = Copies(window, name, session.case.seed)
    if ask(dialog) and dialog.edit is not None:
        session.builder.edit(dialog.edit)
