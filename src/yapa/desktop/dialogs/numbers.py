"""Every number of a body, a surface or a field: edit it, free it, lock it."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QDialogButtonBox,
    QGridLayout,
    QLabel,
    QLineEdit,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from yapa.case import numbers, quantity_of
from yapa.case.quantities import label_of
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import px
from yapa.desktop.widgets.card import label
from yapa.desktop.widgets.form_dialog import number_from
from yapa.desktop.widgets.number_text import short
from yapa.errors import YapaError
from yapa.session.edits import free, lock


class NumbersDialog(QDialog):
    """Every number of one thing: edit it with its unit, free it for the fit, or lock it."""

    def __init__(self, parent: QWidget | None, session: Session, title: str, prefixes: tuple[str, ...]) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self._session, self._prefixes = session, prefixes
        column = QVBoxLayout(self)
        column.addWidget(label("Enter sets a number; a tick lets the fit find it. Every change can be undone", 9, role="soft"))
        area = QScrollArea()
        area.setWidgetResizable(True)
        self._inner = QWidget()
        self._grid = QGridLayout(self._inner)
        self._grid.setColumnStretch(0, 1)
        area.setWidget(self._inner)
        column.addWidget(area)
        self.fields: dict[str, QLineEdit] = {}
        self.ticks: dict[str, QCheckBox] = {}
        self._fill()
        buttons = QDialogButtonBox()
        buttons.addButton("Close", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        self.resize(px(420), px(min(620, 130 + 30 * len(self.fields))))
        session.case_changed.connect(self._refresh)

    def _mine(self) -> dict[str, float]:
        case = self._session.case
        return {} if case is None else {p: v for p, v in numbers(case).items() if p.startswith(self._prefixes)}

    def _fill(self) -> None:
        for row, (path, _) in enumerate(self._mine().items()):
            q = quantity_of(path)
            name = QLabel(label_of(path))
            name.setToolTip(q.meaning)
            edit = QLineEdit()
            edit.setFixedWidth(px(90))
            edit.setAlignment(Qt.AlignmentFlag.AlignRight)
            edit.setAccessibleName(label_of(path))
            edit.setToolTip(q.meaning)
            edit.editingFinished.connect(lambda p=path: self._set(p))
            tick = QCheckBox("free")
            tick.setAccessibleName(f"free {label_of(path)}")
            tick.setToolTip("Let the fit find it")
            tick.clicked.connect(lambda on, p=path: self._session.make(free(p)) if on else self._session.make(lock(p, True)))
            self._grid.addWidget(name, row, 0)
            self._grid.addWidget(edit, row, 1)
            self._grid.addWidget(label(q.unit, 9, role="soft"), row, 2)
            self._grid.addWidget(tick, row, 3)
            self.fields[path], self.ticks[path] = edit, tick
        self._grid.setRowStretch(len(self.fields), 1)
        self._refresh()

    def _refresh(self) -> None:
        case = self._session.case
        if case is None:
            return
        mine = self._mine()
        free = {u.path for u in case.unknowns if not u.fixed}
        for path, edit in self.fields.items():
            if path in mine and not edit.isModified():
                edit.setText(short(mine[path]))
            self.ticks[path].setChecked(path in free)

    def _set(self, path: str) -> None:
        edit = self.fields[path]
        if not edit.isModified():
            return
        edit.setModified(False)
        try:
            self._session.set_number(path, number_from(edit, label_of(path)))
        except YapaError as error:
            self._session.error.emit(str(error))
        self._refresh()


def prefixes_of_body(session: Session, name: str) -> tuple[str, ...]:
    """A body's own numbers, and those of its surface and its pairs."""
    case = session.case
    assert case is not None
    surface = case.bodies[name].shapes[0].surface
    pairs = tuple(f"pairs.{p.key}." for p in case.pairs if surface in p.surfaces)
    return (f"bodies.{name}.", f"surfaces.{surface}.", *pairs)
