"""The slider of an unknown: its range, its value, and a whisker for the uncertainty after a fit."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSlider, QWidget

from yapa.case import Estimate, Unknown
from yapa.case.unknowns import from_unit_box, to_unit_box
from yapa.desktop.app.theme import px, theme

STEPS = 10000
ASIDE = 0.03
"""of the range: one step"""


class Knob(QSlider):
    """A slider over an unknown's range (its logarithm where the unknown is logarithmic)."""

    turned = Signal(float)
    released = Signal(float)
    pressed = Signal(float)
    """it is held; with one step of it at this place"""

    def __init__(self, unknown: Unknown, parent: QWidget | None = None) -> None:
        super().__init__(Qt.Orientation.Horizontal, parent)
        self._unknown = unknown
        self._estimate: Estimate | None = None
        self._quiet = False
        self._held = False
        self.setRange(0, STEPS)
        self.setSingleStep(20)
        self.setPageStep(200)
        self.setFixedHeight(px(16))
        self.valueChanged.connect(self._on_value)

    def show_value(self, value: float, estimate: Estimate | None) -> None:
        """Stand at a value without telling anyone."""
        if self._held:
            return
        self._quiet = True
        self._estimate = estimate
        self.setValue(round(to_unit_box(self._unknown, value) * STEPS))
        self._quiet = False
        self.update()

    def number(self) -> float:
        """The value where it stands."""
        return from_unit_box(self._unknown, self.value() / STEPS)

    def _on_value(self, _value: int) -> None:
        if self._quiet:
            return
        self.turned.emit(self.number())
        if not self._held:  # a key, not the mouse
            self.released.emit(self.number())

    def _x(self, u: float) -> float:
        return 8 + (self.width() - 16) * min(1.0, max(0.0, u))

    def _to_step(self, event: QMouseEvent) -> int:
        return round(min(1.0, max(0.0, (event.position().x() - 8) / max(self.width() - 16, 1))) * STEPS)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and self.isEnabled():
            self._held = True
            self.setFocus(Qt.FocusReason.MouseFocusReason)
            self.setValue(self._to_step(event))
            self.pressed.emit(self.step())

    def step(self) -> float:
        """How far a step of its range goes from where it stands, in its own unit."""
        u = self.value() / STEPS
        ahead = u + ASIDE if u + ASIDE <= 1.0 else u - ASIDE
        return abs(from_unit_box(self._unknown, ahead) - self.number())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held and event.buttons() & Qt.MouseButton.LeftButton:
            self.setValue(self._to_step(event))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held:
            self._held = False
            self.released.emit(self.number())

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = self.height() / 2
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(t.color("hairline"))
        p.drawRoundedRect(QRectF(8, middle - 2, self.width() - 16, 4), 2, 2)
        e = self._estimate
        if e is not None and (e.low is not None or e.high is not None):
            a = 0.0 if e.low is None else to_unit_box(self._unknown, e.low)
            b = 1.0 if e.high is None else to_unit_box(self._unknown, e.high)
            pen = QPen(t.color("ink"), 2.4)
            if not e.determined:
                pen.setStyle(Qt.PenStyle.DotLine)
            p.setPen(pen)
            left, right = self._x(a), max(self._x(b), self._x(a) + 1)
            p.drawLine(QPointF(left, middle), QPointF(right, middle))
            for u, known in ((left, e.low is not None), (right, e.high is not None)):
                if known:
                    p.drawLine(QPointF(u, middle - 5), QPointF(u, middle + 5))
        u = self.value() / STEPS
        p.setPen(QPen(t.color("ink" if self.isEnabled() else "soft"), 2.4 if self.hasFocus() else 1.4))
        p.setBrush(t.color("card"))
        p.drawEllipse(QPointF(self._x(u), middle), 5.5, 5.5)
        for end, way in ((u <= 0.0, -1), (u >= 1.0, 1)):  # it stands at a bound: the way it would go on
            if end:
                x = self._x(u) + 8 * way - (4 if way > 0 else -4)
                p.setBrush(t.color("trouble"))
                p.setPen(Qt.PenStyle.NoPen)
                p.drawPolygon([QPointF(x - way, middle - 4), QPointF(x - way, middle + 4), QPointF(x + 4 * way, middle)])
        p.end()
