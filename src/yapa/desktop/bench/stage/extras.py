"""What a person chose to see beside the picture: arrows of the motion, and the shapes as they collide."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from yapa.desktop.app.theme import font, theme
from yapa.desktop.bench.stage.outlines import outline
from yapa.motion import Array, Motion
from yapa.session.vectors import VECTORS, Arrow

if TYPE_CHECKING:
    from yapa.desktop.bench.stage.stage import Stage

PICTURES, SHAPES, BOTH = "pictures", "what collides", "both"
BODY_VIEWS = (PICTURES, SHAPES, BOTH)
LINES = (Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DotLine)


class Extras:
    """Extras of one stage.

    Attributes
    ----------
    shown : names of what is shown, as in the registry of vectors
    bodies_as : pictures, what collides, or both
    """

    def __init__(self, stage: Stage) -> None:
        self._stage, self._session = stage, stage.session
        self.shown: set[str] = set()
        self.bodies_as = PICTURES

    def cycle(self) -> None:
        """The next way of seeing bodies."""
        self.bodies_as = BODY_VIEWS[(BODY_VIEWS.index(self.bodies_as) + 1) % len(BODY_VIEWS)]
        self._session.message.emit(f"bodies are shown as {self.bodies_as}" if self.bodies_as != BOTH else
                                   "bodies are shown with the shapes that collide")
        self._stage.update()

    def show(self, name: str, on: bool) -> None:
        """Show something, or leave it out."""
        (self.shown.add if on else self.shown.discard)(name)
        self._stage.update()

    def paint(self, p: QPainter, motion: Motion, states: Array) -> None:
        """Everything chosen, at these states (n, 16)."""
        if self.bodies_as != PICTURES:
            self._shapes(p, motion, states)
        time = self._session.playback.time
        for vectors in VECTORS:
            if vectors.name in self.shown:
                for arrow in vectors.make(motion, time):
                    if arrow.body not in self._session.builder.hidden:
                        self._arrow(p, arrow)

    def _shapes(self, p: QPainter, motion: Motion, states: Array) -> None:
        """Every shape's outline, and a dotted one where its clearance ends."""
        metre = self._stage.view.pixels(1.0, self._stage.height())
        p.setBrush(Qt.BrushStyle.NoBrush)
        for k, body in enumerate(motion.bodies):
            if body.kind == "plane" or body.name in self._session.builder.hidden:
                continue
            for shape in body.shapes:
                pixels = self._stage.to_pixels(outline(shape, states[k], self._stage.view))
                p.setPen(QPen(theme().color("ink"), 1.3))
                p.drawPolygon(QPolygonF([QPointF(x, y) for x, y in pixels]))
                if shape.contact_margin > 0:
                    away = pixels - pixels.mean(axis=0)
                    size = (away**2).sum(axis=1, keepdims=True) ** 0.5
                    wider = pixels + metre * shape.contact_margin * away / size.clip(1e-9)
                    p.setPen(QPen(theme().color("ink", 0.7), 1, Qt.PenStyle.DotLine))
                    p.drawPolygon(QPolygonF([QPointF(x, y) for x, y in wider]))

    def _arrow(self, p: QPainter, arrow: Arrow) -> None:
        t = theme()
        (x, y), (u, v) = self._stage.to_pixels(self._ends(arrow))
        p.setPen(QPen(t.color("ink"), 1.4, LINES[arrow.dashes]))
        long = float(((u - x) ** 2 + (v - y) ** 2) ** 0.5)
        if long < 2.0:  # a point, or an arrow that comes towards the eye
            p.drawEllipse(QPointF(x, y), 4.0, 4.0)
            p.drawLine(QPointF(x - 6, y), QPointF(x + 6, y))
            p.drawLine(QPointF(x, y - 6), QPointF(x, y + 6))
        else:
            p.drawLine(QPointF(x, y), QPointF(u, v))
            a, b = (u - x) / long, (v - y) / long
            p.setPen(QPen(t.color("ink"), 1.4))
            for side in (1, -1):
                p.drawLine(QPointF(u, v), QPointF(u - 7 * a + side * 4 * b, v - 7 * b - side * 4 * a))
        if arrow.words:
            p.setFont(font(9))
            p.setPen(t.color("ink"))
            p.drawText(QPointF(u + 6, v - 5), arrow.words)

    def _ends(self, arrow: Arrow) -> Array:
        out: Array = arrow.place + [[0.0], [1.0]] * arrow.vector
        return out
