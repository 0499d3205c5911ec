"""The stage: the scene in 3D, the evidence's ghost and trail, contact rings, and the simulated trail.

Solid bodies come from ``solids``; everything else is drawn over them with QPainter.
"""

from __future__ import annotations

import time

import numpy as np
from pyqtgraph.functions import arrayToQPolygonF
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import (
    QFocusEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import Theme, font, theme
from yapa.desktop.bench.stage.camera import View, nice_length, spread_in_depth, whole_scene
from yapa.desktop.bench.stage.handles import StageHandles
from yapa.desktop.bench.stage.solids import Solids
from yapa.motion import Array, Motion
from yapa.session.comparison import Comparison
from yapa.session.drag import Drag

BEAD_SECONDS = 0.05


class Stage(QWidget):
    """The picture of the motion at the play head."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._solids = Solids()
        self._view: View | None = None
        self._whole = True
        self._image: QImage | None = None
        self._key: object = None
        self._built: tuple[int, Theme] | None = None
        self._opened = 0
        self._ring = False
        self._drag: tuple[QPointF, View] | None = None
        self.drag: Drag = session.drag
        self.handles = StageHandles(session, self.drag)
        session.pull_followed.connect(lambda _f: self._later())
        session.pull_ended.connect(self._later)
        self.setMouseTracking(True)
        self.render_seconds: list[float] = []
        self.setMinimumHeight(180)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Stage")
        self.setToolTip("The motion at the play head. Pull a lozenge to where a top, a landing or the rest should be: the free "
                        "numbers follow (H takes the next one, ↑ ↓ pull it, Enter keeps, Esc puts back). Drag turns the view, drag "
                        "with the right button shifts it, the wheel zooms, W shows the whole scene again")
        self._timer = QTimer(self, interval=30, singleShot=True)
        self._timer.timeout.connect(self._refresh)
        session.comparison_changed.connect(self._on_comparison)
        session.beside_changed.connect(lambda _p: self._later())
        session.playhead_moved.connect(lambda _t: self._later())

    # -- what is shown -----------------------------------------------------------------------------

    def _on_comparison(self, _picture: Comparison) -> None:
        self._later()

    def _later(self) -> None:
        if not self._timer.isActive():
            self._timer.start()

    def show_whole_scene(self) -> None:
        """Home: everything in the picture, from the side where the motion lies in one plane."""
        self._view, self._whole = None, True
        self._later()

    @property
    def view(self) -> View:
        """Where it is seen from."""
        return self._view or View((0.0, 0.0, 0.0), 1.0)

    def _points(self, motion: Motion) -> tuple[Array, float]:
        reach = max((a.bounding_radius for a in motion.bodies if a.is_movable), default=0.1)
        points = [motion.states[:, motion.names.index(n), :3] for n in motion.dynamic_bodies()]
        looker = self._session.preview.builder
        if looker is not None:
            for seen in looker.measured.values():
                x = seen.data.x[np.isfinite(seen.data.x).all(axis=1)]
                points.append(x)
        for a in motion.bodies:
            if not a.is_movable and a.kind != "plane":
                points.append(np.array([np.array(a.position) - a.bounding_radius, np.array(a.position) + a.bounding_radius]))
        return np.concatenate(points), reach

    def _refresh(self) -> None:
        picture = self._session.preview.comparison
        if picture is None or self.width() < 10 or not len(picture.motion.times):
            self.update()
            return
        motion = picture.motion
        points, reach = self._points(motion)
        key = (id(self._session.case), theme())
        if key != self._built:
            extent = float(np.ptp(points, axis=0).max()) + 20 * reach
            self._solids.build(motion.bodies, 3 * extent, theme())
            if self._built is None or self._opened != self._session.opened:
                self._view, self._whole = None, True  # another case: seen anew
            self._opened = self._session.opened
            self._built = key
        if self._view is None and spread_in_depth(points):
            self._view = View((0.0, 0.0, 0.0), 1.0, -0.5, 0.5)
        if (self._whole and not self.drag.pulling) or self._view is None:
            self._view = whole_scene(points, reach, self.width(), self.height(), self._view)
        begun = time.perf_counter()
        self._image = self._solids.draw(self._states(motion), self._view, self.width(), self.height())
        self.render_seconds.append(time.perf_counter() - begun)
        self.update()

    def _states(self, motion: Motion) -> Array:
        """States at the play head; places off the curve through contacts, orientation from the nearest sample."""
        t = self._session.playback.time
        k = int(np.clip(np.searchsorted(motion.times, t), 0, len(motion.times) - 1))
        states = motion.states[k].copy()
        for name, path in motion.trajectories.items():
            states[motion.names.index(name), :3] = path.position(np.array([t]))[0]
        return np.asarray(states)

    # -- painting ----------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(self.rect(), t.color("stage"))
        picture = self._session.preview.comparison
        if self._image is not None:
            p.drawImage(0, 0, self._image)
        if picture is not None and self._view is not None and len(picture.motion.times):
            self._paint_planes(p, picture.motion)
            if self._session.preview.other is not None:
                self._paint_trail(p, self._session.preview.other.motion, QPen(t.color("pinned", 0.7), 1.4), beads=False)
            self._paint_trail(p, picture.motion, QPen(t.color("simulated"), 1.8), beads=True)
            self._paint_rings(p, picture.motion)
            self._paint_ghosts(p)
            self._paint_spins(p, picture.motion)
            self._paint_words(p)
            self.handles.paint(p, self._view, self.width(), self.height())
        p.setPen(QPen(t.color("hairline"), 1))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6)
        if self.hasFocus() and self._ring:
            p.setPen(QPen(t.color("ink"), 1, Qt.PenStyle.DotLine))
            p.drawRoundedRect(QRectF(self.rect()).adjusted(2.5, 2.5, -2.5, -2.5), 5, 5)
        p.end()

    def _to_pixels(self, points: Array) -> Array:
        return self.view.project(points, self.width(), self.height())

    def _paint_planes(self, p: QPainter, motion: Motion) -> None:
        """Side-on, a plane is a line with short hatching below it."""
        t = theme()
        right, up, eye = self.view.axes()
        for a in motion.bodies:
            if a.kind != "plane" or abs(np.array(a.half_extents) @ eye) > 0.02:
                continue
            n = np.array(a.half_extents)
            n2 = np.array([n @ right, n @ up])
            foot = self._to_pixels(np.array([a.position]))[0]
            along = np.array([n2[1], n2[0]])  # in pixels, y downwards
            along = along / np.linalg.norm(along)
            into = np.array([-n2[0], n2[1]]) / np.linalg.norm(n2)
            middle = np.array([self.width() / 2, self.height() / 2])
            foot = foot + ((middle - foot) @ along) * along
            span = self.width() + self.height()
            p.setPen(QPen(t.color("ink"), 1.6))
            p.drawLine(QPointF(*(foot - span * along)), QPointF(*(foot + span * along)))
            p.setPen(QPen(t.color("soft", 0.45), 1))
            for k in range(-int(span // 36), int(span // 36) + 1):
                q = foot + 36 * k * along
                p.drawLine(QPointF(*(q + 3 * into)), QPointF(*(q + 13 * into - 9 * along)))

    def _paint_trail(self, p: QPainter, motion: Motion, pen: QPen, beads: bool) -> None:
        p.setBrush(Qt.BrushStyle.NoBrush)
        for name in motion.dynamic_bodies():
            if name not in motion.trajectories:
                continue
            path = motion.trajectory(name)
            pixels = self._to_pixels(path.x)
            p.setPen(pen)
            p.drawPolyline(arrayToQPolygonF(*np.ascontiguousarray(pixels.T)))
            if beads:
                ticks = np.arange(0.0, motion.end, BEAD_SECONDS)[:400]
                p.setPen(Qt.PenStyle.NoPen)
                p.setBrush(pen.color())
                for a, b in self._to_pixels(path.position(ticks)):
                    p.drawEllipse(QPointF(a, b), 2.4, 2.4)
                p.setBrush(Qt.BrushStyle.NoBrush)

    def _paint_rings(self, p: QPainter, motion: Motion) -> None:
        """A ring where a contact was, its size by the speed of approach; past ones fuller."""
        t = theme()
        top = max((c.approach for c in motion.contacts), default=1.0)
        shown = [c for c in motion.contacts if c.approach >= 0.03 * top]
        if not shown:
            return
        for c, (x, y) in zip(shown, self._to_pixels(np.array([c.point for c in shown])), strict=True):
            past = c.time <= self._session.playback.time
            p.setPen(QPen(t.color("simulated", 0.9 if past else 0.45), 1.4 if past else 1.0))
            r = 4 + 12 * c.approach / top
            p.drawEllipse(QPointF(x, y), r, r)

    def _paint_ghosts(self, p: QPainter) -> None:
        t = theme()
        looker = self._session.preview.builder
        if looker is None:
            return
        for seen in looker.measured.values():
            good = np.isfinite(seen.data.x).all(axis=1)
            pixels = self._to_pixels(seen.data.x[good])
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(t.color("measured", 0.75))
            step = max(1, len(pixels) // 140)
            for a, b in pixels[::step]:
                p.drawEllipse(QPointF(a, b), 1.5, 1.5)
            place = seen.motion.trajectory(seen.body).position(np.array([self._session.playback.time]))
            x, y = self._to_pixels(place)[0]
            account = seen.motion.body(seen.body)
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(t.color("measured"), 1.8, Qt.PenStyle.DashLine))
            if account.kind != "box":
                r = self.view.pixels(account.bounding_radius, self.height())
                p.drawEllipse(QPointF(x, y), r, r)
            else:
                p.drawPolygon(self._outline(account.half_extents, account.orientation, place[0]))

    def _outline(self, half: tuple[float, float, float], q: tuple[float, ...], place: Array) -> QPolygonF:
        w, x, y, z = q
        corners = np.array([[sx * half[0], 0.0, sz * half[2]] for sx, sz in ((-1, -1), (1, -1), (1, 1), (-1, 1))])
        u = np.array([x, y, z])
        turned = corners + 2 * np.cross(u, np.cross(u, corners) + w * corners)
        return QPolygonF([QPointF(a, b) for a, b in self._to_pixels(turned + place)])

    def _paint_spins(self, p: QPainter, motion: Motion) -> None:
        """An arc around each turning sphere: its sense, and its length by how far it turns in 30 ms."""
        t = theme()
        for name in motion.dynamic_bodies():
            if name not in motion.trajectories:
                continue
            path = motion.trajectory(name)
            when = np.array([self._session.playback.time])
            w = float(path.angular_velocity(when)[0] @ -self.view.axes()[2])  # positive: clockwise in the picture
            if abs(w) < 0.5 or motion.body(name).kind not in ("sphere", "cylinder", "capsule"):
                continue
            x, y = self._to_pixels(path.position(when))[0]
            r = self.view.pixels(motion.body(name).bounding_radius, self.height()) + 5
            span = float(np.clip(np.degrees(w * 0.03), -300, 300))
            p.setPen(QPen(t.color("ink"), 1.6))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawArc(QRectF(x - r, y - r, 2 * r, 2 * r), 90 * 16, int(-span * 16))
            end = np.radians(90 - span)
            tip = QPointF(x + r * np.cos(end), y - r * np.sin(end))
            p.setBrush(t.color("ink"))
            p.drawEllipse(tip, 2.6, 2.6)

    def _paint_words(self, p: QPainter) -> None:
        t = theme()
        p.setFont(font(11))
        p.setPen(t.color("soft"))
        side = abs(self.view.azimuth) < 1e-6 and abs(self.view.elevation) < 1e-6
        length = nice_length(self.view.half_height)
        pixels = self.view.pixels(length, self.height())
        word = f"{length:g} m" if length >= 1 else f"{length * 100:g} cm"
        p.drawText(QPointF(14, 20), "side view" if side else "turned view")
        p.drawLine(QPointF(100, 16), QPointF(100 + pixels, 16))
        p.drawLine(QPointF(100, 13), QPointF(100, 19))
        p.drawLine(QPointF(100 + pixels, 13), QPointF(100 + pixels, 19))
        p.drawText(QPointF(106 + pixels, 20), word)
        x = self.width() - 14.0
        entries = [("simulated", "simulated", False)]
        if self._session.preview.builder is not None and self._session.preview.builder.measured:
            entries.append(("measured", "measured", True))
        if self._session.preview.other is not None:
            entries.append(("pinned", self._session.preview.other_name, False))
        for role, word, dotted in reversed(entries):
            width = p.fontMetrics().horizontalAdvance(word)
            x -= width
            p.setPen(t.color("ink"))
            p.drawText(QPointF(x, 20), word)
            p.setPen(QPen(t.color(role), 2, Qt.PenStyle.DotLine if dotted else Qt.PenStyle.SolidLine))
            p.drawLine(QPointF(x - 26, 16), QPointF(x - 6, 16))
            x -= 40

    # -- the hand ------------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._later()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        taken = self.handles.under(event.position(), self.view, self.width(), self.height())
        if event.button() == Qt.MouseButton.LeftButton and taken is not None and self.handles.take(taken, event.position()):
            self.update()
            return
        self._drag = (event.position(), self.view)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.drag.pulling and event.buttons() & Qt.MouseButton.LeftButton:
            self.handles.drag(event.position(), self.view, self.height())
            self.update()
            return
        if self._drag is None or self._view is None:
            self._hover(event.position())
            return
        d = event.position() - self._drag[0]
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._view = self._drag[1].orbited(d.x(), d.y())
        else:
            self._view = self._drag[1].moved(d.x(), d.y(), self.height())
        self._whole = False
        self._later()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.drag.pulling:
            self.handles.drop()
        self._drag = None

    def _hover(self, point: QPointF) -> None:
        under = self.handles.under(point, self.view, self.width(), self.height())
        name = under.name if under is not None else None
        if name != self.handles.hovered:
            self.handles.hovered = name
            self.setCursor(Qt.CursorShape.ArrowCursor if name is None else Qt.CursorShape.PointingHandCursor)
            self.update()

    def next_handle(self) -> None:
        """Choose the next outcome that can be pulled, and have the keys."""
        if self.handles.choose_next() is not None:
            self.setFocus(Qt.FocusReason.OtherFocusReason)
            self.update()

    def event(self, event: QEvent) -> bool:
        """While something is pulled, Esc puts it back and stops nothing else."""
        if event.type() == QEvent.Type.ShortcutOverride and self.drag.pulling and isinstance(event, QKeyEvent) and (
                event.key() in (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Enter)):
            event.accept()
            return True
        return super().event(event)

    def _pull_by_key(self, event: QKeyEvent) -> bool:
        """Up and down pull the chosen handle, Enter keeps, Esc puts back."""
        key = event.key()
        turning = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.handles.chosen and not turning:
            fine = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            return self.handles.nudge((1 if key == Qt.Key.Key_Up else -1) * (0.001 if fine else 0.01))
        if self.drag.pulling and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.drag.let_go()
            return True
        if self.drag.pulling and key == Qt.Key.Key_Escape:
            self.drag.put_back()
            return True
        return False

    def wheelEvent(self, event: QWheelEvent) -> None:
        if self._view is not None:
            self._view = self._view.zoomed(0.999 ** event.angleDelta().y())
            self._whole = False
            self._later()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self._pull_by_key(event):
            self.update()
            return
        moves = {Qt.Key.Key_Left: (12, 0), Qt.Key.Key_Right: (-12, 0), Qt.Key.Key_Up: (0, 12), Qt.Key.Key_Down: (0, -12)}
        if event.key() in moves and event.modifiers() & Qt.KeyboardModifier.ShiftModifier and self._view is not None:
            self._view, self._whole = self._view.orbited(*moves[Qt.Key(event.key())]), False
            self._later()
        elif event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Minus) and self._view is not None:
            self._view = self._view.zoomed(0.87 if event.key() == Qt.Key.Key_Plus else 1.15)
            self._whole = False
            self._later()
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._ring = event.reason() in (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        super().focusInEvent(event)

    def close_solids(self) -> None:
        """Free the renderer."""
        self._solids.close()
