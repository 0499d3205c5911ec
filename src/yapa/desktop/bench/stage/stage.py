"""The stage: the scene in 3D, the evidence's ghost and trail, contact rings, and the simulated trail.

Solid bodies come from ``solids``; everything else is drawn over them with QPainter.
"""

from __future__ import annotations

import time
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import (
    QFocusEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import theme
from yapa.desktop.bench.stage.build_hand import BuildHand
from yapa.desktop.bench.stage.build_painting import BuildPainter
from yapa.desktop.bench.stage.camera import View, spread_in_depth, whole_scene
from yapa.desktop.bench.stage.extras import SHAPES, Extras
from yapa.desktop.bench.stage.handles import StageHandles
from yapa.desktop.bench.stage.noting import Noting, StopwatchCard
from yapa.desktop.bench.stage.outlines import scene_points
from yapa.desktop.bench.stage.painting import StagePainter
from yapa.desktop.bench.stage.pull_card import PullCard
from yapa.desktop.bench.stage.remedies import RemedyCard
from yapa.desktop.bench.stage.shadows import Shade
from yapa.desktop.bench.stage.shot import ShotCamera
from yapa.desktop.bench.stage.solids import SAMPLES, Solids, form_of, mean_image
from yapa.desktop.bench.stage.trails import Look, TrailPainter
from yapa.desktop.bench.stage.tune_hand import TuneHand
from yapa.motion import Array, Motion
from yapa.session.comparison import Comparison
from yapa.session.drag import Drag

STILL = 150
"""ms without a change after which the picture is drawn finely"""
QUIET = 300
"""ms without a change after which it is looked where chance decides"""


class Stage(QWidget):
    """The picture of the motion at the play head."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._solids, self._shade = Solids(), Shade()
        self._timer = QTimer(self, interval=30, singleShot=True)
        self._timer.timeout.connect(self._refresh)
        self._still = QTimer(self, interval=STILL, singleShot=True)
        self._still.timeout.connect(self._begin_still)
        self._turn = QTimer(self, interval=0)
        self._turn.timeout.connect(self._add_sample)
        self._total, self._samples = np.zeros((0, 0, 4)), 0
        self._view: View | None = None
        self._whole = True
        self._image: QImage | None = None
        self._key: object = None
        self._built: tuple[object, ...] | None = None
        self._chance = QTimer(self, interval=QUIET, singleShot=True)
        self._chance.timeout.connect(self._look_for_chance)
        self._opened = 0
        self._ring = False
        self._drag: tuple[QPointF, View] | None = None
        self._held = False
        self.drag: Drag = session.drag
        self.handles = StageHandles(session, self.drag)
        self.building = False
        self.shot = ShotCamera(self)
        self.hand = BuildHand(self)
        self.trails = TrailPainter(self)
        self.extras = Extras(self)
        self._painter = StagePainter(self)
        self._build_painter = BuildPainter(self)
        session.pull_followed.connect(lambda _f: self._later())
        session.pull_ended.connect(self._later)
        self._remedies = RemedyCard(session, self)
        self._pull_card = PullCard(session, self)
        self.noting = Noting(self)
        self.tuning = TuneHand(self)
        self._stopwatch = StopwatchCard(session, self)
        self.setMouseTracking(True)
        self.render_seconds: list[float] = []
        self.setMinimumHeight(180)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setObjectName("stage")
        self.setAccessibleName("Stage")
        self.setToolTip("The motion at the play head. Pull a lozenge to where a top, a landing, a passage or the rest should be: "
                        "the free numbers follow, what is met stays met (H takes the next one, ↑ ↓ pull it, Enter keeps, Esc puts "
                        "back). Drag turns the view, drag with the right button shifts it, the wheel zooms, W shows it all")
        session.comparison_changed.connect(self._on_comparison)
        session.beside_changed.connect(lambda _p: self._later())
        session.playhead_moved.connect(lambda _t: self._later())
        session.selection_changed.connect(self._later)
        session.chance_changed.connect(self.update)
        session.import_previewed.connect(self.update)
        session.findings_changed.connect(self.update)
        session.steps_changed.connect(self.update)

    # -- what is shown -----------------------------------------------------------------------------

    def _on_comparison(self, _picture: Comparison) -> None:
        self._chance.start()
        if self.building and self.hand.holds:  # what follows the hand is drawn at once
            self._still.stop()
            self._turn.stop()
            self._refresh()
        else:
            self._later()

    def _look_for_chance(self) -> None:
        if self.building:
            self.session.preview.look_for_chance()

    def _later(self) -> None:
        self._still.stop()
        self._turn.stop()
        if not self._timer.isActive():
            self._timer.start()

    def put_in(self, thing: str, at: QPointF, upright: bool = False) -> None:
        """Stand a thing of the stock on what is under a place of the stage."""
        self.session.builder.put_in(thing, self.hand.ray(at), upright=upright, step=self.hand.step)
        self.setFocus(Qt.FocusReason.OtherFocusReason)

    def look_from(self, azimuth: float, elevation: float) -> None:
        """See the scene from a side."""
        self._view = replace(self.view, azimuth=azimuth, elevation=elevation, distance=0.0)
        self._later()

    def look_through_camera(self) -> None:
        """See the scene through its shot camera, the next one if it has several."""
        view = self.shot.next()
        if view is not None:
            self._view, self._whole = view, False
            self._later()

    def show_whole_scene(self) -> None:
        """Home: everything in the picture, from the side where the motion lies in one plane."""
        self._view, self._whole = None, True
        self._later()

    @property
    def view(self) -> View:
        """Where it is seen from."""
        return self._view or View((0.0, 0.0, 0.0), 1.0)

    def _refresh(self) -> None:
        picture = self.session.preview.comparison
        if picture is None or self.width() < 10 or not len(picture.motion.times):
            self.update()
            return
        motion = picture.motion
        looker = self.session.preview.builder
        measured = [seen.data.x for seen in looker.measured.values()] if looker is not None else []
        points, reach = scene_points(motion, measured, self.view)
        extent = float(np.ptp(points, axis=0).max()) + 20 * reach
        key = (form_of(motion.bodies), round(np.log2(extent)), theme())
        if key != self._built:
            self._solids.build(motion.bodies, 3 * extent, theme())
            if self._built is None or self._opened != self.session.opened:
                self._view, self._whole = None, True  # another case: seen anew
            self._opened = self.session.opened
            self._built = key
        if self._view is None and spread_in_depth(points):
            self._view = View((0.0, 0.0, 0.0), 1.0, -0.5, 0.5)
        if (self._whole and not self.drag.pulling) or self._view is None:
            self._view = whole_scene(points, reach, self.width(), self.height(), self._view)
            self._whole = not self.building  # what is put together by hand is not seen from elsewhere at every edit
        self._draw()
        self._still.start()

    def _draw(self) -> None:
        """The bodies as an image, at once."""
        picture = self.session.preview.comparison
        if picture is None or self._view is None or not len(picture.motion.times):
            return
        begun = time.perf_counter()
        states = self.states(picture.motion)
        hidden = {k for k, name in enumerate(picture.motion.names) if name in self.session.builder.hidden}
        cast = self._shade.of(picture.motion, states, hidden)
        self._image = self._solids.draw(states, self._view, self.width(), self.height(), cast, hidden)
        self.render_seconds.append(time.perf_counter() - begun)
        self.update()

    def _begin_still(self) -> None:
        """Nothing moves any more: the picture is averaged over samples of each pixel, one a turn of the event loop."""
        if self._image is not None:
            self._total, self._samples = np.zeros((self._image.height(), self._image.width(), 4)), 0
            self._turn.start()

    def _add_sample(self) -> None:
        height, width = self._total.shape[:2]
        if (width, height) != (self.width(), self.height()):
            self._turn.stop()
            return
        self._total += self._solids.shifted(width, height, self._samples)
        self._samples += 1
        if self._samples == SAMPLES:
            self._turn.stop()
            self._image = mean_image(self._total, SAMPLES)
            self.update()

    def states(self, motion: Motion) -> Array:
        """States at the play head; places off the curve through contacts, orientation from the nearest sample."""
        t = self.session.playback.time
        k = int(np.clip(np.searchsorted(motion.times, t), 0, len(motion.times) - 1))
        states = motion.states[k].copy()
        for name, path in motion.trajectories.items():
            states[motion.names.index(name), :3] = path.position(np.array([t]))[0]
        return np.asarray(states)

    # -- painting ----------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing, not (self.building and self.hand.holds))  # under the hand: soon
        p.fillRect(self.rect(), t.color("stage"))
        picture = self.session.preview.comparison
        if self._image is not None and self.extras.bodies_as != SHAPES:
            p.drawImage(0, 0, self._image)
        if picture is not None and self._view is not None and len(picture.motion.times):
            states = self.states(picture.motion)
            self._painter.planes(p, picture.motion)
            if self.session.preview.other is not None:
                self.trails.plain(p, self.session.preview.other.motion, Look(t.color("pinned", 0.7)))
            for aside in self.session.preview.steps:
                self.trails.plain(p, aside.motion, Look(t.color("simulated", 0.45), 1.0, dashes=(4.0, 4.0)))
            self.trails.paint(p, picture.motion)
            self._painter.rings(p, picture.motion)
            self._painter.ghosts(p)
            self._painter.brought(p)
            self._painter.troubles(p, picture.motion, states)
            self._painter.spins(p, picture.motion)
            self.extras.paint(p, picture.motion, states)
            self._painter.words(p)
            self.shot.paint(p)
            self.hand.wishes.paint(p)
            self.trails.arrows(p, picture.motion, self.hand.over_end)
            if self.building:
                self._build_painter.paint(p, picture.motion, states)
            else:
                self.handles.paint(p, self._view, self.width(), self.height())
                self.noting.paint(p)
        p.setPen(QPen(t.color("hairline"), 1))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6)
        if self.hasFocus() and self._ring:
            p.setPen(QPen(t.color("ink"), 1, Qt.PenStyle.DotLine))
            p.drawRoundedRect(QRectF(self.rect()).adjusted(2.5, 2.5, -2.5, -2.5), 5, 5)
        p.end()

    def sees(self, points: Array, pixels: Array | None = None) -> NDArray[np.bool_]:
        """Whether places (N, 3), their pixels (N, 2) where known, are seen, or hidden behind bodies, (N,)."""
        return self._solids.sees(points, self.view, self.width(), self.height(), pixels)

    def to_pixels(self, points: Array) -> Array:
        """Pixels of places (N, 3), shape (N, 2)."""
        return self.view.project(points, self.width(), self.height())

    # -- the hand ------------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._remedies.place()
        self._pull_card.place()
        self._later()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        if self.building:
            self._held = self.hand.press(event.position(), event.button(), event.modifiers())
            self._drag = None if self._held else (event.position(), self.view)
            self.update()
            return
        if self.tuning.press(event):
            self.update()
            return
        self._drag = (event.position(), self.view)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.building and self._held:
            self.hand.move(event.position(), event.modifiers())
            return
        if self.building and self._drag is None:
            self.hand.hover(event.position())
            return
        if self.tuning.move(event):
            self.update()
            return
        if self._drag is None or self._view is None:
            self.tuning.hover(event.position())
            return
        d = event.position() - self._drag[0]
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._view = self._drag[1].orbited(d.x(), d.y())
        else:
            self._view = self._drag[1].moved(d.x(), d.y(), self.height())
        self._whole = False
        self._later()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.building:
            self.hand.release(event.position(), event.button())
            self._held, self._drag = False, None
            self.update()
            return
        self.tuning.release()
        self._drag = None

    def next_handle(self) -> None:
        """Choose the next outcome that can be pulled, and have the keys."""
        if self.handles.choose_next() is not None:
            self.setFocus(Qt.FocusReason.OtherFocusReason)
            self.update()

    def event(self, event: QEvent) -> bool:
        """While something is pulled, Esc puts it back and stops nothing else."""
        if event.type() == QEvent.Type.KeyPress and self.building and isinstance(event, QKeyEvent) and (
                event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab)):
            self.hand.walk(1 if event.key() == Qt.Key.Key_Tab else -1)
            self.update()
            return True
        if event.type() == QEvent.Type.ShortcutOverride and self.building and isinstance(event, QKeyEvent) and (
                event.key() == Qt.Key.Key_Escape) and self.hand.hears_escape:
            event.accept()
            return True
        if event.type() == QEvent.Type.ShortcutOverride and self.tuning.hears_keys and isinstance(event, QKeyEvent) and (
                event.key() in (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Enter)):
            event.accept()
            return True
        return super().event(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        if self._view is not None:
            at = event.position()
            self._view = self._view.zoomed_at(0.999 ** event.angleDelta().y(), at.x(), at.y(), self.width(), self.height())
            self._whole = False
            self._later()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.building and self.hand.key(event):
            self.update()
            return
        if self.tuning.key(event):
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
