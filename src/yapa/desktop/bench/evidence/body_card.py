"""The card of a body."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from yapa.case import Body
from yapa.desktop.app.theme import theme
from yapa.desktop.widgets.card import Card, label


class _Sketch(QWidget):
    """A body's outline in paper tones."""

    def __init__(self, body: Body) -> None:
        super().__init__()
        self._kind = body.shapes[0].kind
        self.setFixedSize(QSize(24, 24))

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(QPen(t.color("ink"), 1.2))
        p.setBrush(t.color("paper_a"))
        if self._kind == "sphere":
            p.drawEllipse(QPointF(12, 12), 9, 9)
            p.setPen(QPen(t.color("soft"), 1))
            for a, b in ((3, 12), (12, 3)):
                p.drawLine(QPointF(a, b), QPointF(24 - a, 24 - b))
        elif self._kind == "box":
            p.drawRect(4, 6, 16, 12)
        elif self._kind == "capsule":
            p.drawRoundedRect(3, 7, 18, 10, 5, 5)
        elif self._kind == "cylinder":
            p.drawRect(6, 5, 12, 14)
            p.drawEllipse(QPointF(12, 5), 6, 2.5)
        elif self._kind == "hull":
            p.drawPolygon([QPointF(x, y) for x, y in ((4, 14), (9, 4), (18, 6), (21, 15), (13, 20))])
        else:
            p.drawLine(2, 9, 22, 9)
            p.setPen(QPen(t.color("soft"), 1))
            for x in (6, 12, 18):
                p.drawLine(x, 11, x - 5, 17)
        p.end()

class BodyCard(Card):
    """A body; click to see and edit its numbers."""

    clicked = Signal(str)

    def __init__(self, name: str, body: Body) -> None:
        super().__init__()
        self._name = name
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(f"body {name}")
        self.setToolTip("Click to see, edit, free or lock its numbers")
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(_Sketch(body))
        words = QVBoxLayout()
        words.setSpacing(0)
        words.addWidget(label(name, 11, True))
        mass = f" · {body.mass:.3g} kg" if body.motion == "dynamic" else ""
        if body.density is not None:
            mass = f" · {body.density:.4g} kg/m³"
        words.addWidget(label(f"{body.motion}{mass} · {body.shapes[0].surface}", 9, role="soft"))
        row.addLayout(words, 1)
        self.column.addLayout(row)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.clicked.emit(self._name)

    def keyPressEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.clicked.emit(self._name)
        else:
            super().keyPressEvent(event)
