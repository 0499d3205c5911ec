"""The start page: the demo cases, a new case, an old one, and what a crash left."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QHideEvent, QPainter, QPaintEvent, QPen, QShowEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from yapa.case import Case
from yapa.desktop.app.theme import px, theme
from yapa.desktop.widgets.card import CardButton, button, curve_polygon, label
from yapa.session.demo_cases import DemoCase, curve_of, demo_cases
from yapa.session.recovery import Recovery

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow


GLANCE = 400
"""ms that the page is looked at before it simulates anything: who opens a case at once does not wait for it"""


class DemoCard(CardButton):
    """One demo case with its curve."""

    def __init__(self, demo: DemoCase, curve: tuple[tuple[float, float], ...]) -> None:
        super().__init__(demo.path, f"demo {demo.case.title}", "Open this demo case")
        case = self.case = demo.case
        self.curve = curve
        self._measured = bool(case.tracks)
        self.setFixedSize(px(300), px(124))
        self.column.setContentsMargins(14, px(60), 14, 10)
        self.column.addWidget(label(case.title, 12, True))
        self.column.addWidget(label(case.notes, 9, role="soft", wrap=True), 1, Qt.AlignmentFlag.AlignTop)

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        pen = QPen(theme().color("measured" if self._measured else "simulated"), 2.2)
        if self._measured:
            pen.setStyle(Qt.PenStyle.DotLine)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        p.setPen(pen)
        p.drawPolyline(curve_polygon(self.curve, 14, 14, self.width() - 28, px(38)))
        p.end()

    def show_curve(self, curve: tuple[tuple[float, float], ...]) -> None:
        """Show a motion as its curve."""
        self.curve = curve
        self.update()


def track_curve(case: Case) -> tuple[tuple[float, float], ...]:
    """A small curve of a case's first track; none where it has no track."""
    if case.tracks and case.tracks[0].samples is not None:
        s = case.tracks[0].samples
        varying = next((c for c in (s.z, s.x, s.y) if c is not None and len({*c}) > 1), s.x or s.z)
        step = max(1, len(s.t) // 80)
        return tuple((t, v) for t, v in zip(s.t[::step], (varying or ())[::step], strict=False) if v is not None)
    return ()


class StartPage(QWidget):
    """Where everybody begins."""

    opened = Signal(object)
    asked = Signal(str)
    """The command of this name is asked for."""
    recovered = Signal(object)
    reopened = Signal(object)
    """This file is to be opened again."""
    shown = Signal()
    looked_at = Signal()
    """The page has been in sight for more than a glance."""

    def __init__(self, demos: list[DemoCase], recovery: Recovery) -> None:
        super().__init__()
        area = QScrollArea(self)
        area.setWidgetResizable(True)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(area)
        inner = QWidget()
        area.setWidget(inner)
        across = QHBoxLayout(inner)
        across.addStretch(1)
        column = QVBoxLayout()
        column.setSpacing(8)
        across.addLayout(column)
        across.addStretch(1)
        column.addStretch(1)
        column.addWidget(label("Yapa", 26, True))
        column.addWidget(label("From a motion that should happen to the numbers that make it happen, and how sure they are.",
                               12, role="soft"))
        column.addSpacing(12)
        row = QHBoxLayout()
        row.setSpacing(8)
        for text, tip, command, main in (
            ("Empty scene", "Put a scene together by hand (Ctrl+Alt+N)", "New scene", True),
            ("New from a track", "Fit a simulation to a CSV of a measured motion (Ctrl+N)", "New from a track…", False),
            ("New from outcomes", "Say how high it should bounce and when it should rest (Ctrl+Shift+N)",
             "New from outcomes…", False),
            ("Open a case…", "Open a .yapa file (Ctrl+O)", "Open…", False),
        ):
            b = QPushButton(text)
            b.setToolTip(tip)
            if main:
                b.setObjectName("fit")
            b.clicked.connect(lambda _on=False, c=command: self.asked.emit(c))
            row.addWidget(b)
        row.addStretch(1)
        column.addLayout(row)
        for file in recovery.found():
            b = button(f"Recover work that was not saved ({file.stem})", "A window ended without saving; take its work up again")
            b.clicked.connect(lambda _on=False, f=file: self.recovered.emit(f))
            column.addWidget(b)
        self._recent = QVBoxLayout()
        self._recent.setSpacing(0)
        column.addLayout(self._recent)
        column.addSpacing(16)
        column.addWidget(label("Demo cases from the citrus packing house", 11, True, role="soft"))
        grid = QGridLayout()
        grid.setSpacing(12)
        self.cards: list[DemoCard] = []
        for k, demo in enumerate(demos):
            card = DemoCard(demo, track_curve(demo.case))
            card.pressed.connect(self.opened.emit)
            grid.addWidget(card, k // 3, k % 3)
            self.cards.append(card)
        column.addLayout(grid)
        column.addStretch(2)
        self._glance = QTimer(self, interval=GLANCE, singleShot=True)
        self._glance.timeout.connect(self.looked_at.emit)

    def show_recent(self, files: list[Path]) -> None:
        """The case files that were opened or saved last."""
        while (item := self._recent.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.deleteLater()
        if files:
            self._recent.addWidget(label("Opened or saved last", 11, True, role="soft"))
        for file in files:
            b = button(f"{file.stem}   {file.parent}", f"Open {file}", f"recent {file.stem}")
            b.clicked.connect(lambda _on=False, f=file: self.reopened.emit(f))
            self._recent.addWidget(b)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.shown.emit()
        self._glance.start()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._glance.stop()


def build(window: MainWindow) -> QWidget:
    """The start page of a window; a case without a track shows its own motion, once that is known."""
    page = StartPage(demo_cases(), window.recovery)
    page.opened.connect(window.files.open_demo)
    page.asked.connect(window.run_command)
    page.recovered.connect(window.files.recover)
    page.reopened.connect(window.files.open_again)
    page.shown.connect(lambda: _show_recent(page, window))
    page.looked_at.connect(lambda: _show_motions(page, window))
    return page


def _show_recent(page: StartPage, window: MainWindow) -> None:
    """Read off the interface's thread which files there are."""
    recent = window.session.recent
    if recent is not None:
        window.session.work("looking for recent files", recent.present, page.show_recent)


def _show_motions(page: StartPage, window: MainWindow) -> None:
    """Simulate the demo cases that have no track."""
    for card in page.cards:
        if not card.curve:
            window.session.work("simulating a demo case", partial(curve_of, card.case), card.show_curve)
