"""Handles over the stage: where they are drawn, which one is under the hand, and what a move of the hand asks for."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from yapa.case.units import amount_text
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import font, theme
from yapa.desktop.bench.stage.camera import View
from yapa.errors import YapaError
from yapa.session.amounts import amount_of
from yapa.session.drag import Drag
from yapa.session.handles import Handle, passage_handles
from yapa.session.pull_words import pull_words

SIZE = 5.0
NEAR = 11.0
"""Pixels: within this of a handle the hand takes it."""


class StageHandles:
    """The handles of the present picture, seen from one view."""

    def __init__(self, session: Session, drag: Drag) -> None:
        self._session, self._drag = session, drag
        self.chosen: str | None = None
        self.hovered: str | None = None
        self._from: tuple[QPointF, float] | None = None
        self.noted: tuple[Handle, float] | None = None

    @property
    def all(self) -> list[Handle]:
        """Those of the present picture; while one is pulled, that one alone."""
        picture = self._session.preview.comparison
        if picture is None or self._session.fits.running:
            return []
        every = [*picture.handles, *passage_handles(picture.motion, self._session.playback.time)]
        if self._drag.handle is not None:
            every = [h for h in every if h.name == self._drag.handle.name]
        return [h for h in every if h.is_on_stage]

    def places(self, view: View, width: int, height: int) -> list[tuple[Handle, QPointF, np.ndarray]]:
        """Every handle with its pixel and the pixels a metre along its outcome."""
        out = []
        for h in self.all:
            at, ahead = view.project(np.array([h.place, h.place + h.along]), width, height)
            out.append((h, QPointF(float(at[0]), float(at[1])), ahead - at))
        return out

    def under(self, point: QPointF, view: View, width: int, height: int) -> Handle | None:
        """The handle nearest to a point, if the hand can take it."""
        best: tuple[float, Handle] | None = None
        for h, at, ahead in self.places(view, width, height):
            away = float(np.hypot(at.x() - point.x(), at.y() - point.y()))
            if away < NEAR and float(np.linalg.norm(ahead)) > 20 and (best is None or away < best[0]):
                best = (away, h)
        return best[1] if best else None

    # -- the hand --------------------------------------------------------------------------------

    @property
    def holds(self) -> bool:
        """Whether the hand holds one, to pull it or to note where it was."""
        return self._from is not None

    def take(self, handle: Handle, point: QPointF, noted: bool = False) -> bool:
        """Begin a drag; what is noted moves no number: it becomes evidence where it is let go."""
        if noted:
            self._from, self.noted = (point, handle.target.value), (handle, handle.target.value)
            return True
        if self._drag.stuck and self._drag.handle is not None and self._drag.handle.name == handle.name:
            self._from = (point, self._drag.wanted)
            return True
        if not self._drag.begin(handle):
            return False
        self._from = (point, handle.target.value)
        self.chosen = handle.name
        return True

    def drag(self, point: QPointF, view: View, height: int) -> None:
        """Ask for what the hand's place means."""
        handle = self.noted[0] if self.noted is not None else self._drag.handle
        if self._from is None or handle is None:
            return
        start, value = self._from
        along = handle.along
        right, up, _ = view.axes()
        metre = view.pixels(1.0, height) * np.array([along @ right, -(along @ up)])
        moved = np.array([point.x() - start.x(), point.y() - start.y()])
        wanted = value + handle.gain * float(moved @ metre) / float(metre @ metre)
        if self.noted is not None:
            self.noted = handle, max(handle.least, wanted)
        else:
            self._drag.to(wanted)

    def drop(self) -> None:
        """Let go."""
        self._from = None
        if self.noted is not None:
            noted, self.noted = self.noted, None
            self._session.notes.height(*noted)
        else:
            self._drag.let_go()

    def nudge(self, metres: float) -> bool:
        """Pull the chosen handle by the keyboard; whether there is one."""
        if not self._drag.pulling:
            handle = next((h for h in self.all if h.name == self.chosen), None)
            if handle is None or not self._drag.begin(handle):
                return False
        self._drag.to(self._drag.wanted + metres * (self._drag.handle.gain if self._drag.handle is not None else 1.0))
        return True

    def pull_to(self, handle: Handle, text: str) -> None:
        """Pull a handle to a value that was typed, and let it go there."""
        try:
            value = amount_of(text, handle.target.unit)
        except YapaError as error:
            self._session.error.emit(str(error))
            return
        if self._drag.begin(handle):
            self._drag.to(value)
            self._drag.let_go()

    def choose_next(self) -> str | None:
        """Go to the next handle; its name."""
        names = [h.name for h in self.all]
        if not names:
            return None
        k = names.index(self.chosen) + 1 if self.chosen in names else 0
        self.chosen = names[k % len(names)]
        return self.chosen

    # -- painting --------------------------------------------------------------------------------

    def paint(self, p: QPainter, view: View, width: int, height: int) -> None:
        """Small hollow lozenges with the way they go; words at the one that is chosen, under the mouse, or pulled."""
        t = theme()
        for h, at, ahead in self.places(view, width, height):
            size = float(np.linalg.norm(ahead))
            if size < 20:
                continue  # it goes into the picture, away from the eye
            way = ahead / size
            pulled = self._drag.handle is not None
            lively = pulled or h.name in (self.chosen, self.hovered)
            across = np.array([-way[1], way[0]])
            points = [way * SIZE * 1.4, across * SIZE, -way * SIZE * 1.4, -across * SIZE]
            p.setPen(QPen(t.color("ink", 1.0 if lively else 0.75), 1.6 if lively else 1.2))
            p.setBrush(t.color("card"))
            p.drawPolygon(QPolygonF([QPointF(at.x() + float(d[0]), at.y() + float(d[1])) for d in points]))
            if self.noted is not None and self.noted[0].name == h.name:
                self._paint_noted(p, at, way, size)
            if lively:
                for side in (1, -1):
                    a, b = ([float(c) for c in way * side * far] for far in (10, 17))
                    p.drawLine(QPointF(at.x() + a[0], at.y() + a[1]), QPointF(at.x() + b[0], at.y() + b[1]))
                if pulled and self._drag.frame is not None and not self._drag.frame.reached:
                    self._stretch(p, h, at, way, size)
                self._words(p, h, at, width, pulled)

    def _paint_noted(self, p: QPainter, at: QPointF, way: np.ndarray, metre: float) -> None:
        """Where an outcome was seen: a measured lozenge, with its value."""
        assert self.noted is not None
        handle, value = self.noted
        far = (value - handle.target.value) / handle.gain * metre
        there = QPointF(at.x() + float(way[0]) * far, at.y() + float(way[1]) * far)
        p.setPen(QPen(theme().color("measured"), 1.6))
        p.drawEllipse(there, SIZE, SIZE)
        p.setFont(font(10))
        p.drawText(there + QPointF(10, 4), f"seen: {handle.name} {amount_text(value, handle.target.unit, '.3f')}")

    def _stretch(self, p: QPainter, h: Handle, at: QPointF, way: np.ndarray, metre: float) -> None:
        """From where the outcome gave way to where the hand wants it."""
        far = (self._drag.wanted - h.target.value) / h.gain * metre
        if abs(far) > 4:
            p.setPen(QPen(theme().color("trouble"), 1.2, Qt.PenStyle.DashLine))
            p.drawLine(at, QPointF(at.x() + float(way[0]) * far, at.y() + float(way[1]) * far))

    def _words(self, p: QPainter, h: Handle, at: QPointF, width: int, pulled: bool) -> None:
        t = theme()
        lines = pull_words(self._drag, h)
        colour = "trouble" if pulled and len(lines) > 1 else "ink"
        p.setFont(font(10))
        wide = max(p.fontMetrics().horizontalAdvance(line) for line in lines)
        x = min(max(8.0, at.x() - wide / 2), width - wide - 8.0)
        y = at.y() - 24 - 14 * (len(lines) - 1)
        if y < 40:
            y = at.y() + 32
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(t.color("card", 0.88))
        p.drawRoundedRect(QRectF(x - 5, y - 12, wide + 10, 14 * len(lines) + 4), 3, 3)
        for k, line in enumerate(lines):
            p.setPen(t.color(colour if k == len(lines) - 1 else "ink"))
            p.drawText(QPointF(x, y + 14 * k), line)
