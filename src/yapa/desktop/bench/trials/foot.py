"""The trials in one line that opens: then each has its curve, and what differs of the one that is compared stands beside."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton

from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import font, px
from yapa.desktop.bench.trials.filmstrip import Filmstrip
from yapa.desktop.widgets.card import label
from yapa.session.trial_difference import ranges_of, trial_difference

LOW, OPEN = 32, 112
"""pixels"""
ROWS = 5
"""of what differs that are told"""


class TrialsFoot(QFrame):
    """The strip of trials with the button that opens it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setObjectName("foot")
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 1, 16, 1)
        row.setSpacing(8)
        self.opener = QPushButton("Trials")
        self.opener.setObjectName("quiet")
        self.opener.setFont(font(11, True))
        self.opener.setCheckable(True)
        self.opener.setAccessibleName("open the trials")
        self.opener.setToolTip("Open the strip: every trial with its curve, and what differs of the one that is compared")
        self.opener.toggled.connect(self._open)
        row.addWidget(self.opener, 0, Qt.AlignmentFlag.AlignTop)
        self.strip = Filmstrip(session)
        row.addWidget(self.strip, 1)
        self.differs: QLabel = label("", 9, role="soft")
        self.differs.setAccessibleName("what differs")
        self.differs.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.differs.hide()
        row.addWidget(self.differs)
        session.beside_changed.connect(lambda _c: self._show_difference())
        session.comparison_changed.connect(lambda _c: self._show_difference())
        self._open(False)

    @property
    def is_open(self) -> bool:
        """Whether the trials have their curves."""
        return self.opener.isChecked()

    def _open(self, on: bool) -> None:
        self.strip.show_low(not on)
        self.setFixedHeight(px(OPEN if on else LOW))
        self._show_difference()

    def _show_difference(self) -> None:
        there, here = self._session.preview.other, self._session.preview.comparison
        case = self._session.case
        if not self.is_open or there is None or here is None or case is None:
            self.differs.hide()
            return
        found = trial_difference(there, here, ranges_of(case))
        rows = [f"{name}: {a} → {b} ({by})" for name, a, b, by in (*found.numbers[:ROWS - 2], *found.outcomes)][:ROWS]
        self.differs.setText("\n".join([f"{self._session.preview.other_name} → now", *(rows or ["nothing differs"])]))
        self.differs.show()
