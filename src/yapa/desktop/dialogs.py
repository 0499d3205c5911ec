"""Small dialogs: a wanted outcome, and the numbers of a body, a surface or a field."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QGridLayout,
    QLabel,
    QLineEdit,
    QScrollArea,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from yapa.case import Target, numbers, quantity_of
from yapa.case.asking import CONDITIONS
from yapa.case.paths import label_of
from yapa.case.store import in_words
from yapa.case.target_text import parse_target
from yapa.desktop.cards import label
from yapa.desktop.knob import short
from yapa.desktop.session import Session
from yapa.errors import YapaError, bad_input
from yapa.outcomes import CATALOGUE


def number_from(edit: QLineEdit, what: str) -> float:
    """The number in a field.

    Raises
    ------
    InputError
        If it is none.
    """
    text = edit.text().strip().replace(",", ".")
    try:
        value = float(text)
        if value != value or value in (float("inf"), float("-inf")):
            raise ValueError
        return value
    except ValueError:
        raise bad_input(what, repr(text) if text else "nothing", "a number") from None


def ask(dialog: QDialog) -> bool:
    """Show a dialog until it is answered; its widgets go with it, what it holds stays."""
    try:
        return bool(dialog.exec())
    finally:
        dialog.deleteLater()


def show_once(dialog: QDialog) -> None:
    """Show a dialog beside the window; its widgets go when it is closed."""
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.show()


class Asking(QDialog):
    """A form with Done and Cancel, and a line that says what is wrong."""

    def __init__(self, title: str, parent: QWidget | None, done: str = "Done") -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(16, 16, 16, 12)
        self.column.setSpacing(8)
        self.form = QFormLayout()
        self.form.setHorizontalSpacing(12)
        self.column.addLayout(self.form)
        self.wrong = label("", 10, role="trouble", wrap=True)
        self.wrong.setAccessibleName("what is wrong")
        self.wrong.hide()
        self.column.addWidget(self.wrong)
        self.buttons = QDialogButtonBox()
        self.done_button = self.buttons.addButton(done, QDialogButtonBox.ButtonRole.AcceptRole)
        self.done_button.setDefault(True)
        self.buttons.addButton("Cancel", QDialogButtonBox.ButtonRole.RejectRole)
        self.buttons.accepted.connect(self._accept)
        self.buttons.rejected.connect(self.reject)
        self.column.addWidget(self.buttons)

    def field(self, name: str, text: str, tip: str, unit: str = "") -> QLineEdit:
        """A row with one field."""
        edit = QLineEdit(text)
        edit.setToolTip(tip)
        edit.setAccessibleName(name)
        self.form.addRow(f"{name}{f' [{unit}]' if unit else ''}", edit)
        return edit

    def say(self, text: str) -> None:
        """Say what is wrong, or nothing."""
        self.wrong.setText(text)
        self.wrong.setVisible(bool(text))

    def take(self) -> None:
        """Read the form; raise YapaError if it cannot be used."""
        raise NotImplementedError

    def _accept(self) -> None:
        try:
            with in_words("this form"):
                self.take()
        except YapaError as error:
            self.say(str(error))
            return
        self.accept()


class TargetDialog(Asking):
    """What should happen: an outcome, a value and a tolerance."""

    def __init__(self, parent: QWidget | None, bodies: list[str], target: Target | None = None) -> None:
        super().__init__("What should happen", parent)
        self.target: Target | None = None
        self.outcome = QComboBox()
        self.outcome.addItems(list(CATALOGUE))
        self.outcome.setAccessibleName("outcome")
        self.outcome.setToolTip("The number that should come out")
        self.index = QSpinBox()
        self.index.setRange(1, 99)
        self.index.setAccessibleName("number")
        self.body = QComboBox()
        self.body.addItems(bodies)
        self.body.setAccessibleName("body")
        self.form.addRow("Outcome", self.outcome)
        self.meaning = label("", 9, role="soft", wrap=True)
        self.form.addRow("", self.meaning)
        self.form.addRow("Number", self.index)
        if len(bodies) > 1:
            self.form.addRow("Body", self.body)
        self.told = self.field("Told", "", "What the outcome needs to know: a partner, a time, a point, a zone")
        self.condition = QComboBox()
        self.condition.addItems(list(CONDITIONS))
        self.condition.setAccessibleName("condition")
        self.condition.setToolTip("Whether it should equal a value, stay in a range or on one side of it, happen, or never happen")
        self.form.addRow("Wanted", self.condition)
        self.value = self.field("Value", "", "What it should be")
        self.upper = self.field("Up to", "", "The upper end of the range")
        self.tolerance = self.field("Tolerance", "", "How far off still counts as met; for a bound, how softly it holds")
        self.outcome.currentTextChanged.connect(self._chosen)
        self.condition.currentTextChanged.connect(self._conditioned)
        if target is not None:
            self.outcome.setCurrentText(target.outcome)
            self.index.setValue(target.index or 1)
            self.condition.setCurrentText(target.condition)
            self.value.setText(f"{target.value:g}")
            self.upper.setText("" if target.upper is None else f"{target.upper:g}")
            self.tolerance.setText(f"{target.tolerance:g}")
            whole = target.model_copy(update={"body": None, "index": None})
            self.told.setText(whole.label.removeprefix(target.outcome).strip())
            if target.body:
                self.body.setCurrentText(target.body)
        self._chosen(self.outcome.currentText())
        self._conditioned(self.condition.currentText())

    def _chosen(self, name: str) -> None:
        outcome = CATALOGUE[name]
        self.index.setEnabled(outcome.indexed)
        self.meaning.setText(f"{outcome.meaning}{f', in {outcome.unit}' if outcome.unit else ''}")
        asking = outcome.asking
        wants = [_TOLD[what] for what in (*asking.needs, *asking.may) if what in _TOLD]
        self.told.setEnabled(bool(wants))
        self.form.setRowVisible(self.told, bool(wants))
        self.form.setRowVisible(self.index, outcome.indexed)
        self.told.setPlaceholderText(" or ".join(wants))

    def _conditioned(self, condition: str) -> None:
        self.value.setEnabled(condition not in ("happens", "never"))
        self.upper.setEnabled(condition == "within")
        self.tolerance.setEnabled(condition in ("equal", "at least", "at most"))
        for edit in (self.value, self.upper, self.tolerance):
            self.form.setRowVisible(edit, edit.isEnabled())

    def take(self) -> None:
        """Make the target, by its text form."""
        outcome, condition = CATALOGUE[self.outcome.currentText()], self.condition.currentText()
        words = [self.body.currentText() if self.body.count() > 1 else "", outcome.name]
        words += [str(self.index.value()) if outcome.indexed else "", self.told.text().strip() if self.told.isEnabled() else ""]
        if condition == "equal":
            tolerance = number_from(self.tolerance, "tolerance")
            if tolerance <= 0:
                raise bad_input("tolerance", f"{tolerance:g}", "a number above zero")
            words.append(f"= {number_from(self.value, 'value')!r} ± {tolerance!r}")
        elif condition == "within":
            words.append(f"within {number_from(self.value, 'value')!r} to {number_from(self.upper, 'up to')!r}")
        elif condition in ("at least", "at most"):
            soft = f" ± {number_from(self.tolerance, 'tolerance')!r}" if self.tolerance.text().strip() else ""
            words.append(f"{condition} {number_from(self.value, 'value')!r}{soft}")
        else:
            words.append(condition)
        self.target = parse_target(" ".join(word for word in words if word))


_TOLD = {"partner": "with BODY", "at": "at TIME s", "point": "of (x, y, z)", "zone": "(x, y, z) to (x, y, z)",
         "points": "(x, y, z), (x, y, z), …"}


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
        self.resize(420, min(620, 130 + 30 * len(self.fields)))
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
            edit.setFixedWidth(90)
            edit.setAlignment(Qt.AlignmentFlag.AlignRight)
            edit.setAccessibleName(label_of(path))
            edit.setToolTip(q.meaning)
            edit.editingFinished.connect(lambda p=path: self._set(p))
            tick = QCheckBox("free")
            tick.setAccessibleName(f"free {label_of(path)}")
            tick.setToolTip("Let the fit find it")
            tick.clicked.connect(lambda on, p=path: self._session.free_number(p) if on else self._session.lock(p, True))
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
        free = {u.path for u in case.unknowns if not u.locked}
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
            self._session.trouble.emit(str(error))
        self._refresh()


def prefixes_of_body(session: Session, name: str) -> tuple[str, ...]:
    """A body's own numbers, and those of its surface and its pairs."""
    case = session.case
    assert case is not None
    surface = case.bodies[name].shapes[0].surface
    pairs = tuple(f"pairs.{p.key}." for p in case.pairs if surface in p.between)
    return (f"bodies.{name}.", f"surfaces.{surface}.", *pairs)
