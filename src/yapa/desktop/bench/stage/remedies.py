"""What would do it: a card over the stage, a line a number that meets what is missed; shown under the pointer, set by a click."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QFrame, QPushButton, QVBoxLayout, QWidget

from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.widgets.card import button, label
from yapa.session.remedies import Remedy

EDGE = 10
"""pixels from the corner of the stage"""


class RemedyCard(QFrame):
    """Hidden while nothing is missed, or nothing is found."""

    def __init__(self, session: Session, stage: QWidget) -> None:
        super().__init__(stage)
        self._session = session
        self._lines: dict[QObject, Remedy] = {}
        self.setObjectName("card")
        self.setAccessibleName("what would do it")
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(10, 6, 10, 6)
        self._column.setSpacing(2)
        session.remedies_changed.connect(self.rebuild)
        self.hide()

    def rebuild(self) -> None:
        """The answers that are known now."""
        while (item := self._column.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        self._lines = {}
        found = self._session.remedies.found
        if found:
            self._column.addWidget(label(f"What would do it: {found[0].target}", 10, True))
        for remedy in found:
            line: QPushButton = button(remedy.words, "Point at it to see it; click sets it", f"set {remedy.words}")
            line.clicked.connect(partial(self._take, remedy))
            line.installEventFilter(self)
            self._lines[line] = remedy
            self._column.addWidget(line)
        self.setVisible(bool(found))
        self.place()

    def place(self) -> None:
        """In the lower left corner of the stage."""
        self.adjustSize()
        stage = self.parentWidget()
        if stage is not None:
            self.move(EDGE, stage.height() - self.height() - EDGE)

    def _take(self, remedy: Remedy, _on: bool = False) -> None:
        self._session.remedies.take(remedy)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Under the pointer, or with the keys, an answer is shown as if it were taken."""
        if watched in self._lines:
            if event.type() in (QEvent.Type.Enter, QEvent.Type.FocusIn):
                self._session.remedies.try_out(self._lines[watched])
            elif event.type() in (QEvent.Type.Leave, QEvent.Type.FocusOut):
                self._session.remedies.try_out(None)
        return super().eventFilter(watched, event)
