"""The import dialog: asks what a file does not say of itself, column by column."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QLabel, QScrollArea, QWidget

from yapa.desktop.widgets.card import label, set_role
from yapa.desktop.widgets.form_dialog import FormDialog, number_from
from yapa.errors import YapaError
from yapa.session.importing import ROLES, Column, ImportForm, Questions, TrackFile

NOT_USED = "not used"
CHOOSE = "choose…"
WORDS = {"time": "time", "frame": "frame number", "x": "x", "y": "y", "z": "z, upright", "angle": "angle",
         "body": "name of the body"}


class ImportDialog(FormDialog):
    """One row a column: what it is and in which unit; below, what else the file needs."""

    def __init__(self, parent: QWidget | None, path: Path, questions: Questions) -> None:
        super().__init__("How to read this file", parent, "Read it so")
        self.model = ImportForm(path, questions)
        self.read: TrackFile | None = None
        self.setMinimumWidth(620)
        open_questions = "\n".join(problem.where.removeprefix(f"{path}, ").removeprefix(str(path)).strip() + ": " * bool(
            problem.where != str(path)) + problem.found for problem in questions.problems[:4])
        head = label(path.name, 12, True)
        words = label(open_questions, 10, role="soft", wrap=True)
        words.setAccessibleName("what is not clear")
        self.column.insertWidget(0, head)
        self.column.insertWidget(1, words)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setMinimumHeight(min(40 + 34 * len(self.model.columns), 300))
        inner = QWidget()
        self._grid = QGridLayout(inner)
        self._grid.setContentsMargins(0, 4, 8, 4)
        self._grid.setHorizontalSpacing(12)
        area.setWidget(inner)
        self.column.insertWidget(2, area)
        for c, title in enumerate(("Column", "Begins with", "Is", "Unit")):
            self._grid.addWidget(label(title, 9, role="soft"), 0, c)
        self.roles: list[QComboBox] = []
        self.units: list[QComboBox] = []
        for column in self.model.columns:
            self._add_row(column)
        self._grid.setRowStretch(len(self.model.columns) + 1, 1)
        self.decimal = QComboBox()
        self.decimal.setAccessibleName("decimal mark")
        self.decimal.setToolTip("What stands before the decimals: without it a number may be read a thousand times too large")
        self.decimal.addItems([CHOOSE, "point", "comma"])
        self.decimal.setCurrentIndex({".": 1, ",": 2}.get(self.model.decimal or "", 0))
        self.decimal.currentIndexChanged.connect(self._on_field)
        self.form.addRow("Decimal mark", self.decimal)
        self.rate = self.field("Frames a second", "" if self.model.rate is None else f"{self.model.rate:g}",
                               "How fast it was filmed: turns frame numbers into times", "1/s")
        self.scale = self.field("Metres a pixel", "" if self.model.scale is None else f"{self.model.scale:g}",
                                "Turns pixels into metres", "m")
        self.y_down = QCheckBox("the upright axis grows downwards, as in a picture")
        self.y_down.setToolTip("Turns heights round: in a picture they are counted from the top")
        self.y_down.setAccessibleName("upright axis grows downwards")
        self.y_down.setChecked(self.model.y_down)
        self.form.addRow("", self.y_down)
        for edit in (self.rate, self.scale):
            edit.textChanged.connect(self._on_field)
        self.y_down.toggled.connect(self._on_field)
        self._show()

    def _add_row(self, column: Column) -> None:
        row = column.k + 1
        title = column.title or f"column {row}"
        name = QLabel(title if len(title) <= 28 else title[:27] + "…")
        name.setToolTip(title)
        self._grid.addWidget(name, row, 0)
        self._grid.addWidget(label(", ".join(column.examples)[:40], 9, role="soft"), row, 1)
        role = QComboBox()
        role.setAccessibleName(f"what {title} is")
        role.setToolTip("What this column holds: it moves the motion only if it is used")
        role.addItem(NOT_USED, None)
        for word in ROLES:
            role.addItem(WORDS[word], word)
        role.setCurrentIndex(0 if column.role is None else role.findData(column.role))
        role.currentIndexChanged.connect(lambda _i, k=column.k: self._on_role(k))
        unit = QComboBox()
        unit.setAccessibleName(f"unit of {title}")
        unit.setToolTip("The unit of its numbers: a wrong one makes the motion larger or slower by as much")
        unit.currentIndexChanged.connect(lambda _i, k=column.k: self._on_unit(k))
        self._grid.addWidget(role, row, 2)
        self._grid.addWidget(unit, row, 3)
        self.roles.append(role)
        self.units.append(unit)

    def _on_role(self, k: int) -> None:
        self.model.give(k, self.roles[k].currentData())
        self._show()

    def _on_unit(self, k: int) -> None:
        chosen = self.units[k].currentText()
        self.model.columns[k].unit = None if chosen in ("", CHOOSE) else chosen
        self._show()

    def _on_field(self) -> None:
        self.model.decimal = {1: ".", 2: ","}.get(self.decimal.currentIndex())
        self.model.y_down = self.y_down.isChecked()
        self._show()

    def _numbers(self) -> None:
        for edit, name in ((self.rate, "rate"), (self.scale, "scale")):
            text = edit.text().strip()
            setattr(self.model, name, number_from(edit, edit.accessibleName()) if text else None)

    def _show(self) -> None:
        """Bring the rows and the line of what is open to what the form says."""
        for column, role, unit in zip(self.model.columns, self.roles, self.units, strict=True):
            for box in (role, unit):
                box.blockSignals(True)
            role.setCurrentIndex(0 if column.role is None else role.findData(column.role))
            wanted = column.units()
            unit.clear()
            unit.addItems([*([CHOOSE] if column.unit is None and wanted else []), *wanted])
            unit.setCurrentText(CHOOSE if column.unit is None else column.unit)
            unit.setVisible(bool(wanted))
            for box in (role, unit):
                box.blockSignals(False)
        try:
            self._numbers()
            words = self.model.open()
        except YapaError as error:
            words = [str(error)]
        set_role(self.wrong, "soft" if words else "trouble")
        self.show_message("; ".join(words).capitalize())
        self.done_button.setEnabled(not words)

    def take(self) -> None:
        """Read the file as the form says; a fault is said here."""
        self._numbers()
        set_role(self.wrong, "trouble")
        self.setCursor(Qt.CursorShape.WaitCursor)
        try:
            self.read = self.model.read()
        finally:
            self.unsetCursor()
