"""The cameras of a scene on the stage: looking through one, its frame, and putting one where one looks from."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from yapa.case.scene import Camera
from yapa.desktop.app.theme import theme
from yapa.desktop.bench.stage.camera import View, through
from yapa.session.building import whole_scene

if TYPE_CHECKING:
    from yapa.desktop.bench.stage.stage import Stage

FRAME_HALF = 0.012 / 0.035
"""half the height of the usual frame over its lens"""


class ShotCamera:
    """The camera that one stage looks through.

    Attributes
    ----------
    name : of the camera that was looked through last
    """

    def __init__(self, stage: Stage) -> None:
        self._stage, self._session = stage, stage.session
        self.name = ""

    def next(self) -> View | None:
        """The view through the first camera of the scene, or the one after that which is looked through; None without one."""
        cameras = self._session.case.cameras if self._session.case is not None else {}
        if not cameras:
            self._session.message.emit("this scene has no camera: put one where you look from (Look, Put a camera here)")
            return None
        names = list(cameras)
        at = names.index(self.name) + 1 if self.seen() is not None else 0
        self.name = names[at % len(names)]
        return self._through(cameras[self.name])

    def _through(self, camera: Camera) -> View:
        wide, high = (edge / camera.focal_length for edge in camera.frame)
        return through(camera.position, camera.aim, high, wide, self._stage.width(), self._stage.height())

    def seen(self) -> Camera | None:
        """The camera that one looks through; None where the view is another."""
        case = self._session.case
        camera = case.cameras.get(self.name) if case is not None else None
        return camera if camera is not None and self._stage.view == self._through(camera) else None

    def put(self) -> None:
        """Put a camera of the scene where it is seen from."""
        view = self._stage.view
        place = np.array(view.centre) + (view.distance or view.half_height / FRAME_HALF) * view.axes()[2]
        if self._session.case is not None and self._session.make(whole_scene.put_camera(place.tolist(), view.centre)):
            self._session.message.emit("a camera is there now; 5 looks through it, and its numbers are on the card of the scene")

    def paint(self, p: QPainter) -> None:
        """The frame: what the camera sees."""
        camera = self.seen()
        if camera is None:
            return
        view = self._stage.view
        wide, high = (0.5 * view.distance * edge / camera.focal_length for edge in camera.frame)
        right, up, _ = view.axes()
        signs = ((-1, -1), (1, -1), (1, 1), (-1, 1))
        corners = np.array(view.centre) + np.array([sx * wide * right + sy * high * up for sx, sy in signs])
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(theme().color("ink"), 1.4))
        p.drawPolygon(QPolygonF([QPointF(x, y) for x, y in self._stage.to_pixels(corners)]))
