"""Fields that say what a new case is of: a ball or a box, how large, how heavy, and what a dialog asks besides."""

from __future__ import annotations

from PySide6.QtWidgets import QGridLayout, QLineEdit, QWidget

from yapa.case.base import Vec3
from yapa.desktop.app.theme import px
from yapa.desktop.widgets.card import label
from yapa.desktop.widgets.choice import Choice
from yapa.desktop.widgets.form_dialog import number_from
from yapa.session.new_case import edges_of

BALL, BOX = "ball", "box"


class ThingFields(QWidget):
    """One line of fields, each under its name.

    Parameters
    ----------
    mass : what it weighs to begin with [kg]
    why_mass : what its mass does
    """

    def __init__(self, mass: str, why_mass: str) -> None:
        super().__init__()
        self._names: dict[QWidget, QWidget] = {}
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(10)
        self._grid.setVerticalSpacing(2)
        self.shape = self.choice("Thing", [BALL, BOX], "What moves: a ball, or a box that lies with its first edge along x")
        self.radius = self.field("Radius [m]", "0.04", "Of the ball: what it touches with, and what air brakes")
        self.edges = self.field("Edges [m]", "0.3 x 0.2 x 0.15", "Of the box; the first lies along the slope")
        self.mass = self.field("Mass [kg]", mass, why_mass)
        self.shape.currentTextChanged.connect(self._shaped)
        self._shaped(BALL)

    def choice(self, name: str, words: list[str], tip: str) -> Choice:
        """A further choice at the end of the line."""
        box = Choice()
        box.addItems(words)
        self._add(name, box, tip)
        return box

    def field(self, name: str, text: str, tip: str) -> QLineEdit:
        """A further field at the end of the line."""
        edit = QLineEdit(text)
        edit.setMinimumWidth(px(84))
        self._add(name, edit, tip)
        return edit

    def _add(self, name: str, field: QWidget, tip: str) -> None:
        at = self._grid.columnCount()
        field.setAccessibleName(name.partition(" [")[0].lower())
        field.setToolTip(tip)
        words = label(name, 9, role="soft")
        words.setBuddy(field)
        self._names[field] = words
        self._grid.addWidget(words, 0, at)
        self._grid.addWidget(field, 1, at)

    def _shaped(self, kind: str) -> None:
        self.show_field(self.radius, kind == BALL)
        self.show_field(self.edges, kind == BOX)

    def show_field(self, field: QWidget, on: bool) -> None:
        """Show or hide a field with its name."""
        field.setVisible(on)
        self._names[field].setVisible(on)

    @property
    def ball(self) -> float | None:
        """Its radius [m], where it is a ball.

        Raises
        ------
        InputError
            If the field is no number.
        """
        return number_from(self.radius, "radius") if self.shape.currentText() == BALL else None

    @property
    def box(self) -> Vec3 | None:
        """Its edges [m], where it is a box.

        Raises
        ------
        InputError
            If the field is not three lengths.
        """
        return edges_of(self.edges.text()) if self.shape.currentText() == BOX else None

    @property
    def weight(self) -> float:
        """Its mass [kg].

        Raises
        ------
        InputError
            If the field is no number.
        """
        return number_from(self.mass, "mass")
