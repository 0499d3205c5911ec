"""New from outcomes: nobody has a recording, only what should happen."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from yapa.case import Case
from yapa.desktop.app.theme import px
from yapa.desktop.widgets.card import label
from yapa.desktop.widgets.choice import Choice
from yapa.desktop.widgets.form_dialog import FormDialog, number_from, show_once
from yapa.errors import bad_input
from yapa.session.new_case import from_outcomes
from yapa.session.outcomes import CATALOGUE
from yapa.session.wishes_text import parse_wishes

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow


class NewFromOutcomes(FormDialog):
    """Shape, drop height, and any outcomes."""

    def __init__(self, parent: QWidget | None) -> None:
        super().__init__("New from outcomes", parent, "Make the case")
        self.case: Case | None = None
        self.setMinimumWidth(px(460))
        self.title = self.field("Name", "wanted bounce", "What this case is called")
        self.shape = Choice()
        self.shape.addItems(["sphere", "box"])
        self.shape.setAccessibleName("shape")
        self.form.addRow("Shape", self.shape)
        self.radius = self.field("Radius", "0.04", "Radius of the sphere", "m")
        self.edges = self.field("Edges", "0.2 x 0.2 x 0.1", "Edge lengths of the box", "m")
        self.mass = self.field("Mass", "0.2", "Matters only with drag", "kg")
        self.drop_height = self.field("Drop height", "1.0", "From its lowest point to the floor", "m")
        self.wishes = self.field("What should happen", "apex 1 = 50 cm; apex 2 = 25 cm",
                                 "Outcomes with semicolons between, in any unit: apex 3 = 30 cm ± 1 cm; rest time = 2.1 s")
        self.column.insertWidget(1, label("Outcomes: " + ", ".join(list(CATALOGUE)[:14]) + " …", 9, role="soft", wrap=True))
        self.shape.currentTextChanged.connect(self._shaped)
        self._shaped("sphere")

    def _shaped(self, kind: str) -> None:
        self.form.setRowVisible(self.radius, kind == "sphere")
        self.form.setRowVisible(self.edges, kind == "box")

    def take(self) -> None:
        """Make the case."""
        wishes = parse_wishes(self.wishes.text())
        size = None
        if self.shape.currentText() == "box":
            try:
                a, b, c = (float(p) for p in self.edges.text().lower().replace("×", "x").split("x"))
            except ValueError:
                raise bad_input("edges", repr(self.edges.text()), "three lengths, such as 0.2 x 0.2 x 0.1") from None
            size = (a, b, c)
        self.case = from_outcomes(
            self.title.text().strip() or "wanted bounce", number_from(self.radius, "radius") if size is None else None,
            size, number_from(self.mass, "mass"), number_from(self.drop_height, "drop height"), [], None, wishes=wishes)


def open_dialog(window: MainWindow) -> None:
    """The form for a new case from outcomes."""
    if not window.files.may_leave():
        return
    dialog = NewFromOutcomes(window)

    def take() -> None:
        if dialog.case is not None:
            window.session.open_case(dialog.case)
            window.show_message("ready: press F to find the numbers")

    dialog.accepted.connect(take)
    show_once(dialog)
