"""The import dialog: what a file holds, column by column, seen as a path and over time; what it does not say is asked."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QPushButton, QScrollArea, QVBoxLayout, QWidget

from yapa.case import Track
from yapa.case.body_size import overall_size
from yapa.case.validation import in_words as in_words_of
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import px
from yapa.desktop.widgets.card import label, set_role
from yapa.desktop.widgets.choice import Choice
from yapa.desktop.widgets.form_dialog import FormDialog, number_from
from yapa.desktop.widgets.path_picture import PathPicture
from yapa.desktop.widgets.track_plot import TrackPlot
from yapa.errors import YapaError
from yapa.session.importing import ROLES, Column, ImportForm, TrackData, dots_of, touching_height
from yapa.session.jobs import in_words
from yapa.session.new_case import BODY

NOT_USED = "not used"
CHOOSE = "choose…"
NOBODY = "leave it out"
WORDS = {"time": "time", "frame": "frame number", "x": "x", "y": "y", "z": "z, upright", "angle": "angle",
         "body": "name of the body"}
SCALE, FLOOR = "scale", "floor"


class ImportDialog(FormDialog):
    """Columns and what they are on the left, what comes of it on the right.

    Parameters
    ----------
    parent : the window
    form : of the file
    session : whose case has the bodies it may be of; a case without any has new ones, named as in the file
    title, done : of the dialog, and of what ends it
    """

    read_as = Signal(object)
    """tracks as they would be read now"""

    def __init__(self, parent: QWidget | None, form: ImportForm, session: Session, title: str = "Bring a track",
                 done: str = "Bring it") -> None:
        super().__init__(title, parent, done)
        case = session.case
        assert case is not None
        self.model, self._case, self._session = form, case, session
        self._mode = ""
        self._clicks: list[tuple[float, float]] = []
        self._gone = False
        self.finished.connect(self._leave)
        self.tracks: list[Track] = []
        self.resize(px(940), px(600))
        self.column.insertWidget(0, label(form.path.name, 12, True))
        words = label("\n".join(form.open_questions[:4]), 10, role="soft", wrap=True)
        words.setAccessibleName("what is not clear")
        words.setVisible(bool(form.open_questions))
        self.column.insertWidget(1, words)
        both = QHBoxLayout()
        left = QVBoxLayout()
        left.addWidget(self._columns())
        self.column.removeItem(self.form)
        left.addLayout(self.form)
        left.addStretch(1)
        both.addLayout(left, 1)
        both.addLayout(self._pictures(), 1)
        self.column.insertLayout(2, both, 1)
        self._fields()
        self.owners: dict[str, Choice] = {}
        self._whose()
        self._show()

    # -- what is asked -----------------------------------------------------------------------------

    def _columns(self) -> QScrollArea:
        """A row a column of the file."""
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setMinimumHeight(px(min(44 + 30 * len(self.model.columns), 230)))
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        inner = QWidget()
        self._grid = QGridLayout(inner)
        self._grid.setContentsMargins(0, 2, 8, 2)
        self._grid.setHorizontalSpacing(10)
        self._grid.setVerticalSpacing(4)
        area.setWidget(inner)
        for c, title in enumerate(("Column", "Begins with", "Is", "Unit")):
            self._grid.addWidget(label(title, 9, role="soft"), 0, c)
        self.roles: list[Choice] = []
        self.units: list[Choice] = []
        for column in self.model.columns:
            self._add_row(column)
        self._grid.setRowStretch(len(self.model.columns) + 1, 1)
        return area

    def _add_row(self, column: Column) -> None:
        row = column.k + 1
        title = column.title or f"column {row}"
        name = QLabel(title if len(title) <= 16 else title[:15] + "…")
        name.setToolTip(title)
        self._grid.addWidget(name, row, 0)
        self._grid.addWidget(label(", ".join(column.examples[:2])[:18], 9, role="soft"), row, 1)
        role = Choice()
        role.setAccessibleName(f"what {title} is")
        role.setToolTip("What this column holds: it moves the motion only if it is used")
        role.addItem(NOT_USED, None)
        for word in ROLES:
            role.addItem(WORDS[word], word)
        role.setCurrentIndex(0 if column.role is None else role.findData(column.role))
        role.currentIndexChanged.connect(lambda _i, k=column.k: self._on_role(k))
        unit = Choice()
        unit.setAccessibleName(f"unit of {title}")
        unit.setToolTip("The unit of its numbers: a wrong one makes the motion larger or slower by as much")
        unit.currentIndexChanged.connect(lambda _i, k=column.k: self._on_unit(k))
        self._grid.addWidget(role, row, 2)
        self._grid.addWidget(unit, row, 3)
        self.roles.append(role)
        self.units.append(unit)

    def _fields(self) -> None:
        self.decimal = Choice()
        self.decimal.setAccessibleName("decimal mark")
        self.decimal.setToolTip("What stands before the decimals: without it a number may be read a thousand times too large")
        self.decimal.addItems([CHOOSE, "point", "comma"])
        self.decimal.setCurrentIndex({".": 1, ",": 2}.get(self.model.decimal or "", 0))
        self.decimal.currentIndexChanged.connect(self._on_field)
        self.form.addRow("Decimal mark", self.decimal)
        self.rate = self.field("Frames a second", "" if self.model.rate is None else f"{self.model.rate:g}",
                               "How fast it was filmed: turns frame numbers into times", "1/s")
        self.scale = self.field("Metres a pixel", "" if self.model.scale is None else f"{self.model.scale:g}",
                                "Turns pixels into metres; or click two places of the picture", "m")
        self.y_down = QCheckBox("the upright axis grows downwards, as in a picture")
        self.y_down.setToolTip("Turns heights round: in a picture they are counted from the top")
        self.y_down.setAccessibleName("upright axis grows downwards")
        self.y_down.setChecked(self.model.y_down)
        self.form.addRow("", self.y_down)
        self.offset = self.field("Time offset", "0", "Added to its times: when this track begins, on the clock of the case", "s")
        self.lift = self.field("Lifted by", "0", "Added to its heights; or click the floor in the picture", "m")
        self.sigma = self.field("Noise σ", "", "Of its places; left empty, it is read off the track", "m")
        self.sigma_angle = self.field("Noise of the angle", "", "Left empty, it is read off the track", "rad")
        for edit in (self.rate, self.scale, self.offset, self.lift, self.sigma, self.sigma_angle):
            edit.textChanged.connect(self._on_field)
        self.y_down.toggled.connect(self._on_field)

    def _whose(self) -> None:
        """A row a body of the file."""
        case, names = self._case, self.model.bodies()
        movers = case.dynamic_bodies() or [name or BODY for name in names]
        for k, name in enumerate(names[:8]):
            box = Choice()
            box.setAccessibleName(f"whose track {name}".strip())
            box.setToolTip("The body of the case that was filmed")
            box.addItems([NOBODY, *movers])
            like = name if name in movers else movers[k] if k < len(movers) and len(names) > 1 else movers[0] if k == 0 else NOBODY
            box.setCurrentText(like)
            box.currentTextChanged.connect(self._on_field)
            self.form.addRow(f"Track of {name}" if name else "Track of", box)
            self.form.setRowVisible(box, len(names) > 1 or bool(case.dynamic_bodies()))
            self.owners[name] = box
        self.as_take = QCheckBox("another take: its launch is its own, all other numbers are shared")
        self.as_take.setAccessibleName("another take")
        self.as_take.setToolTip("For recordings of the same things thrown again")
        self.as_take.setVisible(bool(case.tracks or case.takes))
        self.as_take.setChecked(bool(case.takes))
        self.form.addRow("", self.as_take)

    # -- what comes of it --------------------------------------------------------------------------

    def _pictures(self) -> QVBoxLayout:
        stack = QVBoxLayout()
        self.picture = PathPicture()
        self.picture.clicked.connect(self._clicked)
        stack.addWidget(self.picture, 3)
        tools = QHBoxLayout()
        self.set_scale = self._tool(tools, "Set the scale", "Click two places of the picture that are so far apart", SCALE)
        self.distance = label("apart by", 10)
        tools.addWidget(self.distance)
        self.apart = self._apart()
        tools.addWidget(self.apart)
        self.metres = label("m", 10)
        tools.addWidget(self.metres)
        self.set_floor = self._tool(tools, "Set the floor", "Click where it touches the floor: the track is lifted onto it", FLOOR)
        tools.addStretch(1)
        stack.addLayout(tools)
        self.hint = label("", 9, role="soft")
        self.hint.setAccessibleName("what a click does")
        stack.addWidget(self.hint)
        self.plot = TrackPlot()
        stack.addWidget(self.plot, 2)
        return stack

    def _tool(self, row: QHBoxLayout, text: str, tip: str, mode: str) -> QPushButton:
        b = QPushButton(text)
        b.setCheckable(True)
        b.setObjectName("switch")
        b.setToolTip(tip)
        b.setAccessibleName(text.lower())
        b.setAutoDefault(False)
        b.clicked.connect(lambda on: self._choose_mode(mode if on else ""))
        row.addWidget(b)
        return b

    def _apart(self) -> QLineEdit:
        edit = QLineEdit(f"{self._known_length():g}")
        edit.setFixedWidth(px(64))
        edit.setAccessibleName("distance of the two places")
        edit.setToolTip("How far apart the two places are: a ruler, or the ball from edge to edge")
        return edit

    def _known_length(self) -> float:
        """What is known of the first thing that moves: from edge to edge, along its longest [m]."""
        first = next(iter(self._case.dynamic_bodies()), None)
        return (overall_size(self._case.bodies[first]) if first is not None else None) or 1.0

    def _choose_mode(self, mode: str) -> None:
        self._mode, self._clicks = mode, []
        self.set_scale.setChecked(mode == SCALE)
        self.set_floor.setChecked(mode == FLOOR)
        self.hint.setText({SCALE: "click two places", FLOOR: "click a place where it touches the floor"}.get(mode, ""))
        self.picture.show_marks([])

    def _clicked(self, x: float, y: float) -> None:
        """A place of the picture was clicked: one of two for the scale, or the floor."""
        if self._mode == SCALE:
            self._clicks.append((x, y))
            self.picture.show_marks(self._clicks)
            self.hint.setText("click the second place")
            if len(self._clicks) == 2:
                self._take_scale()
        elif self._mode == FLOOR:
            self.model.set_floor(y, self._floor())
            self.lift.setText(f"{self.model.lift:.6g}")
            self._choose_mode("")

    def _floor(self) -> float:
        """How high the origin of the first tracked body is where it touches the floor [m]."""
        owner = next((box.currentText() for box in self.owners.values() if box.currentText() != NOBODY), None)
        return touching_height(self._case, owner) if owner in self._case.bodies else 0.0

    def _take_scale(self) -> None:
        try:
            self.model.set_scale(self._clicks[0], self._clicks[1], number_from(self.apart, "distance"))
        except YapaError as error:
            self.show_message(str(error))
            self._choose_mode(SCALE)
            return
        self.scale.setText(f"{self.model.scale:.6g}")
        self._choose_mode("")

    # -- keeping up --------------------------------------------------------------------------------

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
        for edit, name in ((self.rate, "rate"), (self.scale, "scale"), (self.sigma, "sigma"),
                           (self.sigma_angle, "sigma_angle")):
            text = edit.text().strip()
            setattr(self.model, name, number_from(edit, edit.accessibleName()) if text else None)
        for edit, name in ((self.offset, "time_offset"), (self.lift, "lift")):
            setattr(self.model, name, number_from(edit, edit.accessibleName()) if edit.text().strip() else 0.0)
        self.model.whose = {name: "" if box.currentText() == NOBODY else box.currentText() for name, box in self.owners.items()}

    def _show(self) -> None:
        """Bring the rows, the pictures and the line of what is open to what the form says."""
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
        pixels, frames = self.model.in_pixels, any(c.role == "frame" for c in self.model.columns)
        self.form.setRowVisible(self.scale, pixels)
        self.form.setRowVisible(self.rate, frames)
        self.form.setRowVisible(self.sigma_angle, any(c.role == "angle" for c in self.model.columns))
        for part in (self.set_scale, self.distance, self.apart, self.metres):
            part.setVisible(pixels)
        try:
            self._numbers()
            words = self.model.open()
        except YapaError as error:
            words = [str(error)]
        self._preview()
        set_role(self.wrong, "soft" if words else "trouble")
        self.show_message("; ".join(words).capitalize())
        self.done_button.setEnabled(not words)

    def _preview(self) -> None:
        """The tracks as they would be read, as paths and over time; nothing where they cannot be read yet."""
        pixels = self.model.in_pixels and self.model.scale is None

        def show(tracks: list[TrackData], wrong: str) -> None:
            if not self._gone:
                self._draw(tracks, pixels)
                words = wrong or self.model.doubt(tracks)
                if words and self.done_button.isEnabled():  # nothing is open, and yet it cannot be read, or hardly be meant so
                    set_role(self.wrong, "trouble")
                    self.show_message(words[:1].upper() + words[1:])

        self._session.tracks.look_through(self.model, show)

    def _draw(self, tracks: list[TrackData], pixels: bool) -> None:
        unit = "px" if pixels else "m"
        self.picture.show_paths(dots_of(tracks), unit)
        self.plot.show_tracks(tracks, unit)
        self.read_as.emit([] if pixels else tracks)
        if tracks and not self.sigma.text().strip():
            self.sigma.setPlaceholderText(f"{np.median([data.sigma for data in tracks]):.2g}, read off it")
        if tracks and tracks[0].angle is not None:
            self.sigma_angle.setPlaceholderText(f"{np.median([data.sigma_angle for data in tracks]):.2g}, read off it")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Enter in a field that says how the file is read takes it and goes on to the next: what comes of it is seen first."""
        field = self.focusWidget()
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and field in (self.rate, self.scale) and field.isModified():
            field.setModified(False)
            self.focusNextChild()
            return
        super().keyPressEvent(event)

    def take(self) -> None:
        """Take over what the fields say."""
        self._numbers()
        self.model.as_take = self.as_take.isVisible() and self.as_take.isChecked()

    def use(self, tracks: list[Track]) -> None:
        """Use the tracks as they were read, before the dialog closes."""
        self.tracks = tracks

    def accept(self) -> None:
        """Read the whole file as the form says, then close; a fault is said here."""
        set_role(self.wrong, "trouble")
        self.done_button.setEnabled(False)
        self._session.tracks.read(self.model, self._read, self._failed)

    def _read(self, tracks: list[Track]) -> None:
        if self._gone:
            return
        try:
            with in_words_of("this form"):
                self.use(tracks)
        except Exception as error:
            self._failed(error)  # the dialog can be used again
            if isinstance(error, YapaError):
                return
            raise
        super().accept()

    def _failed(self, error: Exception) -> None:
        if not self._gone:
            self.done_button.setEnabled(True)
            self.show_message(in_words(error))

    def _leave(self, _code: int) -> None:
        self._gone = True
