"""Every outcome of every body: simulated beside measured."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from yapa.case.asking import ASKING
from yapa.desktop.cards import button, label
from yapa.desktop.session import Session
from yapa.outcomes import Reading, measure
from yapa.outcomes.energies import ending


class OutcomeTable(QDialog):
    """A table that follows the present motion."""

    def __init__(self, parent: QWidget | None, session: Session) -> None:
        super().__init__(parent)
        self.setWindowTitle("Outcomes")
        self.resize(760, 600)
        self._session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 12)
        row = QHBoxLayout()
        self.body = QComboBox()
        self.body.setAccessibleName("body")
        self.body.setToolTip("Whose outcomes")
        row.addWidget(self.body)
        self.ended = label("", 10, role="soft")
        row.addWidget(self.ended)
        row.addStretch(1)
        column.addLayout(row)
        self.table = QTableWidget(0, 4)
        self.table.setAccessibleName("outcomes")
        self.table.setHorizontalHeaderLabels(["outcome", "simulated", "measured", "what it means"])
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
        session.looked.connect(self._on_look)
        self.finished.connect(lambda _code: session.looked.disconnect(self._on_look))
        self._on_look()

    def _on_look(self, _picture: object = None) -> None:
        picture = self._session.picture
        if picture is None:
            return
        movers = picture.motion.movers()
        if [self.body.itemText(k) for k in range(self.body.count())] != movers:
            self.body.blockSignals(True)
            self.body.clear()
            self.body.addItems(movers)
            self.body.blockSignals(False)
        self.show_outcomes()

    def show_outcomes(self) -> None:
        """Fill the table for the chosen body."""
        picture, looker, name = self._session.picture, self._session.looker, self.body.currentText()
        if picture is None or not name:
            return
        simulated = measure(picture.motion, name, None)
        seen = looker.measured.get(name) if looker is not None else None
        measured = measure(seen.motion, name, None) if seen is not None else {}
        self.ended.setText(ending(picture.motion, name))
        names = list(dict.fromkeys([*simulated, *measured]))
        self.table.setRowCount(len(names))
        for k, outcome in enumerate(names):
            asking = ASKING[outcome.rstrip("0123456789 ")]
            values = (_said(readings.get(outcome), asking.unit) for readings in (simulated, measured))
            cells = [outcome, *values, "   " + asking.meaning]
            for c, text in enumerate(cells):
                item = QTableWidgetItem(text)
                if c in (1, 2):
                    item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                    reading = (simulated if c == 1 else measured).get(outcome)
                    item.setToolTip(reading.missing or "" if reading is not None else "")
                self.table.setItem(k, c, item)


def _said(reading: Reading | None, unit: str) -> str:
    if reading is None:
        return ""
    if reading.value is None:
        return "–"
    spread = f" ± {reading.std:.1g}" if reading.std else ""
    return f"{reading.value:.4g}{spread} {unit}".rstrip()
