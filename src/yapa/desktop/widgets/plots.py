"""PyQtGraph as Yapa draws with it. Imported where something is first plotted: it takes longer than a window to appear."""

from __future__ import annotations

from typing import Any

import numpy as np
import pyqtgraph as pg

__all__ = ["Plot", "PlotArea", "pg", "to_draw"]

pg.setConfigOptions(antialias=True)


def to_draw(x: Any, y: Any) -> tuple[Any, Any]:
    """Rows as the library can draw them: none where no row is finite, of which it cannot find the bounds."""
    return (x, y) if (np.isfinite(x) & np.isfinite(y)).any() else ((), ())


class PlotArea(pg.GraphicsLayoutWidget):  # type: ignore[misc]
    """An area of plots; its base has no types."""

    def __init__(self) -> None:
        super().__init__()
        self.scene().contextMenu.clear()  # the library's own Export…

    def addPlot(self, row: int, col: int) -> pg.PlotItem:
        """A plot without the library's own menu, buttons and mouse."""
        return _bare(super().addPlot(row=row, col=col))


class Plot(pg.PlotWidget):  # type: ignore[misc]
    """One plot without the library's own menu, buttons and mouse."""

    def __init__(self) -> None:
        super().__init__()
        self.scene().contextMenu.clear()
        _bare(self.getPlotItem())


def _bare(plot: pg.PlotItem) -> pg.PlotItem:
    plot.hideButtons()
    plot.setMenuEnabled(False)
    plot.setMouseEnabled(False, False)
    return plot
