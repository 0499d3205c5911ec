"""Sketches of shapes on the card of a body, 24 pixels wide: one function and one row each."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter, QPen

from yapa.desktop.app.theme import theme


def _soft(p: QPainter) -> None:
    p.setPen(QPen(theme().color("soft"), 1))


def sphere(p: QPainter) -> None:
    """A round fruit, quartered."""
    p.drawEllipse(QPointF(12, 12), 9, 9)
    _soft(p)
    for a, b in ((3, 12), (12, 3)):
        p.drawLine(QPointF(a, b), QPointF(24 - a, 24 - b))


def box(p: QPainter) -> None:
    """A crate from the side."""
    p.drawRect(4, 6, 16, 12)


def capsule(p: QPainter) -> None:
    """A bar with round ends."""
    p.drawRoundedRect(3, 7, 18, 10, 5, 5)


def cylinder(p: QPainter) -> None:
    """A can from above its edge."""
    p.drawRect(6, 5, 12, 14)
    p.drawEllipse(QPointF(12, 5), 6, 2.5)


def hull(p: QPainter) -> None:
    """Something with corners."""
    p.drawPolygon([QPointF(x, y) for x, y in ((4, 14), (9, 4), (18, 6), (21, 15), (13, 20))])


def plane(p: QPainter) -> None:
    """A floor with what is below it."""
    p.drawLine(2, 9, 22, 9)
    _soft(p)
    for x in (6, 12, 18):
        p.drawLine(x, 11, x - 5, 17)


SKETCHES: dict[str, Callable[[QPainter], None]] = {
    "sphere": sphere, "box": box, "capsule": capsule, "cylinder": cylinder, "hull": hull, "plane": plane,
}


def draw(p: QPainter, kind: str) -> None:
    """Draw a shape of a kind with the pen and brush that are set."""
    SKETCHES.get(kind, hull)(p)
