"""Bring a table of trials in: which column sets what, which was measured, seen as dots."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QGridLayout, QLineEdit, QScrollArea, QWidget

from yapa.case import label_of
from yapa.desktop.app.theme import px, theme
from yapa.desktop.widgets.card import ElidedLabel, label
from yapa.desktop.widgets.choice import Choice
from yapa.desktop.widgets.form_dialog import FormDialog, show_once
from yapa.desktop.widgets.track_plot import TrackPlot
from yapa.session.edits import Edit
from yapa.session.importing import track_files
from yapa.session.jobs import Queue
from yapa.session.table_form import MEASURED, NOT_USED, SETS, USES, TableColumn, TableForm

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow

CHOOSE = "choose…"


class TableDialog(FormDialog):
    """A row a column."""

    def __init__(self, parent: QWidget | None, form: TableForm) -> None:
        super().__init__("Bring a table of trials", parent, "Bring it")
        self.model = form
        self.edit: Edit | None = None
        self.resize(px(820), px(560))
        rows = len(next(iter(form.read.columns.values()), ()))
        self.column.insertWidget(0, label(f"{form.path.name}: {rows} trials", 12, True))
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        inner = QWidget()
        grid = QGridLayout(inner)
        grid.setContentsMargins(0, 2, 8, 2)
        grid.setHorizontalSpacing(10)
        for c, title in enumerate(("Column", "Unit", "Begins with", "It", "What", "As")):
            grid.addWidget(label(title, 9, role="soft"), 0, c)
        self.uses: list[Choice] = []
        self.whats: list[Choice] = []
        self.units: list[QLineEdit] = []
        self.arithmetic: list[QLineEdit] = []
        for k, column in enumerate(form.columns):
            self._add_row(grid, k, column)
        grid.setRowStretch(len(form.columns) + 1, 1)
        grid.setColumnStretch(4, 1)
        area.setWidget(inner)
        self.column.insertWidget(1, area, 1)
        self.plot = TrackPlot()
        self.plot.setAccessibleName("measured against what was set")
        self.column.insertWidget(2, self.plot, 1)
        self._show()

    def _add_row(self, grid: QGridLayout, k: int, column: TableColumn) -> None:
        name = ElidedLabel(column.name, 10)
        name.setFixedWidth(px(110))
        grid.addWidget(name, k + 1, 0)
        unit = QLineEdit(column.unit)
        unit.setFixedWidth(px(56))
        unit.setAccessibleName(f"unit of {column.name}")
        unit.setToolTip("The unit of its numbers; empty: as the arithmetic says, or SI")
        unit.textEdited.connect(lambda _t: self._changed())
        grid.addWidget(unit, k + 1, 1)
        grid.addWidget(label(", ".join(column.examples)[:18], 9, role="soft"), k + 1, 2)
        use = Choice()
        use.addItems(list(USES))
        use.setCurrentText(column.use)
        use.setAccessibleName(f"what {column.name} does")
        use.setToolTip("Whether this column is what was set, or what was measured")
        use.currentTextChanged.connect(lambda _t, k=k: self._on_use(k))
        grid.addWidget(use, k + 1, 3)
        what = Choice()
        what.setAccessibleName(f"what {column.name} is of")
        what.setToolTip("The number that it sets, or the outcome that it measured")
        what.currentIndexChanged.connect(lambda _i: self._changed())
        grid.addWidget(what, k + 1, 4)
        arithmetic = QLineEdit(column.arithmetic)
        arithmetic.setAccessibleName(f"arithmetic of {column.name}")
        arithmetic.setToolTip("The number in it, as arithmetic of columns: height + 3.7 cm")
        arithmetic.textEdited.connect(lambda _t: self._changed())
        grid.addWidget(arithmetic, k + 1, 5)
        self.uses.append(use)
        self.whats.append(what)
        self.units.append(unit)
        self.arithmetic.append(arithmetic)
        self._offer(k)

    def _offer(self, k: int) -> None:
        """The numbers it can set, or the outcomes it can have measured."""
        column, what = self.model.columns[k], self.whats[k]
        what.blockSignals(True)
        what.clear()
        what.addItem(CHOOSE, "")
        if column.use == SETS:
            for path in self.model.settings():
                what.addItem(label_of(path), path)
        elif column.use == MEASURED:
            for outcome in self.model.outcomes():
                what.addItem(outcome, outcome)
        at = what.findData(column.what)
        what.setCurrentIndex(max(at, 0))
        what.blockSignals(False)
        for part in (what, self.arithmetic[k] if k < len(self.arithmetic) else what):
            part.setVisible(column.use != NOT_USED)

    def _on_use(self, k: int) -> None:
        self.model.columns[k].use = self.uses[k].currentText()
        self.model.columns[k].what = ""
        self._offer(k)
        self._changed()

    def _changed(self) -> None:
        for column, what, unit, arithmetic in zip(self.model.columns, self.whats, self.units, self.arithmetic, strict=True):
            column.what = what.currentData() or ""
            column.unit, column.arithmetic = unit.text().strip(), arithmetic.text().strip()
        self._show()

    def _show(self) -> None:
        """The dots, and what is still open."""
        words = self.model.open()
        across, up, points = self.model.dots()
        self.plot.clear()
        if points:
            self.plot.setLabel("bottom", across)
            self.plot.setLabel("left", up)
            self.plot.plot([x for x, _ in points], [y for _, y in points], pen=None, symbol="o", symbolSize=6, symbolPen=None,
                           symbolBrush=theme().color("measured"))
        self.show_message("; ".join(words).capitalize())
        self.done_button.setEnabled(not words)

    def take(self) -> None:
        """Make the edit; a fault is said here."""
        self.edit = self.model.edit()


def open_dialog(window: MainWindow) -> None:
    """Choose a file."""
    if window.session.case is None:
        return
    name, _ = QFileDialog.getOpenFileName(window, "Bring a table of trials", "", track_files())
    if name:
        bring_table(window, Path(name))


def bring_table(window: MainWindow, path: Path) -> None:
    """Show what a table holds, and bring it in as it is said to be meant."""
    session = window.session
    case = session.case
    if case is None or not case.dynamic_bodies():
        session.error.emit("bring a table: nothing in this scene moves; put in what was tried first")
        return

    def show(form: TableForm) -> None:
        if session.case is not case:
            return
        dialog = TableDialog(window, form)
        dialog.accepted.connect(lambda: session.make(dialog.edit) if dialog.edit is not None else None)
        show_once(dialog)

    session.work(f"reading {path.name}", lambda: TableForm.of_file(path, case), show, Queue.FILES)
