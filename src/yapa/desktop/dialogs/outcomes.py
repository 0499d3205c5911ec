"""Every outcome of every body: simulated beside measured."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import px
from yapa.desktop.widgets.card import button, label
from yapa.desktop.widgets.choice import Choice
from yapa.desktop.widgets.form_dialog import show_once
from yapa.desktop.widgets.table_heads import set_heads
from yapa.session.outcomes import OutcomeTable, OutcomeValue, outcome_table

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow


class OutcomesDialog(QDialog):
    """A table that follows the present motion."""

    def __init__(self, parent: QWidget | None, session: Session) -> None:
        super().__init__(parent)
        self.setWindowTitle("Outcomes")
        self.resize(px(860), px(600))
        self._session = session
        self._request: object = None
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 12)
        row = QHBoxLayout()
        self.body = Choice()
        self.body.setAccessibleName("body")
        self.body.setToolTip("Whose outcomes")
        row.addWidget(self.body)
        self.ended = label("", 10, role="soft")
        row.addWidget(self.ended)
        row.addStretch(1)
        column.addLayout(row)
        self.table = QTableWidget(0, 4)
        self.table.setAccessibleName("outcomes")
        set_heads(self.table, ["outcome", "simulated", "measured", "what it means"], {1, 2})
        self.table.verticalHeader().hide()
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setShowGrid(False)
        self.table.setAlternatingRowColors(True)
        header = self.table.horizontalHeader()
        for k in range(3):
            header.setSectionResizeMode(k, QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(3, QHeaderView.ResizeMode.Stretch)
        column.addWidget(self.table, 1)
        foot = QHBoxLayout()
        foot.addWidget(label("Rest the pointer on a dash to read why there is no number", 9, role="soft"))
        foot.addStretch(1)
        close = button("Close", "Close this table", "close", "")
        close.clicked.connect(self.close)
        foot.addWidget(close)
        column.addLayout(foot)
        self.body.currentTextChanged.connect(lambda _name: self.show_outcomes())
        session.comparison_changed.connect(self._on_comparison)
        self.finished.connect(self._leave)
        self._on_comparison()

    def _on_comparison(self, _picture: object = None) -> None:
        picture = self._session.preview.comparison
        if picture is None:
            return
        movers = picture.motion.dynamic_bodies()
        if [self.body.itemText(k) for k in range(self.body.count())] != movers:
            self.body.blockSignals(True)
            self.body.clear()
            self.body.addItems(movers)
            self.body.blockSignals(False)
        self.show_outcomes()

    def show_outcomes(self) -> None:
        """Read the outcomes of the chosen body beside the interface, and fill the table; of many wishes the newest counts."""
        preview, name = self._session.preview, self.body.currentText()
        comparison, builder = preview.comparison, preview.builder
        if comparison is None or not name:
            return
        seen = builder.measured.get(name) if builder is not None else None
        measured = seen.motion if seen is not None else None
        request = self._request = object()

        def use(found: OutcomeTable) -> None:
            if self._request is request:
                self._fill(found)

        self._session.work(f"reading outcomes of {name}", lambda: outcome_table(comparison.motion, name, measured), use)

    def _fill(self, found: OutcomeTable) -> None:
        self.ended.setText(found.ending)
        self.table.setRowCount(len(found.rows))
        for k, row in enumerate(found.rows):
            cells = [row.name, _value_text(row.simulated, row.unit), _value_text(row.measured, row.unit), row.meaning]
            for c, text in enumerate(cells):
                item = QTableWidgetItem(text)
                if c in (1, 2):
                    item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                    reading = row.simulated if c == 1 else row.measured
                    item.setToolTip(reading.missing or "" if reading is not None else "")
                self.table.setItem(k, c, item)

    def _leave(self, _code: int) -> None:
        self._request = None
        self._session.comparison_changed.disconnect(self._on_comparison)


def _value_text(reading: OutcomeValue | None, unit: str) -> str:
    if reading is None:
        return ""
    if reading.value is None:
        return "–"
    spread = f" ± {reading.std:.1g}" if reading.std else ""
    return f"{reading.value:.4g}{spread} {unit}".rstrip()


def open_dialog(window: MainWindow) -> None:
    """Every outcome, simulated beside measured."""
    if window.session.preview.comparison is not None:
        window.dialogs["outcomes"] = OutcomesDialog(window, window.session)
        show_once(window.dialogs["outcomes"])
