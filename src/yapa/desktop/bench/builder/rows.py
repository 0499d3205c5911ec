"""One line of a card: a number with its unit and the tick that frees it, a choice, a row of switches."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from yapa.case import has_number, quantity_of
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import font, px
from yapa.desktop.widgets.card import label
from yapa.desktop.widgets.choice import Choice
from yapa.errors import YapaError
from yapa.session.building.fields import text_of, unit_shown, values_from
from yapa.session.building.matters import cannot_matter
from yapa.session.edits import free, lock

NAME = 104
"""pixels of the name of a line"""


class Field(QLineEdit):
    """A field that gives its text once it is committed; Esc puts back what stood there."""

    committed = Signal(str)

    def __init__(self, name: str, tip: str) -> None:
        super().__init__()
        self._kept = ""
        self.setAccessibleName(name)
        self.setToolTip(tip)
        self.setFont(font(10, True))
        self.editingFinished.connect(self._commit)

    def show_text(self, text: str) -> None:
        """Show what stands in the case, unless a person is typing."""
        self._kept = text
        if not self.isModified():
            self.setText(text)
            self.setCursorPosition(0)

    def _commit(self) -> None:
        if self.isModified():
            self.setModified(False)
            if self.text() != self._kept:
                self.committed.emit(self.text())
            self.setText(self._kept)

    def event(self, event: QEvent) -> bool:
        """Undo and redo are of the scene, but while a person types here."""
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and not self.isModified() and (
                event.matches(QKeySequence.StandardKey.Undo) or event.matches(QKeySequence.StandardKey.Redo)):
            event.ignore()
            return False
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self.isModified():
            self.setModified(False)
            self.setText(self._kept)
            event.accept()
            return
        super().keyPressEvent(event)
        stage = self.window().findChild(QWidget, "stage")
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and stage is not None and not self.isModified():
            stage.setFocus(Qt.FocusReason.OtherFocusReason)  # the keys are the scene's again; Tab goes on to the next field


class NumberRow(QWidget):
    """A number of one body, or the same of several: type it in any unit, "+2 cm" or "×1.1" change it."""

    def __init__(self, session: Session, name: str, paths: Sequence[str], can_be_free: bool = True) -> None:
        super().__init__()
        self._session, self.paths, self._why = session, list(paths), ""
        q = quantity_of(paths[0])
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        row = QHBoxLayout()
        column.addLayout(row)
        self.why: QLabel | None = None
        row.setSpacing(5)
        words = label(name, 10)
        words.setFixedWidth(px(NAME))
        words.setToolTip(q.meaning)
        row.addWidget(words)
        self.field = Field(name, f"{q.meaning}. Any unit will do; +2 cm and ×1.1 change it")
        self.field.setFixedWidth(px(80))
        self.field.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.field.committed.connect(self._set)
        row.addWidget(self.field)
        unit = label(unit_shown(paths[0], session.units.liked), 9, role="soft")
        unit.setFixedWidth(px(32))
        row.addWidget(unit)
        self.tick = QCheckBox("find")
        self.tick.setFont(font(9))
        self.tick.setAccessibleName(f"find {name}")
        self.tick.setToolTip("Let the fit find it")
        self.tick.clicked.connect(self._free)
        if not can_be_free or len(self.paths) > 1:
            self.tick.hide()
        row.addWidget(self.tick)
        row.addStretch(1)
        self.refresh()

    def refresh(self) -> None:
        """Show what stands in the case."""
        case = self._session.case
        if case is None:
            return
        self.field.show_text(text_of(case, self.paths, self._session.units.liked))
        self.tick.setChecked(any(u.path == self.paths[0] and not u.fixed for u in case.unknowns))
        why = {cannot_matter(case, path) for path in self.paths if has_number(case, path)}
        words = why.pop() if len(why) == 1 else ""
        if self.why is None and words:
            self.why = label("", 9, role="soft", wrap=True)
            self.why.setAccessibleName(f"{self.field.accessibleName()}, why it cannot matter")
            column = self.layout()
            assert column is not None
            column.addWidget(self.why)
        if self.why is not None and words != self._why:
            self.why.setText(f"cannot matter: {words}")
            self.why.setVisible(bool(words))
        self._why = words

    def _set(self, text: str) -> None:
        case = self._session.case
        try:
            if case is not None:
                self._session.builder.set_values(values_from(case, self.paths, text, self._session.units.liked),
                                                 f"set {self.field.accessibleName()}")
        except YapaError as error:
            self._session.show_error(error)
        self.refresh()

    def _free(self, on: bool) -> None:
        case, path = self._session.case, self.paths[0]
        known = case is not None and any(u.path == path for u in case.unknowns)
        self._session.make(lock(path, not on) if known else free(path))
        self.refresh()


class ChoiceRow(QWidget):
    """A choice among words."""

    def __init__(self, name: str, choices: Sequence[str], now: str, chosen: Callable[[str], object], tip: str,
                 editable: bool = False) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(5)
        words = label(name, 10)
        words.setFixedWidth(px(NAME))
        row.addWidget(words)
        self.box = Choice()
        self.box.setFont(font(10))
        self.box.setEditable(editable)
        if editable:
            self.box.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        self.box.addItems(list(choices))
        self.box.setCurrentText(now)
        self.box.setAccessibleName(name)
        self.box.setToolTip(tip)
        self.box.setMinimumWidth(px(60))
        self.box.activated.connect(lambda _k: chosen(self.box.currentText().strip()))
        line = self.box.lineEdit()
        if line is not None:
            line.returnPressed.connect(lambda: chosen(self.box.currentText().strip()))
        row.addWidget(self.box, 1)


class SwitchRow(QWidget):
    """A row of switches: one of them is on, or each by itself."""

    def __init__(self, choices: Sequence[tuple[str, str]], on: Sequence[str], pressed: Callable[[str], object],
                 tips: Sequence[str] = ()) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        self.buttons: dict[str, QPushButton] = {}
        for k, (key, text) in enumerate(choices):
            b = QPushButton(text)
            b.setObjectName("switch")
            b.setCheckable(True)
            b.setChecked(key in on)
            b.setFont(font(9))
            b.setAccessibleName(text)
            b.setToolTip(tips[k] if k < len(tips) else text)
            b.clicked.connect(lambda _on=False, name=key: pressed(name))
            row.addWidget(b, 1)
            self.buttons[key] = b
