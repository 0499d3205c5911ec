"""The bench: the one screen people live in."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.bench.evidence.column import EvidenceColumn
from yapa.desktop.bench.stage.stage import Stage
from yapa.desktop.bench.timeline.contact_strip import BeatStrip
from yapa.desktop.bench.timeline.traces import Traces
from yapa.desktop.bench.top_bar import TopBar
from yapa.desktop.bench.trials.filmstrip import Filmstrip
from yapa.desktop.bench.unknowns.column import UnknownColumn
from yapa.desktop.widgets.card import label


class Bench(QWidget):
    """Everything in its place."""

    def __init__(self, session: Session, run_command: Callable[[str], None]) -> None:
        super().__init__()
        self._session = session
        self.top = TopBar(session)
        self.evidence = EvidenceColumn(session, run_command)
        self.stage = Stage(session)
        self.beats = BeatStrip(session)
        self.traces = Traces(session)
        self.unknowns = UnknownColumn(session)
        self.filmstrip = Filmstrip(session)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.top)
        middle = QHBoxLayout()
        middle.setContentsMargins(16, 8, 8, 4)
        middle.setSpacing(8)
        middle.addWidget(self.evidence)
        split = QSplitter(Qt.Orientation.Vertical)
        split.setChildrenCollapsible(False)
        split.setHandleWidth(6)
        below = QWidget()
        stack = QVBoxLayout(below)
        stack.setContentsMargins(0, 0, 0, 0)
        stack.setSpacing(4)
        strip_row = QHBoxLayout()
        strip_row.setContentsMargins(0, 0, 8, 0)  # as wide as the traces beside their scroll bar
        strip_row.addWidget(self.beats)
        stack.addLayout(strip_row)
        stack.addWidget(self.traces, 1)
        split.addWidget(self.stage)
        split.addWidget(below)
        split.setSizes([300, 300])
        middle.addWidget(split, 1)
        middle.addWidget(self.unknowns)
        column.addLayout(middle, 1)
        foot = QFrame()
        foot.setObjectName("foot")
        strip = QVBoxLayout(foot)
        strip.setContentsMargins(16, 4, 16, 2)
        strip.setSpacing(0)
        strip.addWidget(label("Trials", 11, True, role="soft"))
        strip.addWidget(self.filmstrip)
        column.addWidget(foot)
