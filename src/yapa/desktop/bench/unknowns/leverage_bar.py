"""What each piece of evidence says of a number: one bar a piece, its length logarithmic, the same scale on every card."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from yapa.desktop.app.theme import theme

HEIGHT = 8
GAP = 3
LONGEST = 60.0
"""pixels of the bar of a piece that says as much as is told"""


class LeverageBar(QWidget):
    """The bars of one number."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self._bars: list[tuple[str, float]] = []
        self._known = False
        self.setFixedHeight(HEIGHT)
        self.setMinimumWidth(20)
        self.setAccessibleName(f"what the evidence says of {name}")

    def show_bars(self, bars: list[tuple[str, float]], known: bool) -> None:
        """Show other bars; before they are known, none."""
        if (bars, known) == (self._bars, self._known):
            return
        self._bars, self._known = bars, known
        words = "\n".join(f"{piece}: {'much' if size > 0.66 else 'some' if size > 0.33 else 'little'}" for piece, size in bars)
        self.setToolTip("What each piece of evidence says of it (logarithmic):\n" + words if bars else
                        "No piece of evidence says anything of it" if known else "")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme().color("simulated", 0.85))
        share = min(1.0, (self.width() - GAP * max(len(self._bars) - 1, 0)) / (LONGEST * max(len(self._bars), 1)))
        x = 0.0
        for _, size in self._bars:
            long = max(2.0, size * LONGEST * share)
            p.drawRoundedRect(QRectF(x, HEIGHT / 2 - 1.5, long, 3), 1.5, 1.5)
            x += long + GAP
        p.end()
