"""PyQtGraph as Yapa draws with it. Imported where something is first plotted: it takes longer than a window to appear."""

from __future__ import annotations

import pyqtgraph as pg

__all__ = ["PlotArea", "pg"]

pg.setConfigOptions(antialias=True)


class PlotArea(pg.GraphicsLayoutWidget):  # type: ignore[misc]
    """An area of plots; its base has no types."""
