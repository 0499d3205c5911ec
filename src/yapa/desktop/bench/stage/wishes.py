"""What is wanted, on the stage: rings that are pulled to change a tolerance, boxes of zones, and a box that is being drawn."""

from __future__ import annotations

from itertools import product
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from yapa.desktop.app.theme import font, theme
from yapa.motion import Array
from yapa.session.building.asking import want
from yapa.session.building.rays import Ray, nice_step
from yapa.session.building.target_marks import Ring, end_inside, rings_of, widen, zones_of

if TYPE_CHECKING:
    from yapa.desktop.bench.stage.stage import Stage

NEAR = 4.0
"""pixels: within this of a ring the hand takes it"""
AROUND = np.linspace(0, 2 * np.pi, 49)
UP = np.array([0.0, 0.0, 1.0])


class Wishes:
    """Rings and zones of one stage.

    Attributes
    ----------
    drawing : the body that a box is drawn for; None while none is
    """

    def __init__(self, stage: Stage) -> None:
        self._stage, self._session = stage, stage.session
        self._ring: Ring | None = None
        self._radius = 0.0
        self.drawing: str | None = None
        self._corners: list[Array] = []
        self._down = False

    # -- rings -------------------------------------------------------------------------------------

    def _rings(self) -> list[Ring]:
        case = self._session.case
        return rings_of(case) if case is not None else []

    def _pixels(self, ring: Ring, radius: float) -> Array:
        right, up, _ = self._stage.view.axes()
        a, b = (np.array([1.0, 0, 0]), np.array([0.0, 1, 0])) if ring.flat else (right, up)
        return self._stage.to_pixels(ring.place + radius * (np.outer(np.cos(AROUND), a) + np.outer(np.sin(AROUND), b)))

    def under(self, at: QPointF) -> Ring | None:
        """The ring whose line is at a place of the stage."""
        here = np.array([at.x(), at.y()])
        for ring in self._rings():
            if float(np.linalg.norm(self._pixels(ring, ring.radius) - here, axis=1).min()) < NEAR:
                return ring
        return None

    # -- the hand ----------------------------------------------------------------------------------

    def press(self, at: QPointF) -> bool:
        """Take a ring, or begin a box; False where there is neither."""
        if self.drawing is not None:
            if not self._corners:
                point, _ = self._session.builder.ground_under(self._stage.hand.ray(at))
                self._corners = [point, point]
                self._down = True
            return True
        self._ring = self.under(at)
        if self._ring is not None:
            self._radius = self._ring.radius
        return self._ring is not None

    @property
    def held(self) -> bool:
        """Whether a ring or a box is under the hand."""
        return self._ring is not None or self.drawing is not None

    def move(self, at: QPointF) -> None:
        """Follow the pointer: a ring's radius, the far corner of a box on its face, then its height."""
        ray = self._stage.hand.ray(at)
        if self._ring is not None:
            normal = UP if self._ring.flat and abs(ray.direction[2]) > 0.1 else ray.direction
            there = ray.at_plane(self._ring.place, normal)
            if there is not None:
                wide = float(np.linalg.norm(there - self._ring.place))
                step = nice_step(2 * self._stage.hand.pixel)
                self._radius = max(round(wide / step) * step, step)
        elif self._corners:
            self._corners[1] = self._far_corner(ray) if self._down else self._lifted(ray)
        self._stage.update()

    def _far_corner(self, ray: Ray) -> Array:
        first = self._corners[0]
        there = ray.at_plane(first, UP) if abs(ray.direction[2]) > 0.1 else ray.at_plane(first, ray.direction)
        if there is None:
            return self._corners[1]
        if abs(there[1] - first[1]) < 1e-9:  # seen from the front: as deep as it is wide
            self._corners[0][1], there[1] = -0.5 * abs(there[0] - first[0]), 0.5 * abs(there[0] - first[0])
        step = self._stage.hand.step
        return np.array([round(there[0] / step) * step, round(there[1] / step) * step if abs(ray.direction[2]) > 0.1 else there[1],
                         first[2]])

    def _lifted(self, ray: Ray) -> Array:
        base = np.array([*self._corners[1][:2], self._corners[0][2]])
        high = ray.along(base, UP)
        step = self._stage.hand.step
        return base + max(round((high or 0.0) / step) * step, step) * UP

    def release(self, at: QPointF) -> bool:
        """Keep a ring's new radius; end the face of a box, or the box."""
        if self._ring is not None:
            ring, self._ring = self._ring, None
            if self._radius != ring.radius:
                self._session.make(widen(ring, self._radius))
            return True
        if self.drawing is None or not self._corners:
            return self.drawing is not None
        if self._down:
            self._down = False
            if float(np.ptp(np.array(self._corners)[:, 0])) < 1e-9:
                self._corners = []  # a click is no box yet
            else:
                self._session.message.emit("now move up to its height, and click")
            return True
        name, corners = self.drawing, self._corners
        self.drawing, self._corners = None, []
        if self._session.make_from(lambda: want([end_inside(name, corners[0], corners[1])])):
            self._session.message.emit(f"{name} is to end in this box")
        return True

    def draw_box(self, name: str) -> None:
        """Begin to draw the box that a body is to end in."""
        self.drawing, self._corners, self._down = name, [], False
        self._session.message.emit("drag a rectangle on a face, then move up and click: the box it is to end in (Esc gives up)")

    def give_up(self) -> None:
        """Draw nothing, pull nothing."""
        self.drawing, self._corners, self._ring = None, [], None
        self._stage.update()

    # -- painting ----------------------------------------------------------------------------------

    def paint(self, p: QPainter) -> None:
        """Rings and boxes in ink, dashed; words at a ring that is held."""
        case, t = self._session.case, theme()
        if case is None:
            return
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setFont(font(10))
        for ring in self._rings():
            held = self._ring is not None and ring.rows == self._ring.rows
            p.setPen(QPen(t.color("ink", 0.9 if held else 0.7), 1.4, Qt.PenStyle.DashLine))
            p.drawPolyline(QPolygonF([QPointF(x, y) for x, y in self._pixels(ring, self._radius if held else ring.radius)]))
            x, y = self._stage.to_pixels(ring.place[None])[0]
            p.drawLine(QPointF(x - 4, y), QPointF(x + 4, y))
            p.drawLine(QPointF(x, y - 4), QPointF(x, y + 4))
            if held:
                p.setPen(t.color("ink"))
                p.drawText(QPointF(x + 10, y - 10), f"± {self._radius:.3g} m")
        for zone in zones_of(case):
            self._box(p, zone.low, zone.high, zone.words)
        if len(self._corners) == 2:
            self._box(p, self._corners[0], self._corners[1], "")

    def _box(self, p: QPainter, low: Array, high: Array, words: str) -> None:
        p.setPen(QPen(theme().color("ink", 0.7), 1.2, Qt.PenStyle.DashLine))
        corners = {key: np.where(key, high, low) for key in product((0, 1), repeat=3)}
        for key, corner in corners.items():
            for axis in range(3):
                if not key[axis]:
                    other = corners[key[:axis] + (1,) + key[axis + 1 :]]
                    a, b = self._stage.to_pixels(np.array([corner, other]))
                    p.drawLine(QPointF(*a), QPointF(*b))
        if words:
            x, y = self._stage.to_pixels(np.array(list(corners.values()))).min(axis=0)
            p.setFont(font(9))
            p.setPen(theme().color("soft"))
            p.drawText(QPointF(x, y - 4), words)
