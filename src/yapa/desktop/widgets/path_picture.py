"""A picture of paths seen from the front, with a numbered frame; a place of it can be clicked."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from yapa.desktop.app.theme import font, theme
from yapa.motion import Array
from yapa.session.building.rays import nice_step

LEFT, BELOW, ROOM = 52, 20, 14
"""pixels of the numbers beside and below, and around the paths"""
MAX_DOTS = 1500
RIGHT_ALIGNED = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


class PathPicture(QWidget):
    """Dots of some paths; both axes have one scale."""

    clicked = Signal(float, float)
    """A place that was clicked, in the units of the picture."""

    def __init__(self) -> None:
        super().__init__()
        self._paths: list[tuple[str, Array]] = []
        self._marks: list[tuple[float, float]] = []
        self._line: float | None = None
        self._unit = "m"
        self._low, self._pixels = np.zeros(2), 1.0
        self.setMinimumSize(300, 200)
        self.setMouseTracking(True)
        self.setAccessibleName("picture of the paths")

    def show_paths(self, paths: list[tuple[str, Array]], unit: str) -> None:
        """Show other paths, (N, 2) each."""
        self._paths, self._unit = paths, unit
        self.update()

    def show_marks(self, marks: list[tuple[float, float]], line: float | None = None) -> None:
        """Show places that were clicked, and a level."""
        self._marks, self._line = marks, line
        self.update()

    def place_of(self, x: float, y: float) -> QPointF:
        """The pixel of a place."""
        self._fit()
        return QPointF(LEFT + ROOM + (x - self._low[0]) * self._pixels,
                       self.height() - BELOW - ROOM - (y - self._low[1]) * self._pixels)

    def _fit(self) -> None:
        every = [p for _, p in self._paths if len(p)]
        points = np.concatenate(every) if every else np.array([[0.0, 0.0], [1.0, 1.0]])
        low, high = points.min(axis=0), points.max(axis=0)
        size = np.maximum(high - low, 1e-9)
        room = np.array([self.width() - LEFT - 2 * ROOM, self.height() - BELOW - 2 * ROOM])
        self._pixels = float(min(room / np.maximum(size, 0.02 * size.max())))
        spare = (room / self._pixels - size) / 2
        self._low = low - np.array([spare[0], 0.0])

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._fit()
            at = event.position()
            self.clicked.emit(float(self._low[0] + (at.x() - LEFT - ROOM) / self._pixels),
                              float(self._low[1] + (self.height() - BELOW - ROOM - at.y()) / self._pixels))

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(self.rect(), t.color("stage"))
        self._fit()
        self._numbers(p)
        for k, (name, path) in enumerate(self._paths):
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(t.color("measured").darker(100 + 40 * k))
            for x, y in path[:: max(1, len(path) // MAX_DOTS)]:
                p.drawEllipse(self.place_of(x, y), 1.8, 1.8)
            if len(self._paths) > 1 and len(path):
                p.setPen(t.color("soft"))
                p.setFont(font(9))
                p.drawText(self.place_of(*path[0]) + QPointF(6, -4), name)
        p.setPen(QPen(t.color("ink"), 1.4))
        if self._line is not None:
            y = self.place_of(0.0, self._line).y()
            p.drawLine(QPointF(LEFT, y), QPointF(self.width(), y))
        marks = [self.place_of(*mark) for mark in self._marks]
        for at in marks:
            p.drawLine(at - QPointF(6, 0), at + QPointF(6, 0))
            p.drawLine(at - QPointF(0, 6), at + QPointF(0, 6))
        if len(marks) == 2:
            p.setPen(QPen(t.color("ink"), 1.2, Qt.PenStyle.DashLine))
            p.drawLine(*marks)
        p.end()

    def _numbers(self, p: QPainter) -> None:
        """Round lengths along both sides."""
        t = theme()
        p.setFont(font(9))
        step = nice_step(90 / self._pixels)
        for axis, long in ((0, self.width() - LEFT), (1, self.height() - BELOW)):
            first = int(np.ceil((self._low[axis] - ROOM / self._pixels) / step))
            for k in range(first, first + int(long / (step * self._pixels)) + 1):
                at = self.place_of(k * step, k * step)
                text = f"{k * step:g}" + (f" {self._unit}" if k == first else "")
                p.setPen(t.color("soft"))
                if axis == 0 and LEFT + 10 <= at.x() <= self.width() - 24:
                    p.drawText(QRectF(at.x() - 40, self.height() - BELOW, 80, BELOW), Qt.AlignmentFlag.AlignCenter, text)
                elif axis == 1 and 8 <= at.y() <= self.height() - BELOW:
                    p.drawText(QRectF(2, at.y() - 8, LEFT - 8, 16), RIGHT_ALIGNED, text)
                else:
                    continue
                p.setPen(QPen(t.color("hairline"), 1))
                p.drawLine(*((QPointF(at.x(), 0), QPointF(at.x(), self.height() - BELOW)) if axis == 0 else
                             (QPointF(LEFT, at.y()), QPointF(self.width(), at.y()))))
