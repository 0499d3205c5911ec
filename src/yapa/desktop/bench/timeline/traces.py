"""Traces: small multiples over the shared time axis, each with a residual ribbon in σ under it."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QPaintEvent, QShowEvent
from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import Theme, font, theme
from yapa.desktop.bench.timeline.axis import LEFT, RIGHT, to_time
from yapa.desktop.widgets.plots import PlotArea, pg
from yapa.session.comparison import Comparison, Trace

TRACE_HEIGHT = 112
"""pixels"""
RIBBON_HEIGHT = 30
"""pixels"""
RIBBON_SIGMAS = 5.0
"""standard deviations at the edge of the ribbon"""
MAX_POINTS = 150
"""measured points that are drawn"""


class TracePlot(PlotArea):
    """One quantity: points, line, the compared trial, and the ribbon."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setFixedHeight(TRACE_HEIGHT)
        self.ci.layout.setContentsMargins(0, 2, RIGHT, 2)
        self.ci.layout.setSpacing(0)
        self.main = self.addPlot(row=0, col=0)
        self.ribbon = self.addPlot(row=1, col=0)
        self.ci.layout.setRowFixedHeight(1, RIBBON_HEIGHT)
        for plot in (self.main, self.ribbon):
            plot.hideButtons()
            plot.setMenuEnabled(False)
            plot.setMouseEnabled(False, False)
            plot.hideAxis("bottom")
            plot.getAxis("left").setWidth(LEFT)
            plot.getAxis("left").setStyle(tickLength=-3, maxTickLevel=0, tickFont=font(9), hideOverlappingLabels=True)
            plot.getViewBox().setDefaultPadding(0.0)
        self.ribbon.getAxis("left").setTicks([[(0, "0 σ")]])
        self.ribbon.setYRange(-RIBBON_SIGMAS, RIBBON_SIGMAS, padding=0.0)
        self.points = self.main.plot([], [], pen=None, symbol="o", symbolSize=3.6, pxMode=True)
        self.compared = self.main.plot([], [])
        self.line = self.main.plot([], [])
        self.zero = self.ribbon.addLine(y=0)
        self.residual = self.ribbon.plot([], [], connect="finite")
        self.heads = [plot.addLine(x=0) for plot in (self.main, self.ribbon)]
        self.title = pg.LabelItem("", justify="left")
        self.title.setParentItem(self.main.getViewBox())
        self.title.setPos(4, -4)
        self._titled: tuple[str, Theme] | None = None
        self._window: tuple[str, float, float, float] = ("", 0.0, 0.0, 0.0)
        self._measured: object = None
        self.apply_theme()

    def apply_theme(self) -> None:
        """Take the theme's colours."""
        t = theme()
        self.setBackground(t.card)
        for plot in (self.main, self.ribbon):
            axis = plot.getAxis("left")
            axis.setPen(QColor(t.card))
            axis.setTextPen(QColor(t.soft))
        measured = t.color("measured")
        self.points.setSymbolBrush(measured)
        self.points.setSymbolPen(None)
        self.line.setPen(pg.mkPen(t.color("simulated"), width=1.8))
        self.compared.setPen(pg.mkPen(t.color("pinned", 0.7), width=1.3))
        self.zero.setPen(pg.mkPen(t.color("hairline"), width=1))
        self.residual.setPen(pg.mkPen(t.color("ink", 0.8), width=1.1))
        for head in self.heads:
            head.setPen(pg.mkPen(t.color("ink"), width=1.2))

    def show_trace(self, trace: Trace, end: float, compared: Trace | None) -> None:
        """Draw a trace; everything keeps its axis."""
        t = theme()
        title = f"{trace.name} {trace.unit}" + ("" if len(self._bodies()) < 2 else f" · {trace.body}")
        if (title, t) != self._titled:
            self._titled = (title, t)
            self.title.setText(title, color=t.soft, size="8pt")
            self.setAccessibleName(f"Trace of {trace.name}, {trace.body}")
            self.setToolTip(f"{trace.name} of {trace.body} over time: measured points, simulated line; below, the "
                            f"residual within ±{RIBBON_SIGMAS:g} σ. Drag to scrub")
        self.line.setData(trace.t, trace.y)
        rows = [trace.y]
        if trace.measured_t is not None and trace.measured_y is not None:
            rows.append(trace.measured_y[np.isfinite(trace.measured_y)])
        if trace.measured_y is self._measured and self._measured is not None:
            pass  # the points stand already
        elif trace.measured_t is not None and trace.measured_y is not None:
            self._measured = trace.measured_y
            step = max(1, len(trace.measured_t) // MAX_POINTS)
            self.points.setData(trace.measured_t[::step], trace.measured_y[::step])
        else:
            self._measured = None
            self.points.setData([], [])
        if compared is not None:
            self.compared.setData(compared.t, compared.y)
        else:
            self.compared.setData([], [])
        if trace.residual is not None and trace.measured_t is not None:
            self.residual.setData(trace.measured_t, np.clip(trace.residual, -RIBBON_SIGMAS, RIBBON_SIGMAS))
            self.ribbon.show()
            self.ci.layout.setRowFixedHeight(1, RIBBON_HEIGHT)
        else:
            self.residual.setData([], [])
            self.ribbon.hide()
            self.ci.layout.setRowFixedHeight(1, 0)
        every = np.concatenate(rows)
        low, high = float(every.min()), float(every.max())
        name, old_end, old_low, old_high = self._window
        if name == title and old_end == end and old_low <= low and high <= old_high and (
            high - low > 0.7 * (old_high - old_low)
        ):
            return  # the scale stands still while a knob is turned
        self._window = (title, end, low, high)
        room = 0.06 * (high - low) + 1e-6
        self.main.setXRange(0, end, padding=0.0)
        self.ribbon.setXRange(0, end, padding=0.0)
        self.main.setYRange(low - room, high + 3.2 * room, padding=0.0)

    def _bodies(self) -> list[str]:
        return self._session.case.dynamic_bodies() if self._session.case is not None else []

    def move_head(self, t: float) -> None:
        """The play head."""
        for head in self.heads:
            head.setValue(t)

    def mousePressEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self._scrub(event)

    def mouseMoveEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._scrub(event)

    def wheelEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        event.ignore()

    def _scrub(self, event) -> None:  # type: ignore[no-untyped-def]
        if self._session.case is not None:
            self._session.playback.go_to(to_time(event.position().x(), self._session.case.duration, self.width()))


class Traces(QScrollArea):
    """All traces of a look, one under the other."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        self.setAccessibleName("Traces")
        inner = QWidget()
        self._column = QVBoxLayout(inner)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(4)
        self._column.addStretch(1)
        self.setWidget(inner)
        self.plots: list[TracePlot] = []
        self.painted = 0
        session.comparison_changed.connect(self.show_picture)
        session.beside_changed.connect(lambda _p: self.show_picture(session.preview.comparison))
        session.playhead_moved.connect(self._move_heads)

    def show_picture(self, picture: Comparison | None) -> None:
        """Draw a look."""
        case = self._session.case
        if picture is None or case is None or self.isHidden():
            return
        while len(self.plots) < len(picture.traces):
            plot = TracePlot(self._session)
            self.plots.append(plot)
            self._column.insertWidget(len(self.plots) - 1, plot)
        other = {(tr.body, tr.name): tr for tr in self._session.preview.other.traces} if self._session.preview.other else {}
        for k, plot in enumerate(self.plots):
            plot.setVisible(k < len(picture.traces))
            if k < len(picture.traces):
                trace = picture.traces[k]
                plot.show_trace(trace, case.duration, other.get((trace.body, trace.name)))
        self._move_heads(self._session.playback.time)

    def showEvent(self, event: QShowEvent) -> None:
        """What came while the traces were not seen."""
        self.show_picture(self._session.preview.comparison)
        super().showEvent(event)

    def _move_heads(self, t: float) -> None:
        for plot in self.plots:
            if plot.isVisible():
                plot.move_head(t)

    def apply_theme(self) -> None:
        """Take the theme's colours."""
        for plot in self.plots:
            plot.apply_theme()

    def paintEvent(self, event: QPaintEvent) -> None:
        self.painted += 1
        super().paintEvent(event)

