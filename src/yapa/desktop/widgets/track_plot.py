"""Columns of tracks over time, as they are read."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from yapa.desktop.app.theme import font, theme
from yapa.desktop.widgets.plots import Plot, to_draw
from yapa.session.importing import TrackData

MAX_DOTS = 1500


class TrackPlot(Plot):
    """Measured, all of it: told apart by shade and shape."""

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(150)
        self.setBackground(theme().card)
        self.setAccessibleName("preview of the columns")
        for side in ("left", "bottom"):
            self.getAxis(side).setPen(theme().hairline)
            self.getAxis(side).setTextPen(theme().soft)
            self.getAxis(side).setStyle(tickFont=font(9))
        self.getAxis("left").setWidth(52)
        self.getAxis("left").enableAutoSIPrefix(False)
        self.setLabel("bottom", "t", units="s")
        self.addLegend(offset=(-4, 1), labelTextColor=theme().ink, brush=None, pen=None, labelTextSize="8pt", colCount=4,
                       verSpacing=-6)
        self.getViewBox().setDefaultPadding(0.02)

    def show_tracks(self, tracks: Sequence[TrackData], unit: str = "m") -> None:
        """Show what varies of each."""
        self.clear()
        t = theme()
        orange = t.color("measured")
        looks = {"x": (orange.darker(165), "s"), "y": (orange.lighter(125), "t"), "z": (orange, "o"),
                 "angle": (t.color("soft"), "d")}
        low, high = np.inf, -np.inf
        for data in tracks:
            columns = {axis: data.x[:, c] for c, axis in enumerate("xyz") if data.shown[c]}
            if data.angle is not None:
                columns["angle"] = data.angle / max(float(np.nanmax(np.abs(data.angle), initial=0.0)), 1e-9)
            step = max(1, len(data.t) // MAX_DOTS)
            whose = f" · {data.name}" if len(tracks) > 1 else ""
            for name, y in columns.items():
                color, symbol = looks[name]
                low, high = np.fmin(low, np.nanmin(y, initial=np.inf)), np.fmax(high, np.nanmax(y, initial=-np.inf))
                words = "angle, scaled to 1" if name == "angle" else f"{name} {unit}"
                self.plot(*to_draw(data.t[::step], y[::step]), pen=None, symbol=symbol, symbolSize=3.5, symbolPen=None,
                          symbolBrush=color, name=words + whose)
        if low < high:  # the legend lies above what is shown
            self.setYRange(low, high + 0.3 * (high - low))
        else:  # nothing to see yet
            self.setYRange(0.0, 1.0, padding=0.1)
