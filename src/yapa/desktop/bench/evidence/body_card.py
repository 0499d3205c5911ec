"""The card of a body."""

from __future__ import annotations

from PySide6.QtCore import QSize
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from yapa.case import Body
from yapa.desktop.app.theme import theme
from yapa.desktop.bench.builder.scene_list import account
from yapa.desktop.bench.evidence.sketches import draw
from yapa.desktop.widgets.card import CardButton, ElidedLabel, label


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
        draw(p, self._kind)
        p.end()


class BodyCard(CardButton):
    """A body; click to see and edit its numbers."""

    def __init__(self, name: str, body: Body) -> None:
        super().__init__(name, f"body {name}", "Click to see, edit, free or lock its numbers")
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(_Sketch(body))
        words = QVBoxLayout()
        words.setSpacing(0)
        words.addWidget(label(name, 11, True))
        words.addWidget(ElidedLabel(account(body), 9, role="soft"))
        row.addLayout(words, 1)
        self.column.addLayout(row)
