"""Curves over time: small multiples over the shared time axis, each with a residual ribbon in σ under it, chosen from a list."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPaintEvent, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QMenu, QScrollArea, QVBoxLayout, QWidget

from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import Theme, font, px, theme
from yapa.desktop.bench.timeline.axis import LEFT, RIGHT, Span, to_time, turn_wheel
from yapa.desktop.widgets.card import button, label
from yapa.desktop.widgets.later import Later
from yapa.desktop.widgets.plots import PlotArea, pg, to_draw
from yapa.session.comparison import Comparison, Trace
from yapa.session.handles import Handle
from yapa.session.traces import KINDS, Choice, so_far_kinds

TRACE_HEIGHT = 104
"""pixels"""
HANDLE = 10
"""pixels of a lozenge"""
RIBBON_HEIGHT = 30
"""pixels"""
RIBBON_SIGMAS = 5.0
"""standard deviations at the edge of the ribbon"""
OUTLIER, FEW = 6.0, 0.1
"""standard deviations: a point further off is crossed, where so small a part of them is: more are no outliers"""
MAX_POINTS = 150
"""measured points that are drawn"""


class TracePlot(PlotArea):
    """One quantity: points, line, the compared trial, and the ribbon."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setFixedHeight(px(TRACE_HEIGHT))
        self.ci.layout.setContentsMargins(0, 2, RIGHT, 2)
        self.ci.layout.setSpacing(0)
        self.main = self.addPlot(row=0, col=0)
        self.ribbon = self.addPlot(row=1, col=0)
        self.ci.layout.setRowFixedHeight(1, RIBBON_HEIGHT)
        for plot in (self.main, self.ribbon):
            plot.hideAxis("bottom")
            plot.getAxis("left").setWidth(LEFT)
            plot.getAxis("left").setStyle(tickLength=-3, maxTickLevel=0, tickFont=font(9), hideOverlappingLabels=True)
            plot.getViewBox().setDefaultPadding(0.0)
        self.ribbon.getAxis("left").setTicks([[(0, "0 σ")]])
        self.ribbon.setYRange(-RIBBON_SIGMAS, RIBBON_SIGMAS, padding=0.0)
        self.points = self.main.plot([], [], pen=None, symbol="o", symbolSize=3.6, pxMode=True)
        self.outliers = self.main.plot([], [], pen=None, symbol="x", symbolSize=8, pxMode=True)
        self.compared = self.main.plot([], [])
        self.aside = [self.main.plot([], []) for _ in range(2)]
        self.theory = self.main.plot([], [], connect="finite")
        self.line = self.main.plot([], [])
        self.handles = pg.ScatterPlotItem(symbol="d", size=HANDLE, pxMode=True)
        self.main.addItem(self.handles)
        self._handles: list[Handle] = []
        self._from: tuple[float, float] | None = None
        self.zero = self.ribbon.addLine(y=0)
        self.residual = self.ribbon.plot([], [], connect="finite")
        self.heads = [plot.addLine(x=0) for plot in (self.main, self.ribbon)]
        self.title = pg.LabelItem("", justify="left")
        self.title.setParentItem(self.main.getViewBox())
        self.title.setPos(4, -4)
        self._titled: tuple[str, Theme] | None = None
        self._window: tuple[str, Span, float, float] = ("", (0.0, 0.0), 0.0, 0.0)
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
        self.outliers.setSymbolPen(pg.mkPen(t.color("trouble"), width=1.4))
        self.line.setPen(pg.mkPen(t.color("simulated"), width=1.8))
        self.compared.setPen(pg.mkPen(t.color("pinned", 0.7), width=1.3))
        for line in self.aside:
            line.setPen(pg.mkPen(t.color("simulated", 0.55), width=1.0, dash=[4, 4]))
        self.theory.setPen(pg.mkPen(t.color("ink", 0.75), width=1.0, dash=[1, 4]))
        self.handles.setPen(pg.mkPen(t.color("ink"), width=1.2))
        self.handles.setBrush(t.color("card"))
        self.zero.setPen(pg.mkPen(t.color("hairline"), width=1))
        self.residual.setPen(pg.mkPen(t.color("ink", 0.8), width=1.1))
        for head in self.heads:
            head.setPen(pg.mkPen(t.color("ink"), width=1.2))

    def show_trace(self, trace: Trace, compared: Trace | None, aside: list[Trace]) -> None:
        """Draw a trace; everything keeps its axis."""
        t = theme()
        title = f"{trace.name} {trace.unit}" + ("" if len(self._bodies()) < 2 else f" · {trace.body}")
        if (title, t) != self._titled:
            self._titled = (title, t)
            self.title.setText(title, color=t.soft, size=f"{font(10).pointSizeF():.1f}pt")
            self.setAccessibleName(f"Trace of {trace.name}, {trace.body}")
            self.setToolTip(f"{trace.name} of {trace.body} over time: measured points, simulated line; below, the "
                            f"residual within ±{RIBBON_SIGMAS:g} σ. Drag to scrub")
        self.line.setData(*to_draw(trace.t, trace.y))
        rows = [trace.y]
        if trace.measured_t is not None and trace.measured_y is not None:
            rows.append(trace.measured_y[np.isfinite(trace.measured_y)])
        if trace.measured_y is self._measured and self._measured is not None:
            pass  # the points stand already
        elif trace.measured_t is not None and trace.measured_y is not None:
            self._measured = trace.measured_y
            step = max(1, len(trace.measured_t) // MAX_POINTS)
            self.points.setData(*to_draw(trace.measured_t[::step], trace.measured_y[::step]))
        else:
            self._measured = None
            self.points.setData([], [])
        if compared is not None:
            self.compared.setData(*to_draw(compared.t, compared.y))
        else:
            self.compared.setData([], [])
        if trace.residual is not None and trace.measured_t is not None:
            far = np.abs(np.nan_to_num(trace.residual)) > OUTLIER if len(trace.residual) else np.zeros(0, bool)
            crossed = bool(far.any()) and float(far.mean()) < FEW
            y = trace.measured_y
            self.outliers.setData(*(to_draw(trace.measured_t[far], y[far]) if crossed and y is not None else ([], [])))
            self.residual.setData(*to_draw(trace.measured_t, np.clip(trace.residual, -RIBBON_SIGMAS, RIBBON_SIGMAS)))
            self.ribbon.show()
            self.ci.layout.setRowFixedHeight(1, RIBBON_HEIGHT)
        else:
            self.residual.setData([], [])
            self.outliers.setData([], [])
            self.ribbon.hide()
            self.ci.layout.setRowFixedHeight(1, 0)
        theory = trace.theory if trace.theory is not None and np.isfinite(trace.theory).any() else None
        self.theory.setData(*(([], []) if theory is None else (trace.t, theory)))
        for k, line in enumerate(self.aside):
            line.setData(*(to_draw(aside[k].t, aside[k].y) if k < len(aside) else ([], [])))
        every, span = np.concatenate(rows), self._session.playback.span
        every = every[np.isfinite(every)]
        low, high = (float(every.min()), float(every.max())) if len(every) else (0.0, 1.0)
        name, old_span, old_low, old_high = self._window
        if name == title and old_span == span and old_low <= low and high <= old_high and (
            high - low > 0.7 * (old_high - old_low)
        ):
            return  # the scale stands still while a knob is turned
        self._window = (title, span, low, high)
        room = 0.06 * (high - low) + 1e-6
        self.main.setXRange(*span, padding=0.0)
        self.ribbon.setXRange(*span, padding=0.0)
        self.main.setYRange(low - room, high + 6.0 * room, padding=0.0)

    def show_handles(self, handles: list[Handle]) -> None:
        """Lozenges where an outcome of this curve can be pulled up and down."""
        if not handles and not self._handles:
            return
        self._handles = handles
        low, high = self.main.getViewBox().viewRange()[0]
        half = 0.5 * (HANDLE + 2) * (high - low) / max(self.main.getViewBox().width(), 1.0)
        edge = [min(max(h.time, low + half), high - half) if low <= h.time <= high else h.time for h in handles]  # none half cut
        self.handles.setData(edge, [h.level for h in handles])

    def handle_at(self, place: QPointF) -> Handle | None:
        """The handle under a pixel of the plot."""
        box = self.main.getViewBox()
        found = []
        for h in self._handles:
            at = self.mapFromScene(box.mapViewToScene(QPointF(h.time, h.level)))
            found.append((np.hypot(at.x() - place.x(), at.y() - place.y()), h))
        away, handle = min(found, key=lambda one: one[0], default=(np.inf, None))
        return handle if away < HANDLE else None

    def _pull(self, y: float) -> None:
        drag = self._session.drag
        if self._from is None or drag.handle is None:
            return
        start, value = self._from
        metre = self.main.getViewBox().viewPixelSize()[1]
        along = drag.handle.along[2 if drag.handle.curve == "height" else 0]
        drag.to(value + drag.handle.gain * (start - y) * metre * (1.0 if along >= 0 else -1.0))

    def _bodies(self) -> list[str]:
        return self._session.case.dynamic_bodies() if self._session.case is not None else []

    def move_head(self, t: float) -> None:
        """The play head."""
        for head in self.heads:
            head.setValue(t)

    def mousePressEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        handle = self.handle_at(event.position()) if event.button() == Qt.MouseButton.LeftButton else None
        if handle is not None and self._session.drag.begin(handle):
            self._from = (event.position().y(), handle.target.value)
        elif handle is None:
            self._scrub(event)

    def mouseMoveEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        if self._from is not None:
            self._pull(event.position().y())
        elif event.buttons() & Qt.MouseButton.LeftButton:
            self._scrub(event)
        else:
            over = self.handle_at(event.position()) is not None
            self.setCursor(Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        if self._from is not None:
            self._from = None
            self._session.drag.let_go()

    def wheelEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        turn_wheel(self._session.playback, event, self.width())

    def mouseDoubleClickEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self._session.playback.show_all()

    def _scrub(self, event) -> None:  # type: ignore[no-untyped-def]
        if self._session.case is not None:
            self._session.playback.go_to(to_time(event.position().x(), self._session.playback.span, self.width()))


AFTER_STAGE = 45
"""ms after a comparison in which curves are drawn; the stage is drawn after 30"""


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
        self._later = Later(self, lambda: self.show_picture(session.preview.comparison), AFTER_STAGE)
        session.comparison_changed.connect(self._on_comparison)
        session.beside_changed.connect(lambda _p: self.show_picture(session.preview.comparison))
        session.playhead_moved.connect(self._move_heads)
        session.span_changed.connect(self._later)
        session.steps_changed.connect(lambda: self.show_picture(session.preview.comparison))

    def _on_comparison(self, picture: Comparison) -> None:
        """At once under a hand; where no hand waits for it, in a turn of its own."""
        preview = self._session.preview
        if self._session.fits.running or not (preview.values or preview.draft is not None):
            self._later.start()
        else:
            self.show_picture(picture)

    def show_picture(self, picture: Comparison | None) -> None:
        """Draw a look; plots that are not there yet are made one a turn."""
        case = self._session.case
        if picture is None or case is None or self.isHidden():
            return
        if len(self.plots) < len(picture.traces):
            plot = TracePlot(self._session)
            self.plots.append(plot)
            self._column.insertWidget(len(self.plots) - 1, plot)
            if len(self.plots) < len(picture.traces):
                self._later.start()
        preview = self._session.preview
        other = {(tr.body, tr.name): tr for tr in preview.other.traces} if preview.other else {}
        aside = [{(tr.body, tr.name): tr for tr in step.traces} for step in preview.steps]
        for k, plot in enumerate(self.plots):
            plot.setVisible(k < len(picture.traces))
            if k < len(picture.traces):
                trace = picture.traces[k]
                key = trace.body, trace.name
                plot.show_trace(trace, other.get(key), [step[key] for step in aside if key in step])
                plot.show_handles([h for h in picture.handles if (h.target.body, h.curve) == key])
        self._move_heads(self._session.playback.time)

    def showEvent(self, event: QShowEvent) -> None:
        """What came while the traces were not seen, in a turn to come."""
        self._later()
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


class CurveHead(QWidget):
    """The line above the curves: what the lines are, and the list they are chosen from."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setFixedHeight(px(20))
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 0, 10, 0)
        self.words = label("", 9, role="soft")
        row.addWidget(self.words, 1)
        self.choose = button("+ curve", "Choose what is shown over time", "choose curves")
        self.choose.clicked.connect(self._open)
        row.addWidget(self.choose)
        session.comparison_changed.connect(self._say)
        session.beside_changed.connect(lambda _p: self._say(session.preview.comparison))
        session.steps_changed.connect(lambda: self._say(session.preview.comparison))

    def _say(self, picture: Comparison | None) -> None:
        if picture is None or self.isHidden():
            return
        preview = self._session.preview
        marks = [("dotted ink: closed form", any(t.theory is not None and np.isfinite(t.theory).any() for t in picture.traces)),
                 (f"violet: {preview.other_name}", preview.other is not None), ("dashed: one step aside", bool(preview.steps)),
                 ("below each: residual in σ", any(t.residual is not None for t in picture.traces))]
        self.words.setText(" · ".join(words for words, on in marks if on))

    def shown(self) -> list[Choice]:
        """What is shown now."""
        picture = self._session.preview.comparison
        return [] if picture is None else [(trace.body, trace.name) for trace in picture.traces]

    def toggle(self, choice: Choice) -> None:
        """Show a curve, or leave it out."""
        shown = self.shown()
        self._session.preview.choose_traces([c for c in shown if c != choice] if choice in shown else [*shown, choice])

    def menu(self) -> QMenu:
        """Every quantity of every body that moves, those shown with a tick."""
        menu, shown, case = QMenu(self), self.shown(), self._session.case
        menu.setAccessibleName("curves")
        menu.setToolTipsVisible(True)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        bodies = case.dynamic_bodies() if case is not None else []
        for body in bodies:
            part = menu if len(bodies) == 1 else menu.addMenu(body)
            part.setToolTipsVisible(True)
            more = QMenu("Outcomes, if it ended there", part)
            more.setToolTipsVisible(True)
            for kinds, place in ((KINDS, part), (so_far_kinds().values(), more)):
                for kind in kinds:
                    action = place.addAction(f"{kind.name} [{kind.unit}]" if kind.unit else kind.name)
                    action.setCheckable(True)
                    action.setChecked((body, kind.name) in shown)
                    action.setToolTip(kind.meaning)
                    action.triggered.connect(lambda _on=False, choice=(body, kind.name): self.toggle(choice))
            part.addMenu(more)
        menu.addSeparator()
        menu.addAction("The usual ones", lambda: self._session.preview.choose_traces(None))
        return menu

    def _open(self) -> None:
        self.menu().popup(self.choose.mapToGlobal(self.choose.rect().bottomLeft()))
