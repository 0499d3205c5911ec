"""Cards and what they are made of: labels in the colour of a role, buttons, lists that scroll, small curves."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPolygonF, QResizeEvent
from PySide6.QtWidgets import QFrame, QLabel, QPushButton, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from yapa.desktop.app.theme import font


def button(text: str, tip: str, name: str = "", kind: str = "quiet") -> QPushButton:
    """A button of a kind of the style sheet."""
    b = QPushButton(text)
    b.setObjectName(kind)
    b.setToolTip(tip)
    b.setAccessibleName(name or text)
    b.setFont(font(10))
    return b


def scrolled() -> tuple[QScrollArea, QVBoxLayout]:
    """A list that scrolls up and down, and the column its cards go into."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    inner = QWidget()
    column = QVBoxLayout(inner)
    column.setContentsMargins(0, 0, 8, 0)
    area.setWidget(inner)
    return area, column


def label(text: str, size: float = 10, bold: bool = False, role: str = "ink", wrap: bool = False) -> QLabel:
    """A label in a role's colour."""
    out = QLabel(text)
    out.setFont(font(size, bold))
    out.setProperty("role", role)
    out.setWordWrap(wrap)
    return out


class ElidedLabel(QLabel):
    """A label of one line that gives up the end of its words where there is no room; the tip has all of them.

    Parameters
    ----------
    words : what it says
    size, role : as of other labels
    """

    def __init__(self, words: str, size: float = 10, bold: bool = False, role: str = "ink") -> None:
        super().__init__()
        self._words = ""
        self.setFont(font(size, bold))
        self.setProperty("role", role)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.setText(words)

    def setText(self, words: str) -> None:
        """Say something else."""
        self._words = words
        self._fit()

    def setFixedWidth(self, width: int) -> None:
        """So wide, whatever stands beside it."""
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Preferred)
        super().setFixedWidth(width)

    def text(self) -> str:
        """All of its words."""
        return self._words

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._fit()
        super().resizeEvent(event)

    def _fit(self) -> None:
        shown = self.fontMetrics().elidedText(self._words, Qt.TextElideMode.ElideRight, max(self.width(), 8))
        super().setText(shown)
        if shown != self._words or self.toolTip() == self._words:
            self.setToolTip(self._words)


def set_role(widget: QWidget, role: str) -> None:
    """Give a widget the colour of another role of the style sheet, in whichever theme is in use."""
    if widget.property("role") != role:
        widget.setProperty("role", role)
        widget.style().unpolish(widget)
        widget.style().polish(widget)


class Card(QFrame):
    """A white card with a column inside."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("card")
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(10, 4, 10, 4)
        self.column.setSpacing(0)


class CardButton(Card):
    """A card that is a button: ``pressed`` with the thing it stands for, at a click, Enter or Space.

    Parameters
    ----------
    thing : what it stands for
    name, tip : for who hears it, and for who points at it
    """

    pressed = Signal(object)

    def __init__(self, thing: object, name: str, tip: str) -> None:
        super().__init__()
        self._thing = thing
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)
        self.setToolTip(tip)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and self.rect().contains(event.position().toPoint()):
            self.pressed.emit(self._thing)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.pressed.emit(self._thing)
        else:
            super().keyPressEvent(event)


def curve_polygon(curve: tuple[tuple[float, float], ...], x: float, y: float, w: float, h: float) -> QPolygonF:
    """A small curve laid into a rectangle."""
    if len(curve) < 2:
        return QPolygonF()
    a = np.array(curve)
    u = (a[:, 0] - a[0, 0]) / max(np.ptp(a[:, 0]), 1e-9)
    v = (a[:, 1] - a[:, 1].min()) / max(np.ptp(a[:, 1]), 1e-9)
    return QPolygonF([QPointF(x + w * p, y + h * (1 - q)) for p, q in zip(u, v, strict=True)])
