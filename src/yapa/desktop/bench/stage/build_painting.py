"""What is drawn over the bodies while a scene is built: names, outlines, grips with their numbers, where things end, the box."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from pyqtgraph.functions import arrayToQPolygonF
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from yapa.desktop.app.theme import font, theme
from yapa.desktop.bench.stage.outlines import outline
from yapa.motion import Array, Motion
from yapa.session.building.grips import Grip

if TYPE_CHECKING:
    from yapa.desktop.bench.stage.stage import Stage


class BuildPainter:
    """Draws over one stage what the hand can take, and what it holds."""

    def __init__(self, stage: Stage) -> None:
        self._stage, self._builder = stage, stage.session.builder

    def paint(self, p: QPainter, motion: Motion, states: Array) -> None:
        """Everything, at these states (n, 16)."""
        hand = self._stage.hand
        self._ends(p, motion)
        later = self._stage.session.playback.time > 0
        for name in dict.fromkeys([*self._builder.selected, *([hand.hovered] if hand.hovered else [])]):
            if name not in motion.names or hand.is_ground(name) or name in self._builder.hidden:
                continue
            k = motion.names.index(name)
            chosen = name in self._builder.selected
            if later and chosen and motion.bodies[k].is_movable:
                self._outline(p, motion, k, motion.states[0, k], QPen(theme().color("ink", 0.7), 1.2))
            pen = QPen(theme().color("ink", 1.0 if chosen else 0.5), 1.6 if chosen else 1.0, Qt.PenStyle.DashLine)
            top, low = self._outline(p, motion, k, states[k], pen)
            words = name + (" (kept in place)" if name in self._builder.held_fast else "")
            self._name(p, words, low + QPointF(0.0, 22.0) if chosen else top, chosen)  # above what is selected are its grips
        self._grips(p)
        if hand.box is not None:
            p.setPen(QPen(theme().color("ink"), 1, Qt.PenStyle.DashLine))
            p.setBrush(theme().color("ink", 0.05))
            p.drawRect(QRectF(*hand.box).normalized())

    def _outline(self, p: QPainter, motion: Motion, k: int, state: Array, pen: QPen) -> tuple[QPointF, QPointF]:
        """An outline around a body; where it is highest and lowest in the picture."""
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(pen)
        top = low = QPointF(*self._stage.to_pixels(state[:3][None])[0])
        for shape in motion.bodies[k].shapes:
            polygon = self._polygon(outline(shape, state, self._stage.view), 3.0)
            p.drawPolygon(polygon)
            edge = polygon.boundingRect()
            top, low = QPointF(top.x(), min(top.y(), edge.top())), QPointF(top.x(), max(low.y(), edge.bottom()))
        return top, low

    def _name(self, p: QPainter, words: str, top: QPointF, chosen: bool) -> None:
        p.setFont(font(11, chosen))
        p.setPen(theme().color("ink"))
        wide = p.fontMetrics().horizontalAdvance(words)
        p.drawText(QPointF(top.x() - wide / 2, top.y() - 6), words)

    def _ends(self, p: QPainter, motion: Motion) -> None:
        """Where everything that moves is at the end of the clip, as an outline."""
        pen = QPen(theme().color("simulated", 0.6), 1.2, Qt.PenStyle.DotLine)
        for name in motion.dynamic_bodies():
            k = motion.names.index(name)
            if name in self._builder.hidden or float(np.linalg.norm(motion.states[-1, k, :3] - motion.states[0, k, :3])) < 1e-4:
                continue
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(pen)
            for shape in motion.bodies[k].shapes:
                p.drawPolygon(self._polygon(outline(shape, motion.states[-1, k], self._stage.view), 0.0))

    def _polygon(self, points: Array, out: float) -> QPolygonF:
        """An outline in pixels, so many pixels outside what it goes around."""
        pixels = self._stage.to_pixels(points)
        middle = pixels.mean(axis=0)
        away = pixels - middle
        size = np.linalg.norm(away, axis=1, keepdims=True)
        pixels = pixels + out * away / np.maximum(size, 1e-9)
        polygon: QPolygonF = arrayToQPolygonF(*np.ascontiguousarray(pixels.T))
        return polygon

    # -- grips -------------------------------------------------------------------------------------

    def _grips(self, p: QPainter) -> None:
        """Lines and marks in ink, told apart by their form; words at the one that is under the pointer, chosen or held."""
        t, hand = theme(), self._stage.hand
        held = hand.held_grip.name if hand.held_grip is not None else None
        told = held or hand.hovered_grip or self._builder.grip
        for grip, tip, foot in hand.grips():
            if held is not None and grip.name != held:
                continue
            lively = grip.name == told
            moving = grip.gesture == "launch" and float(np.linalg.norm(grip.axis)) > 0 and self._thrown()
            p.setPen(QPen(t.color("ink", 1.0 if lively else 0.75), 2.2 if moving else 1.2,
                          Qt.PenStyle.SolidLine if grip.gesture != "launch" or moving else Qt.PenStyle.DotLine))
            p.drawLine(foot, tip)
            p.setBrush(t.color("ink") if lively else t.color("card"))
            p.setPen(QPen(t.color("ink"), 1.5))
            self._mark(p, grip, tip, foot)
            if lively or (moving and held is None):
                self._words(p, grip, tip)

    def _thrown(self) -> bool:
        name = self._builder.body
        return name is not None and bool(np.linalg.norm(self._builder.velocity_of(name)))

    def _mark(self, p: QPainter, grip: Grip, tip: QPointF, foot: QPointF) -> None:
        if grip.gesture == "size":
            p.drawRect(QRectF(tip.x() - 4, tip.y() - 4, 8, 8))
        elif grip.gesture == "lift":
            x, y = tip.x(), tip.y()
            p.drawPolygon(QPolygonF([QPointF(x - 5, y + 2), QPointF(x, y - 6), QPointF(x + 5, y + 2)]))
        elif grip.gesture == "turn":
            p.save()
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawArc(QRectF(tip.x() - 7, tip.y() - 7, 14, 14), 40 * 16, 280 * 16)
            p.restore()
            p.drawEllipse(tip, 2.4, 2.4)
        else:
            p.drawEllipse(tip, 5.0, 5.0)

    def _words(self, p: QPainter, grip: Grip, tip: QPointF) -> None:
        t, name = theme(), self._builder.body
        if name is None:
            return
        words = self._builder.words_of(name, grip)
        p.setFont(font(10))
        wide = p.fontMetrics().horizontalAdvance(words) + 16
        x = min(max(tip.x() + 10, 4.0), self._stage.width() - wide - 4.0)
        place = QRectF(x, max(tip.y() - 26, 26.0), wide, 20)
        p.setBrush(t.color("card", 0.95))
        p.setPen(QPen(t.color("hairline"), 1))
        p.drawRoundedRect(place, 10, 10)
        p.setPen(t.color("ink"))
        p.drawText(place, Qt.AlignmentFlag.AlignCenter, words)
