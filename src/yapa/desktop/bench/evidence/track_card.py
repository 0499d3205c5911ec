"""The card of a track."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from yapa.desktop.app.theme import theme
from yapa.desktop.widgets.card import Card, ElidedLabel, button, label, set_role
from yapa.session.comparison import TrackData

FAR = 2.0
"""standard deviations: a track that the simulation misses by more stands out"""


class _Curve(QWidget):
    """A small dotted curve of a track."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(30)
        self._t = self._y = np.zeros(0)

    def show_data(self, data: TrackData) -> None:
        """Show the coordinate that tells most."""
        column = 2 if data.shown[2] else (0 if data.shown[0] else 1)
        good = np.isfinite(data.x[:, column])
        step = max(1, int(good.sum()) // 90)
        self._t, self._y = data.t[good][::step], data.x[good, column][::step]
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if not len(self._t):
            return
        t = theme()
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        x = 2 + (self._t - self._t[0]) / max(np.ptp(self._t), 1e-9) * (self.width() - 4)
        y = self.height() - 4 - (self._y - self._y.min()) / max(np.ptp(self._y), 1e-9) * (self.height() - 8)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(t.color("measured"))
        for a, b in zip(x, y, strict=True):
            p.drawEllipse(QPointF(a, b), 1.1, 1.1)
        p.end()


class TrackCard(Card):
    """A track of a body."""

    removed = Signal(str)

    def __init__(self, name: str, whose: str) -> None:
        super().__init__()
        self._whose = whose
        head = QHBoxLayout()
        head.addWidget(ElidedLabel(name, 11, True), 1)
        self.misfit = label("", 10, role="measured")
        head.addWidget(self.misfit)
        away = button("✕", "Take this track away", f"remove {name}", "small")
        away.clicked.connect(lambda: self.removed.emit(name))
        head.addWidget(away)
        self.column.addLayout(head)
        self._words = ElidedLabel("", 9, role="soft")
        self.column.addWidget(self._words)
        self._curve = _Curve()
        self.column.addWidget(self._curve)

    def show_misfit(self, misfit: float | None) -> None:
        """How far the simulation is from it, in standard deviations."""
        self.misfit.setText("" if misfit is None else f"{misfit:.3g} σ")
        set_role(self.misfit, "trouble" if misfit is not None and misfit > FAR else "measured")

    def show_data(self, data: TrackData) -> None:
        """Show what was read of it."""
        sigma = f"σ {data.sigma * 1000:.2g} mm" + ("" if data.sigma_given else ", estimated")
        self._words.setText(f"{self._whose} · {len(data.t)} samples · {data.rate:.0f} /s · {sigma}")
        self._curve.show_data(data)
