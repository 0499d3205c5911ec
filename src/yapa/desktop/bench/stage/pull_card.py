"""What holds a pulled outcome, each with "let go"; and, where nothing is free, the numbers that would move it most."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QFrame, QHBoxLayout, QVBoxLayout, QWidget

from yapa.case import label_of
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.widgets.card import button, label

EDGE = 10
"""pixels from the corner of the stage"""


class PullCard(QFrame):
    """Hidden while nothing is held up."""

    def __init__(self, session: Session, stage: QWidget) -> None:
        super().__init__(stage)
        self._session = session
        self._shown: tuple[object, ...] = ()
        self.setObjectName("card")
        self.setAccessibleName("what holds it")
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(10, 6, 10, 6)
        self._column.setSpacing(2)
        for signal in (session.pull_followed, session.pull_began):
            signal.connect(lambda _x: self.rebuild())
        session.pull_ended.connect(self.rebuild)
        session.pull_offered.connect(self.rebuild)
        self.hide()

    def rebuild(self) -> None:
        """What can be done now."""
        drag = self._session.drag
        holders = drag.frame.held_by if drag.pulling and drag.frame is not None else ()
        shown = (drag.stuck, holders, tuple(drag.offers))
        if shown == self._shown:
            return
        self._shown = shown
        while (item := self._column.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        if holders:
            self._holders(holders)
        elif drag.offers:
            self._column.addWidget(label("Nothing is free. These move it most:", 10, True))
            for path in drag.offers:
                b = button(f"free {label_of(path)}", "Let the fit and the hand change this number", f"free {label_of(path)}")
                b.clicked.connect(partial(self._free, path))
                self._column.addWidget(b)
        self.setVisible(bool(holders or drag.offers))
        self.place()
        QTimer.singleShot(0, self, self.place)  # once its lines have their size

    def _holders(self, holders: tuple[str, ...]) -> None:
        drag = self._session.drag
        self._column.addWidget(label("What was met holds it:", 10, True))
        for name in holders:
            b = button(f"let go of {name}", "Do not hold it any more; the pulled outcome goes on", f"let go of {name}")
            b.clicked.connect(partial(self._loosen, name))
            self._column.addWidget(b)
        if drag.stuck:
            last = QWidget()
            row = QHBoxLayout(last)
            row.setContentsMargins(0, 2, 0, 0)
            for text, tip, act in (("Keep it so", "Keep it as far as it came (Enter)", drag.keep),
                                   ("Put back", "Everything as before (Esc)", drag.put_back)):
                b = button(text, tip, text.lower(), "")
                b.clicked.connect(lambda _on=False, act=act: act())
                row.addWidget(b)
            self._column.addWidget(last)

    def place(self) -> None:
        """In the lower right corner of the stage."""
        self._column.activate()
        self.adjustSize()
        stage = self.parentWidget()
        if stage is not None:
            self.move(stage.width() - self.width() - EDGE, stage.height() - self.height() - EDGE)

    def _loosen(self, name: str, _on: bool = False) -> None:
        self._session.drag.loosen(name)

    def _free(self, path: str, _on: bool = False) -> None:
        self._session.drag.free(path)
