"""The right column: a card for every unknown, and what the last fit said."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import (
    QHBoxLayout,
    QMenu,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from yapa.case import get_number, label_of, numbers
from yapa.case.estimate_text import sentence
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.bench.unknowns.unknown_card import UnknownCard
from yapa.desktop.widgets.card import Card, button, label
from yapa.desktop.widgets.column import Column, _clear
from yapa.session.edits import free, lock, remove_unknown, set_range


class UnknownColumn(QWidget):
    """One card an unknown, and under them what the last fit said."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.rows: dict[str, UnknownCard] = {}
        self._shown: object = None
        self.setFixedWidth(296)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        scroll = Column(296)
        self.cards = scroll.cards
        column.addWidget(scroll, 1)
        self.verdict = Card()
        head = QHBoxLayout()
        head.addWidget(label("The fit says", 11, True), 1)
        copy = button("Copy values", "Numbers, units, intervals and the conditions they hold under (Ctrl+Shift+C)")
        copy.clicked.connect(self.copy_values)
        head.addWidget(copy)
        self.verdict.column.addLayout(head)
        self.verdict_words = label("", 9.5, wrap=True)
        self.verdict_words.setAccessibleName("what the fit says")
        self.verdict_words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.verdict_words.setAlignment(Qt.AlignmentFlag.AlignTop)
        words = QScrollArea()
        words.setWidgetResizable(True)
        words.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        words.setWidget(self.verdict_words)
        words.setFixedHeight(128)
        self.verdict.column.addWidget(words)
        self.explain = button("Free it", "Make the number that explains what is left over an unknown, at what was found", "free it")
        self.explain.clicked.connect(self._free_what_explains)
        self.explain.hide()
        self.verdict.column.addWidget(self.explain)
        self.verdict.hide()
        aside = QHBoxLayout()
        aside.setContentsMargins(0, 0, 8, 0)  # as wide as the cards above it
        aside.addWidget(self.verdict)
        column.addLayout(aside)
        session.case_changed.connect(self.rebuild)
        session.comparison_changed.connect(lambda _p: self._values())

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
            self.cards.addWidget(label(f"Unknowns · {free} free · {len(case.unknowns) - free} locked", 11, True, role="soft"))
            for unknown in case.unknowns:
                card = UnknownCard(unknown)
                card.turned.connect(self._session.preview.preview_value)
                card.released.connect(self._session.set_number)
                card.locked.connect(lambda p, on: self._session.make(lock(p, on)))
                card.ranged.connect(lambda p, low, high: self._session.make(set_range(p, low, high)))
                card.removed.connect(lambda p: self._session.make(remove_unknown(p)))
                self.cards.addWidget(card)
                self.rows[unknown.path] = card
            more = button("+ free another number", "Choose a body or a field on the left and tick the number; or pick it here")
            more.clicked.connect(self._free_another)
            self.cards.addWidget(more)
            self.cards.addStretch(1)
        self._values()

    def _values(self) -> None:
        case = self._session.case
        if case is None:
            return
        trial = None if self._session.preview.values else self._session.newest_fit()
        live = self._session.preview.values
        for path, card in self.rows.items():
            value = live[path] if path in live else get_number(case, path)
            card.show_value(value, trial.estimates.get(path) if trial is not None else None)
        if trial is not None:
            words = [sentence(p, e) for p, e in trial.estimates.items()]
            result = self._session.fits.result
            if result is not None and result.values == {p: e.value for p, e in trial.estimates.items()}:
                words += [f for f in result.findings if not any(f.startswith(w.split(" cannot")[0]) for w in words)]
            self.verdict_words.setText(";\n".join(words) + ".")
            named = result.explained[:1] if result is not None else []
            self.explain.setVisible(bool(named))
            if named:
                self.explain.setText(f"Free the {named[0].kind}" if named[0].path else f"Set the {named[0].kind}")
        elif not self._session.preview.values:
            self.verdict_words.setText("The numbers were changed by hand since; press F to fit them again.")
            self.explain.hide()
        if trial is not None or not any(t.estimates for t in case.trials):
            self.verdict.setVisible(trial is not None)

    def _free_what_explains(self) -> None:
        """One edit: the error of the model that the last fit named."""
        case, result = self._session.case, self._session.fits.result
        if case is not None and result is not None and result.explained:
            explanation = result.explained[0]
            self._session.edit(explanation.edit(case), f"free the {explanation.kind}")

    def _free_another(self) -> None:
        case = self._session.case
        if case is None:
            return
        menu = QMenu(self)
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
        menu.exec(self.mapToGlobal(self.rect().center()))

    def copy_values(self) -> None:
        """Put the values on the clipboard."""
        if self._session.case is not None:
            QGuiApplication.clipboard().setText(self._session.values_text())
            self._session.message.emit("values copied, with units, intervals and conditions")
