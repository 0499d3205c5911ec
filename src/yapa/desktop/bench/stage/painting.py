"""What is drawn over the bodies of the stage: faces seen edge-on, trails, contacts, ghosts, spins, words."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np
from pyqtgraph.functions import arrayToQPolygonF
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from yapa.desktop.app.theme import font, px, theme
from yapa.desktop.bench.stage.camera import nice_length
from yapa.motion import Array, Motion, Severity

if TYPE_CHECKING:
    from yapa.desktop.bench.stage.stage import Stage

MAX_DOTS = 140
"""measured places of a track that are shown"""
FLASH = 0.12
"""s that a contact flashes"""
RING = np.linspace(0, 2 * np.pi, 25)[:-1]


class StagePainter:
    """Draws over one stage."""

    def __init__(self, stage: Stage) -> None:
        self._stage, self._session = stage, stage.session
        self._kept: dict[str, tuple[tuple[Any, ...], QPolygonF]] = {}

    def planes(self, p: QPainter, motion: Motion) -> None:
        """Side-on, a plane is a line with short hatching below it."""
        t = theme()
        right, up, eye = self._stage.view.axes()
        for a in motion.bodies:
            if a.kind != "plane" or abs(np.array(a.half_extents) @ eye) > 0.02:
                continue
            n = np.array(a.half_extents)
            n2 = np.array([n @ right, n @ up])
            foot = self._stage.to_pixels(np.array([a.position]))[0]
            along = np.array([n2[1], n2[0]])  # in pixels, y downwards
            along = along / np.linalg.norm(along)
            into = np.array([-n2[0], n2[1]]) / np.linalg.norm(n2)
            middle = np.array([self._stage.width() / 2, self._stage.height() / 2])
            foot = foot + ((middle - foot) @ along) * along
            span = self._stage.width() + self._stage.height()
            p.setPen(QPen(t.color("ink"), 1.6))
            p.drawLine(QPointF(*(foot - span * along)), QPointF(*(foot + span * along)))
            p.setPen(QPen(t.color("soft", 0.45), 1))
            steps = 36.0 * np.arange(-int(span // 36), int(span // 36) + 1)[:, None] * along + foot
            within = ((steps > -30.0) & (steps < np.array([self._stage.width(), self._stage.height()]) + 30.0)).all(axis=1)
            p.drawLines([QLineF(a, b, c, d) for a, b, c, d in np.hstack(
                [steps[within] + 3 * into, steps[within] + 13 * into - 9 * along]).tolist()])

    def rings(self, p: QPainter, motion: Motion) -> None:
        """A ring where a contact was, lying on the face that was touched, its size by the speed of approach; past ones fuller."""
        t = theme()
        top = max((c.approach for c in motion.contacts), default=1.0)
        shown = [c for c in motion.contacts if c.approach >= 0.03 * top]
        metre = self._stage.view.pixels(1.0, self._stage.height())
        p.setBrush(Qt.BrushStyle.NoBrush)
        hidden = self._session.builder.hidden
        seen = self._stage.sees(np.array([c.point for c in shown]).reshape(-1, 3))
        for c, visible in zip(shown, seen, strict=True):
            if not visible or c.body in hidden:
                continue
            past = c.time <= self._session.playback.time
            p.setPen(QPen(t.color("simulated", 0.9 if past else 0.45), 1.4 if past else 1.0))
            n = np.array(c.normal)
            one = np.cross(n, [1.0, 0.0, 0.0] if abs(n[0]) < 0.9 else [0.0, 1.0, 0.0])
            one = one / np.linalg.norm(one)
            ring = np.outer(np.cos(RING), one) + np.outer(np.sin(RING), np.cross(n, one))
            size = (3 + 7 * c.approach / top) / metre
            since = (self._session.playback.time - c.time) / FLASH
            if 0 <= since < 1 and self._session.playback.time > 0:  # it has just happened
                p.setBrush(t.color("simulated", 0.6 * (1 - since)))
                p.drawPolygon(self._ring(c.point, size * (1.6 + 1.4 * since), ring))
                p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawPolygon(self._ring(c.point, size, ring))

    def _ring(self, point: Array, radius: float, ring: Array) -> QPolygonF:
        return QPolygonF([QPointF(x, y) for x, y in self._stage.to_pixels(point + radius * ring)])

    def ghosts(self, p: QPainter) -> None:
        t = theme()
        looker = self._session.preview.builder
        if looker is None:
            return
        for seen in looker.measured.values():
            dots = QPen(t.color("measured", 0.75), 3.0)
            dots.setCapStyle(Qt.PenCapStyle.RoundCap)
            p.setPen(dots)
            p.drawPoints(self._dots(seen.body, seen.data.x))
            place = seen.motion.trajectory(seen.body).position(np.array([self._session.playback.time]))
            x, y = self._stage.to_pixels(place)[0]
            account = seen.motion.body(seen.body)
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(t.color("measured"), 1.8, Qt.PenStyle.DashLine))
            if account.kind != "box":
                r = self._stage.view.pixels(account.bounding_radius, self._stage.height())
                p.drawEllipse(QPointF(x, y), r, r)
            else:
                p.drawPolygon(self._outline(account.half_extents, account.orientation, place[0]))

    def troubles(self, p: QPainter, motion: Motion, states: Array) -> None:
        """A mark at every body that a finding is about: of a trouble in brick, of what is good to know softly."""
        t = theme()
        about: dict[str, bool] = {}
        for finding in self._session.findings.found:
            about[finding.about] = about.get(finding.about, False) or finding.severity is Severity.TROUBLE
        for name, trouble in about.items():
            if name not in motion.names or motion.body(name).kind == "plane" or name in self._session.builder.hidden:
                continue
            x, y = self._stage.to_pixels(states[motion.names.index(name), :3][None])[0]
            reach = self._stage.view.pixels(motion.body(name).bounding_radius, self._stage.height())
            at = QPointF(x + 0.7 * reach + 8, y - 0.7 * reach - 8)
            p.setPen(QPen(t.color("trouble" if trouble else "soft"), 1.4 if trouble else 1.0))
            p.setBrush(t.color("card"))
            p.drawEllipse(at, px(7), px(7))
            p.setFont(font(10, trouble))
            place = QRectF(at.x() - px(7), at.y() - px(8), px(14), px(16))
            p.drawText(place, Qt.AlignmentFlag.AlignCenter, "!" if trouble else "?")

    def brought(self, p: QPainter) -> None:
        """What would be brought in from a file: hollow dots."""
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(theme().color("measured"), 1.2))
        for data in self._session.tracks.shown:
            places = data.x[np.isfinite(data.x).all(axis=1)]
            for x, y in self._stage.to_pixels(places[:: max(1, len(places) // MAX_DOTS)]):
                p.drawEllipse(QPointF(x, y), 3.0, 3.0)

    def _dots(self, body: str, places: Array) -> QPolygonF:
        """Measured places in pixels, thinned; found anew where the view is another."""
        key = places, self._stage.view, self._stage.width(), self._stage.height()
        kept = self._kept.get(body)
        if kept is None or kept[0][0] is not places or kept[0][1:] != key[1:]:
            pixels = self._stage.to_pixels(places[np.isfinite(places).all(axis=1)])[:: max(1, len(places) // MAX_DOTS)]
            packed = arrayToQPolygonF(*np.ascontiguousarray(pixels.T)) if len(pixels) else QPolygonF()
            kept = self._kept[body] = key, packed
        return kept[1]

    def _outline(self, half: tuple[float, float, float], q: tuple[float, ...], place: Array) -> QPolygonF:
        w, x, y, z = q
        corners = np.array([[sx * half[0], 0.0, sz * half[2]] for sx, sz in ((-1, -1), (1, -1), (1, 1), (-1, 1))])
        u = np.array([x, y, z])
        turned = corners + 2 * np.cross(u, np.cross(u, corners) + w * corners)
        return QPolygonF([QPointF(a, b) for a, b in self._stage.to_pixels(turned + place)])

    def spins(self, p: QPainter, motion: Motion) -> None:
        """An arc around each turning sphere: its sense, and its length by how far it turns in 30 ms."""
        t = theme()
        for name in motion.dynamic_bodies():
            if name not in motion.trajectories:
                continue
            path = motion.trajectory(name)
            when = np.array([self._session.playback.time])
            w = float(path.angular_velocity(when)[0] @ -self._stage.view.axes()[2])  # positive: clockwise in the picture
            if abs(w) < 0.5 or motion.body(name).kind not in ("sphere", "cylinder", "capsule"):
                continue
            x, y = self._stage.to_pixels(path.position(when))[0]
            r = self._stage.view.pixels(motion.body(name).bounding_radius, self._stage.height()) + 5
            span = float(np.clip(np.degrees(w * 0.03), -300, 300))
            p.setPen(QPen(t.color("ink"), 1.6))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawArc(QRectF(x - r, y - r, 2 * r, 2 * r), 90 * 16, int(-span * 16))
            end = np.radians(90 - span)
            tip = QPointF(x + r * np.cos(end), y - r * np.sin(end))
            p.setBrush(t.color("ink"))
            p.drawEllipse(tip, 2.6, 2.6)

    def words(self, p: QPainter) -> None:
        t = theme()
        p.setFont(font(11))
        p.setPen(t.color("soft"))
        side = abs(self._stage.view.azimuth) < 1e-6 and abs(self._stage.view.elevation) < 1e-6
        length = nice_length(self._stage.view.half_height)
        pixels = self._stage.view.pixels(length, self._stage.height())
        word = f"{length:g} m" if length >= 1 else f"{length * 100:g} cm"
        turned, up = np.degrees(self._stage.view.azimuth), np.degrees(self._stage.view.elevation)
        where = "from the front" + ("" if side else f", turned {turned:.0f}°, {up:.0f}° up")
        if self._stage.shot.seen() is not None:
            where = f"through the camera {self._stage.shot.name}"
        p.drawText(QPointF(14, 20), where)
        edge = self._legend(p)
        metrics = p.fontMetrics()
        left, y = 30.0 + metrics.horizontalAdvance(where), 20.0
        if left + 6 + pixels + metrics.horizontalAdvance(word) > edge - 12:  # no room beside: the next line
            left, y = 14.0, 20.0 + px(18)
        if left + 6 + pixels + metrics.horizontalAdvance(word) > self._stage.width():
            return
        p.setPen(t.color("soft"))
        p.drawLine(QPointF(left, y - 4), QPointF(left + pixels, y - 4))
        p.drawLine(QPointF(left, y - 7), QPointF(left, y - 1))
        p.drawLine(QPointF(left + pixels, y - 7), QPointF(left + pixels, y - 1))
        p.drawText(QPointF(left + 6 + pixels, y), word)

    def _legend(self, p: QPainter) -> float:
        """What the lines are, at the right; where it begins [pixels]."""
        t, x = theme(), self._stage.width() - 14.0
        entries = [("simulated", "simulated", False)]
        if self._session.preview.builder is not None and self._session.preview.builder.measured:
            entries.append(("measured", "measured", True))
        if self._session.preview.other is not None:
            entries.append(("pinned", self._session.preview.other_name, False))
        for role, word, dotted in reversed(entries):
            x -= p.fontMetrics().horizontalAdvance(word)
            p.setPen(t.color("ink"))
            p.drawText(QPointF(x, 20), word)
            p.setPen(QPen(t.color(role), 2, Qt.PenStyle.DotLine if dotted else Qt.PenStyle.SolidLine))
            p.drawLine(QPointF(x - 26, 16), QPointF(x - 6, 16))
            x -= 40
        return x
