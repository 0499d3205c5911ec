"""The card of a table of trials."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QHBoxLayout

from yapa.case.trial_table import TrialTable
from yapa.desktop.widgets.card import Card, ElidedLabel, button, label
from yapa.session.table_form import table_words


class TableCard(Card):
    """A table, and how to take it away."""

    def __init__(self, table: TrialTable, remove: Callable[[], object]) -> None:
        super().__init__()
        self.setAccessibleName("table of trials")
        head = QHBoxLayout()
        head.addWidget(label("table of trials", 11, True), 1)
        away = button("✕", "Take this table away", "remove the table", "small")
        away.clicked.connect(lambda: remove())
        head.addWidget(away)
        self.column.addLayout(head)
        self.column.addWidget(ElidedLabel(table_words(table), 9, role="soft"))
