"""The stock as tiles: drag one onto the stage, or press Enter on it."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QGridLayout, QWidget

from yapa.desktop.app.theme import font, px, theme
from yapa.desktop.bench.builder.sketches import draw_thing
from yapa.session.building.stock import STOCK, Thing

ACROSS = 4
FAR = 6
"""pixels the pointer moves before a press becomes a drag"""


class Tile(QWidget):
    """One thing of the stock."""

    put = Signal(str)
    """It is put in beside what is there."""
    dropped = Signal(str, QPointF, bool)
    """It is let go at a place of the screen; with Alt it stays upright."""

    def __init__(self, thing: Thing) -> None:
        super().__init__()
        self.thing = thing
        self._from: QPointF | None = None
        self._away = False
        self.setFixedSize(px(56), px(54))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        self.setAccessibleName(f"stock {thing.name}")
        self.setToolTip(f"{thing.name}: {thing.meaning}. Drag it onto the stage, or press Enter")

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setBrush(t.color("card"))
        lit = self.hasFocus() or self.underMouse()
        p.setPen(QPen(t.color("ink" if lit else "hairline"), 1.4 if self.hasFocus() else 1.0))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 5, 5)
        p.setPen(QPen(t.color("ink"), 1.2))
        p.setBrush(t.color("paper_a"))
        draw_thing(p, self.thing.name, QRectF(px(14), px(8), px(28), px(22)))
        p.setPen(t.color("ink"))
        p.setFont(font(9))
        p.drawText(QRectF(0, px(35), self.width(), px(14)), Qt.AlignmentFlag.AlignCenter, self.thing.name)
        p.end()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._from, self._away = event.position(), False

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._from is not None and (event.position() - self._from).manhattanLength() > FAR:
            self._away = True
            self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._from is not None and self._away:
            upright = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
            self.dropped.emit(self.thing.name, event.globalPosition(), upright)
        self._from = None
        self.setCursor(Qt.CursorShape.OpenHandCursor)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.put.emit(self.thing.name)
        else:
            super().keyPressEvent(event)

    def enterEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.update()

    def leaveEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.update()


class Stock(QWidget):
    """Every thing there is."""

    put = Signal(str)
    dropped = Signal(str, QPointF, bool)

    def __init__(self) -> None:
        super().__init__()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(4)
        self.tiles: list[Tile] = []
        for k, thing in enumerate(STOCK):
            tile = Tile(thing)
            tile.put.connect(self.put)
            tile.dropped.connect(self.dropped)
            grid.addWidget(tile, k // ACROSS, k % ACROSS)
            self.tiles.append(tile)
        grid.setColumnStretch(ACROSS, 1)
