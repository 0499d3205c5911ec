"""What may be wrong and why something does not happen: findings as cards, with the edit that mends each."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QDialog, QHBoxLayout, QVBoxLayout, QWidget

from yapa.case import Case
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import px
from yapa.desktop.widgets.card import Card, button, label, scrolled
from yapa.desktop.widgets.form_dialog import show_once
from yapa.motion import Severity
from yapa.session.edits import Edit, dismiss, restore_findings
from yapa.session.findings import Finding, check
from yapa.session.jobs import in_words

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow


class FindingCard(Card):
    """A symptom, its cause, and what can be done."""

    def __init__(self, finding: Finding, session: Session) -> None:
        super().__init__()
        self.finding, self._session = finding, session
        self.setAccessibleName(finding.key)
        head = QHBoxLayout()
        about = finding.about_in_words
        head.addWidget(label(about, 11, True))
        head.addStretch(1)
        head.addWidget(label("trouble" if finding.severity is Severity.TROUBLE else "good to know", 9,
                             role="trouble" if finding.severity is Severity.TROUBLE else "soft"))
        self.column.addLayout(head)
        self.column.addWidget(label(finding.symptom[:1].upper() + finding.symptom[1:], 11, wrap=True))
        self.column.addWidget(label(finding.cause[:1].upper() + finding.cause[1:], 10, role="soft", wrap=True))
        row = QHBoxLayout()
        row.setContentsMargins(0, px(4), 0, 0)
        mend = finding.mend
        if mend is not None:
            words = mend.label[:1].upper() + mend.label[1:]
            self.mend = button(words, "Make this edit; it can be undone", f"mend {finding.key}", "")
            self.mend.clicked.connect(lambda: session.make(Edit(mend.label, mend.apply)))
            row.addWidget(self.mend)
        for other in finding.also:
            more = button(other.label[:1].upper() + other.label[1:], "Make this edit; it can be undone", f"mend: {other.label}", "")
            more.clicked.connect(lambda _on=False, mend=other: session.make(Edit(mend.label, mend.apply)))
            row.addWidget(more)
        row.addStretch(1)
        self.away = button("Never mind", "Do not tell this again for this case; it can be undone", f"dismiss {finding.key}")
        self.away.clicked.connect(lambda: session.make(dismiss(finding.key, finding.kind)))
        row.addWidget(self.away)
        self.column.addLayout(row)


class WhyDialog(QDialog):
    """The findings of the present case; it follows every edit."""

    def __init__(self, parent: QWidget | None, session: Session) -> None:
        super().__init__(parent)
        self.setWindowTitle("What may be wrong")
        self.resize(px(520), px(560))
        self._session = session
        self._requested: Case | None = None
        self._gone = False
        self.cards: list[FindingCard] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 12)
        self.headline = label("looking…", 12, True)
        self.headline.setAccessibleName("findings")
        column.addWidget(self.headline)
        area, self._list = scrolled()
        column.addWidget(area, 1)
        row = QHBoxLayout()
        self.back = button("Tell again what was put away", "Show every finding of this case again", "tell again")
        self.back.clicked.connect(self._restore_all)
        row.addWidget(self.back)
        row.addStretch(1)
        self.close_button = button("Close", "Close this list", "close", "")
        self.close_button.clicked.connect(self.close)
        row.addWidget(self.close_button)
        column.addLayout(row)
        session.case_changed.connect(self.look)
        self.finished.connect(self._leave)
        self.look()

    def _leave(self, _code: int) -> None:
        self._gone = True
        self._session.case_changed.disconnect(self.look)

    def look(self) -> None:
        """Check the case as it is now, off the interface thread."""
        case = self._session.case
        if case is None or case is self._requested:
            return
        self._requested = case
        self._session.search("looking for what may be wrong", lambda job: check(case, cancel=job.cancel),
                             lambda found: self._show(case, found), self._failed)

    def _failed(self, error: Exception) -> None:
        if not self._gone:
            self.headline.setText(in_words(error))

    def _show(self, case: Case, found: list[Finding]) -> None:
        if case is not self._session.case or self._gone:
            return
        while (item := self._list.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        self.cards = [FindingCard(finding, self._session) for finding in found]
        for card in self.cards:
            self._list.addWidget(card)
        self._list.addStretch(1)
        troubles = sum(f.severity is Severity.TROUBLE for f in found)
        notes = len(found) - troubles
        self.headline.setText("Nothing looks wrong" if not found else
                              f"{troubles} trouble{'' if troubles == 1 else 's'}, {notes} good to know")
        self.back.setVisible(bool(case.ignored_findings))

    def _restore_all(self) -> None:
        self._session.make(restore_findings())


def open_dialog(window: MainWindow) -> None:
    """The findings of the case."""
    if window.session.case is not None:
        window.dialogs["findings"] = WhyDialog(window, window.session)
        show_once(window.dialogs["findings"])
