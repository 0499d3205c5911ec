"""The beat strip: measured contacts above, simulated below, matched ones joined by a line."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QHelpEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QWheelEvent
from PySide6.QtWidgets import QToolTip, QWidget

from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import font, px, theme
from yapa.desktop.bench.timeline.axis import LEFT, Span, marks, to_pixel, to_time, turn_wheel
from yapa.session.beats import Beat, nearest_beat, no_hits
from yapa.session.handles import Handle
from yapa.session.pull_words import pull_words

HEIGHT = 54
"""pixels; of them the numbers have the last"""
NUMBERS = 15
SLACK = 3
"""pixels that the hand moves before it pulls"""
GRAB_DISTANCE = 6
"""pixels: a click this near to a contact goes to its moment"""


class BeatStrip(QWidget):
    """An upright line is a perfect match, a slant is a timing error. Scrub here."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._candidate: tuple[float, Handle] | None = None
        self._painted: tuple[tuple[object, ...], QPixmap] | None = None
        self.setFixedHeight(px(HEIGHT))
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self.setAccessibleName("Beat strip")
        self.setToolTip(TIP)
        session.contacts_chosen.connect(self.update)
        session.span_changed.connect(self.update)
        session.comparison_changed.connect(lambda _p: self.update())
        session.playhead_moved.connect(lambda _t: self.update())

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setBrush(t.color("card"))
        p.setPen(QPen(t.color("hairline"), 1))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6)
        case, picture = self._session.case, self._session.preview.comparison
        if case is None:
            return
        span = self._session.playback.span
        measured = self._session.preview.builder is not None and bool(self._session.preview.builder.measured)
        top, bottom = (px(12), px(32)) if measured else (px(22), px(22))
        p.drawPixmap(0, 0, self._axis(span))
        p.setFont(font(10))
        if measured:
            p.setPen(t.color("measured"))
            p.drawText(QPointF(8, top + 4), "measured")
        p.setPen(t.color("simulated"))
        p.drawText(QPointF(8, bottom + 4), "simulated")
        beats = self._session.preview.beats
        if picture is not None and not beats:
            p.setPen(t.color("soft"))
            words = ("nothing is here yet" if not case.bodies else "the contacts of this clip are left out (Ctrl+Alt+B)"
                     if picture.beats else no_hits(picture.motion))
            p.drawText(QPointF(LEFT + 16, bottom + 4), words)
        p.setClipRect(QRectF(LEFT - 8, 0, self.width() - LEFT, self.height()))
        for b in beats:
            xm = to_pixel(b.measured, span, self.width()) if b.measured is not None else None
            xs = to_pixel(b.simulated, span, self.width()) if b.simulated is not None else None
            if xm is not None and xs is not None:
                p.setPen(QPen(t.color("ink", 0.55), 1))
                p.drawLine(QPointF(xm, top), QPointF(xs, bottom))
            if xm is not None:
                r = 2.5 + min(4.0, b.measured_speed)
                p.setPen(Qt.PenStyle.NoPen)
                p.setBrush(t.color("measured"))
                p.drawEllipse(QPointF(xm, top), r, r)
            if xs is not None:
                h = 3 + min(4.0, b.simulated_speed) * 1.4
                p.setPen(Qt.PenStyle.NoPen)
                p.setBrush(t.color("simulated"))
                p.drawRoundedRect(QRectF(xs - 2.5, bottom - h, 5, 2 * h), 2, 2)
        self._paint_rests(p, span, bottom)
        p.setClipping(False)
        x = to_pixel(self._session.playback.time, span, self.width())
        p.setPen(QPen(t.color("ink"), 1.4))
        p.drawLine(QPointF(x, 1), QPointF(x, self.height() - px(NUMBERS)))
        p.setBrush(t.color("ink"))
        p.drawPolygon([QPointF(x - 5, 1), QPointF(x + 5, 1), QPointF(x, 8)])
        p.end()

    def _axis(self, span: Span) -> QPixmap:
        """The time axis, painted once for a stretch of the clip, a width and a theme."""
        key = span, self.width(), self.devicePixelRatioF(), theme()
        if self._painted is None or self._painted[0] != key:
            ratio = self.devicePixelRatioF()
            pixmap = QPixmap(round(ratio * self.width()), round(ratio * self.height()))
            pixmap.setDevicePixelRatio(ratio)
            pixmap.fill(Qt.GlobalColor.transparent)
            p = QPainter(pixmap)
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_numbers(p, span)
            p.end()
            self._painted = key, pixmap
        return self._painted[1]

    def _paint_numbers(self, p: QPainter, span: Span) -> None:
        """The time axis: a stroke and a number at round times."""
        t = theme()
        line = self.height() - px(NUMBERS)
        p.setPen(QPen(t.color("hairline"), 1))
        p.drawLine(QPointF(LEFT, line), QPointF(to_pixel(span[1], span, self.width()), line))
        p.setFont(font(9))
        for time in marks(span):
            x = to_pixel(time, span, self.width())
            p.setPen(QPen(t.color("soft"), 1))
            p.drawLine(QPointF(x, line), QPointF(x, line + 3))
            p.drawText(QRectF(x - px(30), line + 2, px(60), px(NUMBERS) - 2), Qt.AlignmentFlag.AlignCenter, f"{time:g} s")

    def _in_time(self) -> list[Handle]:
        """What can be pulled along time."""
        picture = self._session.preview.comparison
        return [h for h in picture.handles if h.in_time] if picture is not None else []

    def _handle_of(self, x: float) -> Handle | None:
        """What can be pulled along time at a pixel."""
        span, width = self._session.playback.span, self.width()
        found = [(abs(to_pixel(h.time, span, width) - x), h) for h in self._in_time()]
        away, handle = min(found, key=lambda one: one[0], default=(GRAB_DISTANCE, None))
        return handle if away < GRAB_DISTANCE else None

    def _paint_rests(self, p: QPainter, span: Span, bottom: float) -> None:
        """When each body has come to rest; and the words of what is pulled along time."""
        t, drag = theme(), self._session.drag
        p.setPen(QPen(t.color("ink"), 1.2))
        p.setBrush(t.color("card"))
        for h in self._in_time():
            x = to_pixel(h.time, span, self.width())
            if h.target.outcome == "rest time":
                p.drawPolygon([QPointF(x - 4, bottom), QPointF(x, bottom - 6), QPointF(x + 4, bottom), QPointF(x, bottom + 6)])
            if drag.handle is not None and drag.handle.name == h.name:
                p.setFont(font(10))
                words = pull_words(drag, h)
                wide = max(p.fontMetrics().horizontalAdvance(line) for line in words)
                left = x + 10 if x + 16 + wide < self.width() else x - 16 - wide
                p.setPen(Qt.PenStyle.NoPen)
                p.setBrush(t.color("card", 0.92))
                p.drawRoundedRect(QRectF(left - 4, 2, wide + 8, 15 * len(words) + 2), 3, 3)
                for k, line in enumerate(words):
                    p.setPen(t.color("trouble" if k else "ink"))
                    p.drawText(QPointF(left, 14 + 15 * k), line)

    def _beat_at(self, x: float) -> tuple[Beat, float] | None:
        """The contact beside a pixel, and its moment."""
        case = self._session.case
        if case is None:
            return None
        time = to_time(x, self._session.playback.span, self.width())
        return nearest_beat(self._session.preview.beats, time, GRAB_DISTANCE / self._second())

    def _second(self) -> float:
        """How many pixels a second is wide."""
        start, end = span = self._session.playback.span
        return max(to_pixel(end, span, self.width()) - LEFT, 1.0) / max(end - start, 1e-9)

    def _scrub(self, x: float) -> None:
        if self._session.case is not None:
            self._session.playback.go_to(to_time(x, self._session.playback.span, self.width()))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._candidate = (event.position().x(), handle) if (handle := self._handle_of(event.position().x())) else None
        beat = self._beat_at(event.position().x())
        if beat is not None:
            self._session.playback.go_to(beat[1])
        else:
            self._scrub(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        x, drag = event.position().x(), self._session.drag
        if self._candidate is not None and event.buttons():
            start, handle = self._candidate
            if drag.handle is None and abs(x - start) > SLACK and not drag.begin(handle):
                self._candidate = None
            if drag.handle is handle:
                drag.to(handle.target.value + (x - start) / self._second())
        elif event.buttons():
            self._scrub(x)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._candidate is not None and self._session.drag.handle is self._candidate[1]:
            self._session.drag.let_go()
        self._candidate = None

    def wheelEvent(self, event: QWheelEvent) -> None:
        turn_wheel(self._session.playback, event, self.width())

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self._session.playback.show_all()

    def event(self, event: QEvent) -> bool:
        """Beside a contact the tip tells of it."""
        if isinstance(event, QHelpEvent):
            beat = self._beat_at(event.pos().x())
            QToolTip.showText(event.globalPos(), beat[0].words if beat is not None else TIP, self)
            return True
        return super().event(event)


TIP = ("Contacts in time: measured above, simulated below. An upright line is a match, a slant a timing error. Drag to scrub, "
       "click a contact to go to its moment; pull it, or the lozenge of the rest, to when it should be. The wheel shows a shorter "
       "stretch, a double click the whole clip; Ctrl+Alt+B chooses which are shown")
