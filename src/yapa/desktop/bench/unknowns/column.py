"""The right column: a card for every number that may change."""

from __future__ import annotations

from PySide6.QtCore import QTimer
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QMenu, QVBoxLayout, QWidget

from yapa.case import Unknown, get_number, label_of, numbers
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import px
from yapa.desktop.bench.unknowns.unknown_card import UnknownCard
from yapa.desktop.widgets.card import button, label
from yapa.desktop.widgets.column import Column, _clear
from yapa.desktop.widgets.later import Later
from yapa.desktop.widgets.menus import Menu
from yapa.session.edits import free, lock, remove_unknown, set_range

AT_ONCE = 2
"""cards that are made in one turn"""


class UnknownColumn(QWidget):
    """One card an unknown."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.rows: dict[str, UnknownCard] = {}
        self._shown: object = None
        self.setFixedWidth(px(296))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        scroll = Column(296)
        self.cards = scroll.cards
        self.cards.setSpacing(4)
        column.addWidget(scroll, 1)
        self._soon = Later(self, self.rebuild, 8)
        session.case_changed.connect(self._soon)
        session.comparison_changed.connect(lambda _p: self._values())
        session.leverage_changed.connect(self._bars)

    def rebuild(self) -> None:
        """Cards for the unknowns of the case."""
        case = self._session.case
        if case is None:
            return
        if self._shown is not case.unknowns:
            self._shown = case.unknowns
            _clear(self.cards)
            self.rows = {}
            free = sum(not u.fixed for u in case.unknowns)
            locked = len(case.unknowns) - free
            self.cards.addWidget(label(f"May change · {free}" + (f" · {locked} locked" if locked else ""), 11, True, role="soft"))
            more = button("+ another number", "Choose a body or a field on the left and tick the number; or pick it here")
            more.clicked.connect(self._free_another)
            self.cards.addWidget(more)
            self.cards.addStretch(1)
            self._add(case.unknowns, case.unknowns)
        self._values()

    def _add(self, unknowns: tuple[Unknown, ...], waiting: tuple[Unknown, ...]) -> None:
        """Make the first cards, and the others a turn later each: the interface never stands still for a whole column."""
        if self._shown is not unknowns:
            return  # another case, another column
        for unknown in waiting[:AT_ONCE]:
            card = UnknownCard(unknown)
            card.turned.connect(self._session.preview.preview_value)
            card.pressed.connect(self._session.preview.show_steps)
            card.released.connect(self._let_go)
            card.locked.connect(lambda p, on: self._session.make(lock(p, on)))
            card.refused.connect(self._session.show_error)
            card.ranged.connect(lambda p, low, high: self._session.make(set_range(p, low, high)))
            card.removed.connect(lambda p: self._session.make(remove_unknown(p)))
            self.rows[unknown.path] = card
            self.cards.insertWidget(len(self.rows), card)
        self._bars()
        self._values()
        if waiting[AT_ONCE:]:
            QTimer.singleShot(2, self, lambda: self._add(unknowns, waiting[AT_ONCE:]))

    def _values(self) -> None:
        case = self._session.case
        if case is None or self._shown is not case.unknowns:
            return  # the cards of this case are made in a moment
        trial = None if self._session.preview.values else self._session.newest_fit()
        live = self._session.preview.values
        for path, card in self.rows.items():
            value = live[path] if path in live else get_number(case, path)
            card.show_value(value, trial.estimates.get(path) if trial is not None else None)

    def _bars(self) -> None:
        leverage = self._session.leverage.found
        for path, card in self.rows.items():
            card.bars.show_bars(leverage.bars(path), bool(leverage.pieces))

    def _let_go(self, path: str, value: float) -> None:
        self._session.preview.show_steps(None)
        self._session.set_number(path, value)

    def _free_another(self) -> None:
        case = self._session.case
        if case is None:
            return
        menu = Menu(self, "numbers")
        taken = {u.path for u in case.unknowns}
        groups: dict[str, QMenu] = {}
        for path in numbers(case):
            if path in taken:
                continue
            name, _, whose = label_of(path).partition(" · ")
            group = whose or "fields"
            if group not in groups:
                groups[group] = menu.addMenu(group)
            action = groups[group].addAction(name)
            action.triggered.connect(lambda _on=False, p=path: self._session.make(free(p)))
        menu.popup(self.mapToGlobal(self.rect().center()))

    def copy_values(self) -> None:
        """Put the values on the clipboard."""
        if self._session.case is not None:
            QGuiApplication.clipboard().setText(self._session.values_text())
            self._session.message.emit("values copied, with units, intervals and conditions")
