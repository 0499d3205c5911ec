"""Measured, simulated and the gap, row by row; a cell is written again only where its words have changed."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget, QTableWidgetItem, QWidget

from yapa.desktop.app.theme import Theme, font, px, theme
from yapa.desktop.widgets.table_heads import set_heads
from yapa.session.comparison import Gap
from yapa.session.headline import amount

ROW = 19
"""pixels of a row"""
WIDTHS = (60, 63, 62)
"""pixels of the columns of numbers"""
HEAD = 22
"""pixels of the header with its frame"""
NOTED = 3.0
"""Grade of a gap above which it is coloured."""


class ComparisonTable(QTableWidget):
    """The gaps of a comparison, body by body where there are several."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(0, 4, parent)
        self._shown: list[tuple[str, ...]] = []
        self._theme: Theme | None = None
        set_heads(self, ["", "measured", "simulated", "gap"], {1, 2, 3})
        self.verticalHeader().hide()
        self.setShowGrid(False)
        self.setFont(font(9.5))
        self.horizontalHeader().setFont(font(8))
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setSelectionMode(QAbstractItemView.SelectionMode.NoSelection)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAccessibleName("measured, simulated, gap")
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.verticalHeader().setDefaultSectionSize(px(ROW))
        self.horizontalHeader().setFixedHeight(px(20))
        self.horizontalHeader().setStyleSheet("QHeaderView::section { padding: 2px 4px 2px 0; }")  # narrow columns
        self.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        for c, width in enumerate(WIDTHS, start=1):
            self.setColumnWidth(c, px(width))

    def show_gaps(self, gaps: Sequence[Gap]) -> None:
        """Show these gaps."""
        many = len({g.body for g in gaps}) > 1
        rows: list[Gap | str] = []
        for gap in gaps:
            if many and not any(row == gap.body for row in rows):
                rows.append(gap.body)
            rows.append(gap)
        words = [(row,) if isinstance(row, str) else _words(row) for row in rows]
        if [len(w) for w in words] != [len(w) for w in self._shown] or self._theme is not theme():
            self._shown, self._theme = [()] * len(words), theme()
            self.clearSpans()
            self.setRowCount(len(rows))
            self.setFixedHeight(px(HEAD) + px(ROW) * len(rows) + 2)
            self.setVisible(bool(rows))
        for k, (row, name) in enumerate(zip(rows, words, strict=True)):
            if name == self._shown[k]:
                continue
            if isinstance(row, str):  # whose rows follow
                head = QTableWidgetItem(row)
                head.setForeground(theme().color("soft"))
                self.setItem(k, 0, head)
                self.setSpan(k, 0, 1, 4)
            else:
                self._write(k, row, name)
        self._shown = words

    def _write(self, k: int, gap: Gap, words: tuple[str, ...]) -> None:
        colours = ("ink", "measured", "simulated", "trouble" if gap.grade > NOTED else "ink")
        for c, (text, colour) in enumerate(zip(words[:4], colours, strict=True)):
            item = self.item(k, c)
            if item is None:
                item = QTableWidgetItem()
                item.setTextAlignment(Qt.AlignmentFlag.AlignVCenter
                                      | (Qt.AlignmentFlag.AlignRight if c else Qt.AlignmentFlag.AlignLeft))
                self.setItem(k, c, item)
            if item.text() != text:
                item.setText(text)
            item.setToolTip(f"{gap.name} [{gap.unit}]: measured, simulated, and simulated less measured")
            if colour != "ink":
                item.setForeground(theme().color(colour))
            else:
                item.setData(Qt.ItemDataRole.ForegroundRole, None)


def _words(gap: Gap) -> tuple[str, ...]:
    """The cells of a gap, and whether it is coloured."""
    d = gap.gap
    text = "–" if d is None else amount(d, gap.unit)
    zero = d is None or not any(c in "123456789" for c in text)
    sides = ("–" if v is None else f"{v:.3f}" for v in (gap.measured, gap.simulated))
    return (gap.name, *sides, text if zero else f"{'+' if (d or 0) > 0 else '−'}{text}", str(gap.grade > NOTED))
