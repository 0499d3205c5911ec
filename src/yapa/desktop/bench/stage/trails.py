"""Trails of what moves: hidden behind bodies, with beads in equal time, hatched where chance decides, dashed where not run yet."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from pyqtgraph.functions import arrayToQPolygonF
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from yapa.desktop.app.theme import font, theme
from yapa.motion import Array, Motion
from yapa.motion.definitions import REST_SPEED

if TYPE_CHECKING:
    from yapa.desktop.bench.stage.stage import Stage

BEAD_SECONDS = 0.05
BEAD = 4.4
"""pixels of a bead"""
STEP, CORNER = 4.0, 0.1
"""pixels: points of a trail that are nearer are left out, but where its direction changes by more than this [rad]"""
MAX_BEADS = 400
MANY = 30
"""moving bodies: above it only those that are selected have trails"""
STILL_MOVING = 4 * REST_SPEED
"""m/s at the end of the clip: what is faster goes on"""


@dataclass(frozen=True)
class Look:
    """How a stretch of a trail is drawn."""

    color: QColor
    width: float = 1.4
    beads: bool = False
    dashes: tuple[float, ...] = ()

    def pen(self) -> QPen:
        """The pen that draws it."""
        pen = QPen(self.color, self.width)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        if self.dashes:
            pen.setDashPattern(list(self.dashes))
        return pen


def _thinned(pixels: Array) -> Array:
    """A line (N, 2) without the points that are nearer than a step to the one before; its ends and its corners stay."""
    ways = np.diff(pixels, axis=0)
    long = np.hypot(ways[:, 0], ways[:, 1])
    keep = np.ones(len(pixels), bool)
    keep[1:] = np.diff(np.cumsum(long) // STEP, prepend=0.0) != 0
    cross = np.abs(ways[:-1, 0] * ways[1:, 1] - ways[:-1, 1] * ways[1:, 0])
    keep[1:-1] |= cross > CORNER * long[:-1] * long[1:]
    keep[-1] = True
    return np.asarray(pixels[keep])


class TrailPainter:
    """Draws trails over one stage."""

    def __init__(self, stage: Stage) -> None:
        self._stage, self._session = stage, stage.session

    def names(self, motion: Motion) -> list[str]:
        """The bodies whose trails are drawn."""
        hidden = self._session.builder.hidden
        moving = [name for name in motion.dynamic_bodies() if name in motion.trajectories and name not in hidden]
        return moving if len(moving) <= MANY else [name for name in moving if name in self._session.builder.selected]

    def paint(self, p: QPainter, motion: Motion) -> None:
        """The trails of the present motion; of an unfinished one the rest is that of the last whole one."""
        t, preview = theme(), self._session.preview
        chance = preview.chance or dict(motion.crowd_from)
        for name in self.names(motion):
            good, pale = Look(t.color("simulated"), beads=True), Look(t.color("simulated", 0.55), 5.0, dashes=(0.22, 0.6))
            at = chance.get(name, np.inf)
            self.stretch(p, motion, name, -np.inf, at, good)
            self.stretch(p, motion, name, at, np.inf, pale)
            whole = preview.whole
            if motion.is_unfinished and whole is not None and name in whole.motion.trajectories:
                self.stretch(p, whole.motion, name, motion.end, np.inf, Look(t.color("simulated", 0.6), 1.2, dashes=(5.0, 4.0)))
        self._say_chance(p, motion, chance)

    def plain(self, p: QPainter, motion: Motion, look: Look) -> None:
        """Trails of a motion laid beside, all alike."""
        for name in self.names(motion):
            self.stretch(p, motion, name, -np.inf, np.inf, look)

    def stretch(self, p: QPainter, motion: Motion, name: str, begin: float, end: float, look: Look) -> None:
        """A trail between two times [s]: where nothing stands before it."""
        path = motion.trajectory(name)
        inside = (path.t >= begin) & (path.t <= end)
        if inside.sum() < 2:
            return
        places = path.x[inside]
        pixels = self._stage.to_pixels(places)
        seen = self._stage.sees(places, pixels)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(look.pen())
        ends = np.flatnonzero(np.diff(np.concatenate([[False], seen, [False]]).astype(int)))
        for a, b in zip(ends[::2], ends[1::2], strict=True):
            run = _thinned(pixels[max(a - 1, 0) : b + 1])
            p.drawPolyline(arrayToQPolygonF(*np.ascontiguousarray(run.T)))
        if look.beads:
            ticks = np.arange(max(begin, 0.0), min(end, motion.end), BEAD_SECONDS)[:MAX_BEADS]
            if len(ticks):
                beads = path.position(ticks)
                dots = QPen(look.color, BEAD)
                dots.setCapStyle(Qt.PenCapStyle.RoundCap)
                p.setPen(dots)
                spots = self._stage.to_pixels(beads)
                shown = spots[self._stage.sees(beads, spots)]
                if len(shown):  # of no points the packed polygon is none
                    p.drawPoints(arrayToQPolygonF(*np.ascontiguousarray(shown.T)))

    def _say_chance(self, p: QPainter, motion: Motion, chance: dict[str, float]) -> None:
        """Words where chance begins to decide: of the selected body, else of the first."""
        chosen = self._session.builder.body
        names = [chosen] if chosen in chance else sorted((n for n in chance if n in self.names(motion)), key=chance.__getitem__)[:1]
        for name in names:
            if name is None or not motion.times[0] <= chance[name] < motion.end:
                continue
            x, y = self._stage.to_pixels(motion.trajectory(name).position(np.array([chance[name]])))[0]
            words = f"{name}: from {chance[name]:.2g} s on chance decides"
            p.setFont(font(10))
            wide = p.fontMetrics().horizontalAdvance(words) + 14
            place = QRectF(min(max(x - wide / 2, 4.0), self._stage.width() - wide - 4.0), max(y - 34, 28.0), wide, 18)
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(theme().color("card", 0.92))
            p.drawRoundedRect(place, 4, 4)
            p.setPen(theme().color("ink"))
            p.drawText(place, Qt.AlignmentFlag.AlignCenter, words)

    # -- what goes on after the end --------------------------------------------------------------------

    def going_on(self, motion: Motion) -> list[tuple[str, QPointF, QPointF]]:
        """Bodies that still move at the end: where the arrow of each begins and ends, in pixels."""
        out = []
        if motion.status != "complete":
            return []
        for name in self.names(motion):
            state = motion.states[-1, motion.names.index(name)]
            foot, ahead = self._stage.to_pixels(np.array([state[:3], state[:3] + state[7:10]]))
            long = float(np.linalg.norm(ahead - foot))
            if float(np.linalg.norm(state[7:10])) > STILL_MOVING and long > 1e-6:
                out.append((name, QPointF(*foot), QPointF(*(foot + 26 * (ahead - foot) / long))))
        return out

    def arrows(self, p: QPainter, motion: Motion, under: bool) -> None:
        """An open arrow where something still moves at the end; under the pointer, what a click does."""
        t, going = theme(), self.going_on(motion)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(t.color("simulated"), 1.4))
        for _, foot, tip in going:
            way = np.array([tip.x() - foot.x(), tip.y() - foot.y()]) / 26
            across = np.array([-way[1], way[0]])
            p.drawLine(foot, tip)
            p.drawPolyline(QPolygonF([tip + QPointF(*(-8 * way + side * 5 * across)) if side else tip for side in (-1, 0, 1)]))
        if under and going:
            tip = going[0][2]
            p.setFont(font(10))
            p.setPen(t.color("ink"))
            words = "still moves at the end: click to lengthen the clip"
            wide = p.fontMetrics().horizontalAdvance(words)
            p.drawText(QPointF(min(tip.x() + 10, self._stage.width() - wide - 8.0), tip.y() + 4), words)
