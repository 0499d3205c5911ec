"""A column of cards that scrolls."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from yapa.desktop.app.theme import px


def _clear(layout: QVBoxLayout) -> None:
    while (item := layout.takeAt(0)) is not None:
        if (widget := item.widget()) is not None:
            widget.hide()
            widget.deleteLater()


class Column(QScrollArea):
    """A scrolling column of cards."""

    def __init__(self, width: int) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setFixedWidth(px(width))
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        inner = QWidget()
        self.cards = QVBoxLayout(inner)
        self.cards.setContentsMargins(0, 0, 8, 0)
        self.cards.setSpacing(6)
        self.setWidget(inner)
