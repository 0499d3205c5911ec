"""Other ways: every solution of the wanted outcomes that is genuinely different, as cards to look at and to use."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QDialog, QHBoxLayout, QProgressBar, QVBoxLayout, QWidget

from yapa.case import Case, get_number, label_of, quantity_of
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import px
from yapa.desktop.widgets.card import Card, button, label, scrolled
from yapa.desktop.widgets.form_dialog import show_once
from yapa.session.document import same_but_ledger
from yapa.session.edits import use_values
from yapa.session.jobs import Job, in_words
from yapa.session.solutions import Progress, Solution, Solutions, solve

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow


class WayCard(Card):
    """One solution: what sets it apart, what changes, and whether every wish is met."""

    def __init__(self, number: int, solution: Solution, case: Case, dialog: WaysDialog) -> None:
        super().__init__()
        self.solution = solution
        self.setAccessibleName(f"way {number}")
        head = QHBoxLayout()
        words = ", ".join(solution.distinguished_by) or ("nothing else is as near" if number == 1 else "another way")
        head.addWidget(label(words[:1].upper() + words[1:], 11, True, wrap=True), 1)
        met = sum(t.met for t in solution.targets)
        head.addWidget(label(f"{met} of {len(solution.targets)} wishes met", 9, role="soft"))
        self.column.addLayout(head)
        for path, value in solution.values.items():
            now, unit = get_number(case, path), quantity_of(path).unit
            if abs(value - now) > 1e-6 * max(1.0, abs(now)):
                self.column.addWidget(label(f"{label_of(path)}:  {now:.4g} → {value:.4g} {unit}", 10))
        row = QHBoxLayout()
        row.setSpacing(8)
        self.look = button("Look", "Show the motion with these values; nothing is changed yet", f"look at way {number}", "")
        self.look.clicked.connect(lambda: dialog.look_at(self))
        self.use = button("Use these", "Set these values; it can be undone", f"use way {number}", "")
        self.use.clicked.connect(lambda: dialog.use(self))
        row.addStretch(1)
        row.addWidget(self.look)
        row.addWidget(self.use)
        self.column.addLayout(row)


class WaysDialog(QDialog):
    """Searches on opening; the cards come when it ends or is stopped."""

    def __init__(self, parent: QWidget | None, session: Session) -> None:
        super().__init__(parent)
        self.setWindowTitle("Other ways to what should happen")
        self.resize(px(480), px(560))
        self._session, self._case = session, session.case
        self._job: Job | None = None
        self._gone = False
        self.found: Solutions | None = None
        self.cards: list[WayCard] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 12)
        column.setSpacing(8)
        self.headline = label("searching…", 12, True, wrap=True)
        self.headline.setAccessibleName("ways found")
        self.detail = label("from the present values first, then from starts spread over the ranges", 10, role="soft", wrap=True)
        column.addWidget(self.headline)
        column.addWidget(self.detail)
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.bar.setTextVisible(False)
        self.bar.setFixedHeight(6)
        column.addWidget(self.bar)
        area, self._list = scrolled()
        self._list.addStretch(1)
        column.addWidget(area, 1)
        row = QHBoxLayout()
        self.stop = button("Stop", "Stop searching and show what was found so far", "stop searching", "")
        self.stop.clicked.connect(self._stop)
        row.addWidget(self.stop)
        row.addStretch(1)
        self.close_button = button("Close", "Close; the values stay as they are (Esc)", "close ways", "")
        self.close_button.clicked.connect(self.close)
        row.addWidget(self.close_button)
        column.addLayout(row)
        session.case_changed.connect(self._on_case)
        self._search()

    def _search(self) -> None:
        case = self._case
        if case is None:
            return

        def progress(p: Progress) -> None:
            self._session.from_worker(lambda: self._take(self._progressed, p))

        def failed(error: Exception) -> None:
            self.bar.hide()
            self.stop.hide()
            self.headline.setText("The search could not go on")
            self.detail.setText(in_words(error))

        self._job = self._session.search(
            "searching other ways", lambda job: solve(case, progress, job.cancel),
            lambda found: self._take(self._on_solutions, found),
            lambda error: self._take(failed, error))

    def _take(self, act: Callable[[Any], None], what: Any) -> None:
        """What a search says is heard while the dialog is there."""
        if not self._gone:
            act(what)

    def _progressed(self, p: Progress) -> None:
        if self.found is None and self._job is not None and not self._job.cancel.is_set():
            self.detail.setText(f"{p.phase} · {p.simulations} simulations")
            self.bar.setValue(round(100 * p.fraction))

    def _on_solutions(self, found: Solutions) -> None:
        self.found = found
        self.bar.hide()
        self.stop.hide()
        count = len(found.found)
        if count:
            self.headline.setText("One way found" if count == 1 else f"{count} ways found, the smallest change first")
        else:
            words = {"cancelled": "Stopped before a way was found",
                     "not reachable": "Not reachable; this is the closest"}.get(
                found.stopped, f"Not found within {found.simulations} simulations; this is the closest")
            if found.most_met is not None:
                words += f", and what meets {sum(t.met for t in found.most_met.targets)} of {len(found.most_met.targets)}"
            self.headline.setText(words)
        self.detail.setText("\n".join(line[:1].upper() + line[1:] for line in (*found.why, *found.notes))
                            or f"{found.simulations} simulations in {found.seconds:.1f} s")
        assert self._case is not None
        shown = found.found or [found.closest, *([found.most_met] if found.most_met is not None else [])]
        for k, solution in enumerate(shown, start=1):
            card = WayCard(k, solution, self._case, self)
            self.cards.append(card)
            self._list.insertWidget(self._list.count() - 1, card)

    def _stop(self) -> None:
        if self._job is not None:
            self._job.cancel.set()

    def look_at(self, card: WayCard) -> None:
        """Every curve as it would be; the case stays."""
        self._session.preview.set({p: float(v) for p, v in card.solution.values.items()})

    def use(self, card: WayCard) -> None:
        """Set the values as one edit, kept as a trial."""
        case = self._session.case
        if case is None:
            return
        values = {p: float(v) for p, v in card.solution.values.items()}
        words = ", ".join(card.solution.distinguished_by) or "a way to what should happen"
        self._session.make_by_hand(use_values(values, f"use {words}"))
        self.accept()

    def _on_case(self) -> None:
        case = self._session.case
        if case is None or self._case is None or not same_but_ledger(case, self._case):
            self.close()

    def done(self, code: int) -> None:
        """However it closes, what was only looked at is put back."""
        self._stop()
        self._gone = True
        case = self._session.case
        if case is not None and self._case is not None and same_but_ledger(case, self._case) and self._session.preview.values:
            self._session.preview.set({})
        super().done(code)


def open_dialog(window: MainWindow) -> None:
    """Every different way to what should happen."""
    case = window.session.case
    if case is None:
        return
    if not case.targets or all(u.fixed for u in case.unknowns):
        window.show_message("say what should happen first (T), and free a number that may change")
        return
    window.dialogs["solutions"] = WaysDialog(window, window.session)
    show_once(window.dialogs["solutions"])
