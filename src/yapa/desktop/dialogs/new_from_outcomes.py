"""New from outcomes: nobody has a recording, only what should happen."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from yapa.case import Case
from yapa.desktop.widgets.choice import Choice
from yapa.desktop.widgets.form_dialog import FormDialog, ask, number_from
from yapa.errors import bad_input
from yapa.session.new_case import from_outcomes

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow


class NewFromOutcomes(FormDialog):
    """Shape, drop height, wanted apexes, rest time."""

    def __init__(self, parent: QWidget | None) -> None:
        super().__init__("New from outcomes", parent, "Make the case")
        self.case: Case | None = None
        self.title = self.field("Name", "wanted bounce", "What this case is called")
        self.shape = Choice()
        self.shape.addItems(["sphere", "box"])
        self.shape.setAccessibleName("shape")
        self.form.addRow("Shape", self.shape)
        self.radius = self.field("Radius", "0.04", "Radius of the sphere", "m")
        self.edges = self.field("Edges", "0.2 x 0.2 x 0.1", "Edge lengths of the box", "m")
        self.mass = self.field("Mass", "0.2", "Matters only with drag", "kg")
        self.drop_height = self.field("Drop height", "1.0", "From its lowest point to the floor", "m")
        self.apexes = self.field("Apexes", "0.5, 0.25", "How high it should rise after each bounce, in order", "m")
        self.tolerance = self.field("Tolerance of an apex", "0.01", "How far off still counts as met", "m")
        self.rest = self.field("Rest time", "", "When it should lie still; may stay empty", "s")
        self.shape.currentTextChanged.connect(self._shaped)
        self._shaped("sphere")

    def _shaped(self, kind: str) -> None:
        self.radius.setEnabled(kind == "sphere")
        self.edges.setEnabled(kind == "box")

    def take(self) -> None:
        """Make the case."""
        try:
            apexes = [float(a) for a in self.apexes.text().replace(";", ",").split(",") if a.strip()]
        except ValueError:
            raise bad_input("apexes", repr(self.apexes.text()), "heights in metres with commas between, such as 0.5, 0.25"
                            ) from None
        size = None
        if self.shape.currentText() == "box":
            try:
                a, b, c = (float(p) for p in self.edges.text().lower().replace("×", "x").split("x"))
            except ValueError:
                raise bad_input("edges", repr(self.edges.text()), "three lengths, such as 0.2 x 0.2 x 0.1") from None
            size = (a, b, c)
        self.case = from_outcomes(
            self.title.text().strip() or "wanted bounce", number_from(self.radius, "radius") if size is None else None,
            size, number_from(self.mass, "mass"), number_from(self.drop_height, "drop height"), apexes,
            number_from(self.rest, "rest time") if self.rest.text().strip() else None,
            number_from(self.tolerance, "tolerance"))


def open_dialog(window: MainWindow) -> None:
    """The form for a new case from outcomes."""
    if not window.files.may_leave():
        return
    dialog = NewFromOutcomes(window)
    if ask(dialog) and dialog.case is not None:
        window.session.open_case(dialog.case)
        window.show_message("ready: press F to find the numbers")
