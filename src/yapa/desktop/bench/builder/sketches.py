"""Sketches of the things of the stock, in a rectangle: lines as fractions of it, a row each."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter

Points = tuple[tuple[float, float], ...]

FILLED: dict[str, tuple[Points, ...]] = {
    "crate": (((0.05, 0.15), (0.95, 0.15), (0.95, 0.9), (0.05, 0.9)),),
    "plank": (((0, 0.45), (1, 0.45), (1, 0.62), (0, 0.62)),),
    "wedge": (((0, 0.9), (1, 0.9), (1, 0.2)),),
    "hull": (((0.05, 0.85), (0.95, 0.85), (0.75, 0.3), (0.25, 0.3)),),
    "slope": (((0, 0.15), (0.05, 0.05), (1, 0.8), (0.95, 0.9)),),
    "wall": (((0.42, 0), (0.58, 0), (0.58, 1), (0.42, 1)),),
    "driven bar": (((0.1, 0.05), (0.3, 0.05), (0.3, 0.95), (0.1, 0.95)),),
}
"""Closed outlines."""
LINES: dict[str, tuple[Points, ...]] = {
    "crate": (((0.05, 0.5), (0.95, 0.5)),),
    "hull": (((0.25, 0.3), (0.4, 0.85)), ((0.75, 0.3), (0.6, 0.85))),
    "floor": (((0, 0.5), (1, 0.5)), *(((x, 0.55), (x - 0.14, 0.8)) for x in (0.2, 0.45, 0.7, 0.95))),
    "wall": tuple(((0.6, y), (0.75, y + 0.15)) for y in (0.1, 0.4, 0.7)),
    "open bin": (((0.1, 0.1), (0.15, 0.9), (0.85, 0.9), (0.9, 0.1)),),
    "lane": (((0, 0.3), (1, 0.3)), ((0, 0.52), (1, 0.52)), ((0, 0.74), (1, 0.74))),
    "closed box": (((0.15, 0.05), (0.85, 0.05), (0.85, 0.95), (0.15, 0.95), (0.15, 0.05)),
                   ((0.3, 0.2), (0.7, 0.2), (0.7, 0.8), (0.3, 0.8), (0.3, 0.2))),
    "driven bar": (((0.4, 0.5), (0.95, 0.5)), ((0.75, 0.3), (0.95, 0.5), (0.75, 0.7))),
}
"""Open lines."""


def draw_thing(p: QPainter, name: str, box: QRectF) -> None:
    """Draw a thing of the stock with the pen and brush that are set."""
    def at(points: Points) -> list[QPointF]:
        return [QPointF(box.x() + x * box.width(), box.y() + y * box.height()) for x, y in points]

    middle, half = box.center(), 0.5 * box.height()
    if name == "ball":
        p.drawEllipse(middle, half, half)
    elif name == "can":
        p.drawRoundedRect(QRectF(middle.x() - 7, box.y(), 14, box.height()), 3, 3)
        p.drawEllipse(QPointF(middle.x(), box.y() + 3), 7, 3)
    elif name == "capsule":
        p.drawRoundedRect(QRectF(box.x() + 1, middle.y() - 6, box.width() - 2, 12), 6, 6)
    for points in FILLED.get(name, ()):
        p.drawPolygon(at(points))
    for points in LINES.get(name, ()):
        p.drawPolyline(at(points))
