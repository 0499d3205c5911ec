"""The hand on the stage while a scene is built: selecting, moving, throwing, asking; and what it draws over the bodies."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QMenu

from yapa.case.launch_angles import angles_of
from yapa.desktop.app.theme import font, theme
from yapa.desktop.bench.stage.outlines import outline
from yapa.motion import Array, Motion
from yapa.session.building.asking import Ask
from yapa.session.building.hand import ARROW_SECONDS
from yapa.session.building.rays import Ray, nice_step

if TYPE_CHECKING:
    from yapa.desktop.bench.stage.stage import Stage

NEAR = 9.0
"""pixels: within this of the tip of a launch arrow the hand takes it"""
GRID = 12.0
"""pixels that a step of the grid is near to"""
CLICK = 4.0
"""pixels: a press that moves less is a click"""
FIRST_ARROW = 34.0
"""pixels of the arrow of a body at rest, so that it can be taken"""


class BuildHand:
    """What the pointer and the keys do to bodies."""

    def __init__(self, stage: Stage) -> None:
        self._stage = stage
        self._session = stage.session
        self._builder = stage.session.builder
        self._pressed: QPointF | None = None
        self._hit: str | None = None
        self._behind: tuple[QPointF, int] | None = None
        self._box: tuple[QPointF, QPointF] | None = None
        self.hovered: str | None = None

    # -- places ------------------------------------------------------------------------------------

    def ray(self, at: QPointF) -> Ray:
        """Where the pointer looks."""
        view, w, h = self._stage.view, self._stage.width(), self._stage.height()
        right, up, eye = view.axes()
        k = 2 * view.half_height / max(h, 1)
        place = np.array(view.centre) + right * (at.x() - w / 2) * k + up * (h / 2 - at.y()) * k
        return Ray(place + 1e3 * max(view.half_height, 1.0) * eye, -eye)

    @property
    def pixel(self) -> float:
        """Of how many metres a pixel is."""
        return 2 * self._stage.view.half_height / max(self._stage.height(), 1)

    @property
    def step(self) -> float:
        """The step of the grid [m]."""
        return nice_step(GRID * self.pixel)

    def _motion(self) -> Motion | None:
        comparison = self._session.preview.comparison
        return comparison.motion if comparison is not None and len(comparison.motion.times) else None

    def arrow(self) -> tuple[QPointF, QPointF] | None:
        """Foot and tip of the launch arrow of the one body that is selected, at the start."""
        name, case, motion = self._builder.body, self._session.case, self._motion()
        if name is None or case is None or motion is None or name not in motion.names or self._session.playback.time > 0:
            return None
        if case.bodies[name].motion != "dynamic":
            return None
        row = motion.states[0, motion.names.index(name)]
        foot, tip = self._stage.to_pixels(np.array([row[:3], row[:3] + ARROW_SECONDS * row[7:10]]))
        if float(np.linalg.norm(tip - foot)) < 4:
            tip = foot + np.array([FIRST_ARROW, 0.0])
        return QPointF(*foot), QPointF(*tip)

    # -- the mouse ---------------------------------------------------------------------------------

    def press(self, at: QPointF, button: Qt.MouseButton, keys: Qt.KeyboardModifier) -> bool:
        """Take what is under the pointer; False where the view is to be turned or shifted."""
        self._pressed = at
        if button != Qt.MouseButton.LeftButton:
            return False
        arrow = self.arrow()
        if arrow is not None and (arrow[1] - at).manhattanLength() < 2 * NEAR and self._builder.body is not None:
            return self._builder.hand.take_launch(self._builder.body)
        hits = [hit for hit in self._builder.under(self.ray(at)) if not self._is_ground(hit.body)]
        if hits:
            k = 0  # again at the same place: the one behind
            if self._behind is not None and (self._behind[0] - at).manhattanLength() < CLICK and self._builder.body is not None:
                k = (self._behind[1] + 1) % len(hits)
            self._hit, self._behind = hits[k].body, (at, k)
            if keys & Qt.KeyboardModifier.ShiftModifier:
                self._builder.toggle(self._hit)
            elif self._hit not in self._builder.selected:
                self._builder.select([self._hit])
            return True
        self._hit = None
        if keys & Qt.KeyboardModifier.ShiftModifier:
            self._box = at, at
            return True
        return False

    def _is_ground(self, name: str) -> bool:
        case = self._session.case
        return case is not None and name in case.bodies and case.bodies[name].shapes[0].kind == "plane"

    def move(self, at: QPointF, keys: Qt.KeyboardModifier) -> bool:
        """Follow the pointer with what is held."""
        if self._box is not None:
            self._box = self._box[0], at
            self._stage.update()
            return True
        hand = self._builder.hand
        if not hand.holding:
            if self._hit is None or self._pressed is None or (at - self._pressed).manhattanLength() < CLICK:
                return self._hit is not None
            if self._session.playback.time > 0:
                self._session.playback.go_to(0.0)
            if not hand.take(self._hit, self.ray(self._pressed)):
                return True
        free = bool(keys & Qt.KeyboardModifier.ControlModifier)
        hand.follow(self.ray(at), in_picture=bool(keys & Qt.KeyboardModifier.AltModifier), step=0.0 if free else self.step)
        self._stage.update()
        return True

    def release(self, at: QPointF, button: Qt.MouseButton) -> bool:
        """Keep what was done; a click on nothing selects nothing, a right click asks."""
        clicked = self._pressed is not None and (at - self._pressed).manhattanLength() < CLICK
        held, hit = self._builder.hand.holding, self._hit
        self._hit, self._pressed = None, None
        if self._box is not None:
            (a, b), self._box = self._box, None
            self._builder.select(self._within(QRectF(a, b).normalized()))
            return True
        if held:
            self._builder.hand.let_go()
            return True
        if clicked and button == Qt.MouseButton.LeftButton and hit is None:
            ground = self._builder.under(self.ray(at))
            self._builder.select([ground[0].body] if ground else [])
            return True
        if clicked and button == Qt.MouseButton.RightButton:
            self.asks(at)
            return True
        return False

    def _within(self, box: QRectF) -> list[str]:
        motion = self._motion()
        if motion is None:
            return []
        states = self._stage.states(motion)
        pixels = self._stage.to_pixels(states[:, :3]) if len(states) else np.zeros((0, 2))
        return [name for name, (x, y) in zip(motion.names, pixels, strict=True)
                if box.contains(QPointF(x, y)) and not self._is_ground(name)]

    def hover(self, at: QPointF) -> None:
        """Say what is under the pointer."""
        hits = [hit for hit in self._builder.under(self.ray(at)) if not self._is_ground(hit.body)]
        name = hits[0].body if hits else None
        arrow = self.arrow()
        on_tip = arrow is not None and (arrow[1] - at).manhattanLength() < 2 * NEAR
        self._stage.setCursor(Qt.CursorShape.PointingHandCursor if name or on_tip else Qt.CursorShape.ArrowCursor)
        if name != self.hovered:
            self.hovered = name
            self._stage.update()

    def asks(self, at: QPointF) -> None:
        """What can be asked of the selected body at this place, as a menu; with nothing selected, what can be done here."""
        found = self._builder.asks_at(self.ray(at), self.pixel)
        menu = QMenu(self._stage)
        menu.setAccessibleName("asks")
        if self._builder.body is None or not found:
            action = menu.addAction("select a body that moves, then ask here")
            action.setEnabled(False)
        for ask in found:
            menu.addAction(f"{self._builder.body}: {ask.text}").triggered.connect(partial(self._want, ask))
        menu.popup(self._stage.mapToGlobal(QPoint(int(at.x()), int(at.y()))))

    def _want(self, ask: Ask, _on: bool = False) -> None:
        self._builder.ask(ask.targets)

    @property
    def hears_escape(self) -> bool:
        """Whether Esc puts back what is held, or takes the selection away; a fit that runs is stopped by it in any case."""
        return self._builder.hand.holding or (bool(self._builder.selected) and not self._session.fits.running)

    # -- the keys ----------------------------------------------------------------------------------

    def key(self, event: QKeyEvent) -> bool:
        """Tab walks bodies, arrows and Page keys move them, Delete takes out, the Menu key asks, Esc puts back."""
        key, keys = Qt.Key(event.key()), event.modifiers()
        right, up, eye = self._stage.view.axes()
        ways = {Qt.Key.Key_Left: -right, Qt.Key.Key_Right: right, Qt.Key.Key_Up: up, Qt.Key.Key_Down: -up,
                Qt.Key.Key_PageUp: -eye, Qt.Key.Key_PageDown: eye}
        if key in ways and self._builder.selected:
            times = 10.0 if keys & Qt.KeyboardModifier.ShiftModifier else 0.1 if keys & Qt.KeyboardModifier.ControlModifier else 1.0
            self._builder.hand.nudge(np.round(ways[key], 9) * self.step * times)
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self._builder.take_out()
        elif key == Qt.Key.Key_Escape and self._builder.hand.holding:
            self._builder.hand.put_back()
        elif key == Qt.Key.Key_Escape and self._builder.selected:
            self._builder.select([])
        elif key == Qt.Key.Key_Menu:
            place = self.arrow()
            self.asks(place[0] if place is not None else QPointF(self._stage.width() / 2, self._stage.height() / 2))
        else:
            return False
        return True

    # -- drawing -----------------------------------------------------------------------------------

    def paint(self, p: QPainter, motion: Motion, states: Array) -> None:
        """Outlines and names of what is selected or under the pointer, resting outlines, the launch arrow, the box."""
        t = theme()
        self._paint_ends(p, motion)
        for name in dict.fromkeys([*self._builder.selected, *([self.hovered] if self.hovered else [])]):
            if name not in motion.names or self._is_ground(name):
                continue
            k = motion.names.index(name)
            chosen = name in self._builder.selected
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(t.color("ink", 1.0 if chosen else 0.5), 1.6 if chosen else 1.0, Qt.PenStyle.DashLine))
            top = QPointF(*self._stage.to_pixels(states[k, :3][None])[0])
            for shape in motion.bodies[k].shapes:
                polygon = self._polygon(outline(shape, states[k], self._stage.view), 3.0)
                p.drawPolygon(polygon)
                edge = polygon.boundingRect()
                top = QPointF(top.x(), min(top.y(), edge.top()))
            p.setFont(font(11, chosen))
            p.setPen(t.color("ink"))
            wide = p.fontMetrics().horizontalAdvance(name)
            p.drawText(QPointF(top.x() - wide / 2, top.y() - 6), name)
        self._paint_arrow(p)
        if self._box is not None:
            p.setPen(QPen(t.color("ink"), 1, Qt.PenStyle.DashLine))
            p.setBrush(t.color("ink", 0.05))
            p.drawRect(QRectF(*self._box).normalized())

    def _paint_ends(self, p: QPainter, motion: Motion) -> None:
        """Where everything that moves is at the end of the clip, as an outline."""
        t = theme()
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(t.color("simulated", 0.6), 1.2, Qt.PenStyle.DotLine))
        for name in motion.dynamic_bodies():
            k = motion.names.index(name)
            if float(np.linalg.norm(motion.states[-1, k, :3] - motion.states[0, k, :3])) < 1e-4:
                continue
            for shape in motion.bodies[k].shapes:
                p.drawPolygon(self._polygon(outline(shape, motion.states[-1, k], self._stage.view), 0.0))

    def _polygon(self, points: Array, out: float) -> QPolygonF:
        """An outline in pixels, so many pixels outside what it goes around."""
        pixels = self._stage.to_pixels(points)
        middle = pixels.mean(axis=0)
        away = pixels - middle
        size = np.linalg.norm(away, axis=1, keepdims=True)
        pixels = pixels + out * away / np.maximum(size, 1e-9)
        return QPolygonF([QPointF(x, y) for x, y in pixels])

    def _paint_arrow(self, p: QPainter) -> None:
        arrow, motion, name = self.arrow(), self._motion(), self._builder.body
        if arrow is None or motion is None or name is None:
            return
        t = theme()
        foot, tip = arrow
        row = motion.states[0, motion.names.index(name)]
        speed, elevation, _ = angles_of(row[7:10].tolist())
        p.setPen(QPen(t.color("ink"), 2.2 if speed else 1.2, Qt.PenStyle.SolidLine if speed else Qt.PenStyle.DotLine))
        p.drawLine(foot, tip)
        p.setBrush(t.color("card"))
        p.setPen(QPen(t.color("ink"), 1.6))
        p.drawEllipse(tip, 5.0, 5.0)
        words = f"{speed:.3g} m/s, {np.degrees(elevation):.0f}° up" if speed else "pull to throw"
        p.setFont(font(10))
        wide = p.fontMetrics().horizontalAdvance(words) + 16
        place = QRectF(tip.x() + 10, tip.y() - 24, wide, 20)
        p.setBrush(t.color("card", 0.95))
        p.setPen(QPen(t.color("hairline"), 1))
        p.drawRoundedRect(place, 10, 10)
        p.setPen(t.color("ink"))
        p.drawText(place, Qt.AlignmentFlag.AlignCenter, words)
