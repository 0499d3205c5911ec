"""Noting by hand on the stage: marks at the play head, a path drawn with its timing; and the card of the stopwatch."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QTimer
from PySide6.QtGui import QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QFrame, QHBoxLayout

from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import font, theme
from yapa.desktop.widgets.card import button, label
from yapa.session.building.asking import tolerance_for
from yapa.session.hand_notes import CONTACTS, RESTS
from yapa.session.manual_evidence import Place

if TYPE_CHECKING:
    from yapa.desktop.bench.stage.stage import Stage

MARK, DRAW = "mark", "draw"
ALONG_VIEW = 0.9
"""of the way into the picture: a coordinate so much along it was not seen"""
EDGE = 10
"""pixels from the corner of the stage"""


class Noting:
    """What a click or a drag on one stage notes.

    Attributes
    ----------
    mode : mark, draw, or none
    speed : of playing, by which the timing of a drawn path counts
    """

    def __init__(self, stage: Stage) -> None:
        self._stage, self._session = stage, stage.session
        self.mode = ""
        self.speed = 1.0
        self._begun: tuple[float, float] | None = None
        self._line: list[QPointF] = []

    def choose(self, mode: str) -> None:
        """Begin to note, or end it where it was begun."""
        body = self._session.notes.whose()
        if body is None:
            self._session.error.emit("note: nothing in this scene moves; put in what was seen first")
            return
        self.mode = "" if mode == self.mode else mode
        words = {MARK: f"click where {body} was at {self._session.playback.time:.2f} s; Esc ends",
                 DRAW: f"draw the way of {body}, as fast as it went; Esc ends"}
        self._session.message.emit(words.get(self.mode, ""))
        self._stage.setFocus()
        self._stage.update()

    def end(self) -> None:
        """Note nothing any more."""
        self.mode, self._begun, self._line = "", None, []
        self._stage.update()

    def _place(self, at: QPointF) -> Place | None:
        """Where a pixel is, in the picture's plane through the body; what lies along the view was not seen."""
        picture, body = self._session.preview.comparison, self._session.notes.whose()
        if picture is None or body is None:
            return None
        centre = picture.motion.trajectory(body).position(np.array([self._session.playback.time]))[0]
        eye = self._stage.view.axes()[2]
        found = self._stage.hand.ray(at).at_plane(centre, eye)
        if found is None:
            return None
        x, y, z = (float(v) if abs(e) < ALONG_VIEW else float("nan") for v, e in zip(found, eye, strict=True))
        return x, y, z

    @property
    def tolerance(self) -> float:
        """How well one can point at this zoom [m]."""
        return tolerance_for(0.0, self._stage.hand.pixel)

    def press(self, at: QPointF) -> None:
        """A mark, or the start of a path."""
        place = self._place(at)
        if place is None:
            return
        if self.mode == MARK:
            self._session.notes.mark(place, self.tolerance)
        else:
            self._begun = (time.perf_counter(), self._session.playback.time)
            self._line = []
            self.move(at)

    def move(self, at: QPointF) -> None:
        """One more place of a path; what was not seen is where the body is."""
        place = self._place(at)
        if self._begun is None or place is None:
            return
        begun, start = self._begun
        seen = tuple(0.0 if v != v else v for v in place)
        self._session.notes.draw(start + self.speed * (time.perf_counter() - begun), (seen[0], seen[1], seen[2]))
        self._line.append(at)
        self._stage.update()

    def release(self) -> None:
        """The path is drawn."""
        if self._begun is not None:
            self.end()
            self._session.notes.end_path(self.tolerance)

    def paint(self, p: QPainter) -> None:
        """The path under the hand, and what a click does."""
        if not self.mode:
            return
        t = theme()
        p.setPen(QPen(t.color("measured"), 2.0))
        if len(self._line) > 1:
            p.drawPolyline(QPolygonF(self._line))
        words = {MARK: f"click: {self._session.notes.whose()} was here at {self._session.playback.time:.2f} s",
                 DRAW: "drag: it went this way, as fast as this"}[self.mode]
        p.setFont(font(10, True))
        p.setPen(t.color("measured"))
        p.drawText(QPointF(14, 44), words)


class StopwatchCard(QFrame):
    """What was tapped, and what it is to be; hidden while nothing was."""

    def __init__(self, session: Session, stage: Stage) -> None:
        super().__init__(stage)
        self._session, self._stage = session, stage
        self.setObjectName("card")
        self.setAccessibleName("stopwatch")
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 3, 10, 3)
        row.setSpacing(6)
        self.words = label("", 10, True)
        row.addWidget(self.words)
        for text, tip, name, act in (
            ("are its contacts", "Times of its bounces, in order", "taps are contacts", lambda: self._keep(CONTACTS)),
            ("last is its rest", "When it lay still", "tap is the rest", lambda: self._keep(RESTS)),
            ("forget", "Forget what was tapped", "forget the taps", session.notes.discard),
        ):
            b = button(text, tip, name)
            b.clicked.connect(lambda _on=False, act=act: act())
            row.addWidget(b)
        session.notes_changed.connect(self.rebuild)
        self.hide()

    def _keep(self, kind: str) -> None:
        self._session.notes.keep_taps(kind, self._stage.noting.speed)

    def rebuild(self) -> None:
        """The times that were tapped."""
        taps = self._session.notes.taps
        self.words.setText(f"{len(taps)} tapped: " + ", ".join(f"{tap:.2f}" for tap in taps[-6:]) + " s")
        self.setVisible(bool(taps))
        self.place()
        QTimer.singleShot(0, self, self.place)

    def place(self) -> None:
        """At the top of the stage."""
        self.adjustSize()
        self.move(EDGE, 52)
