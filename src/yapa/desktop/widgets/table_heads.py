"""Heads of a table, each over what stands in its column: words from the left, numbers from the right."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QTableWidget


def set_heads(table: QTableWidget, words: Sequence[str], numbers: Collection[int]) -> None:
    """Give a table its heads; ``numbers`` are the columns that hold numbers."""
    table.setHorizontalHeaderLabels(words)
    for column in range(len(words)):
        side = Qt.AlignmentFlag.AlignRight if column in numbers else Qt.AlignmentFlag.AlignLeft
        head = table.horizontalHeaderItem(column)
        if head is not None:
            head.setTextAlignment(side | Qt.AlignmentFlag.AlignVCenter)
