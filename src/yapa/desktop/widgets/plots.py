"""PyQtGraph as Yapa draws with it. Imported where something is first plotted: it takes longer than a window to appear."""

from __future__ import annotations

import pyqtgraph as pg

__all__ = ["pg"]

pg.setConfigOptions(antialias=True)
