"""New from a track: an empty scene, and the import dialog that also asks what was filmed, on what, and what to find."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QCheckBox, QFileDialog, QHBoxLayout, QWidget

from yapa.case import Track
from yapa.case.quantities import QUANTITIES
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import px
from yapa.desktop.dialogs.import_file import ImportDialog
from yapa.desktop.dialogs.thing_fields import ThingFields
from yapa.desktop.widgets.card import label
from yapa.desktop.widgets.form_dialog import number_from, show_once
from yapa.errors import YapaError
from yapa.session.edits import Edit
from yapa.session.importing import ImportForm, track_files
from yapa.session.new_case import FINDABLE, Setup, filmed_scene

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow


class NewFromTrack(ImportDialog):
    """The import dialog over an empty scene; what `yapa calibrate` takes."""

    def __init__(self, parent: QWidget | None, form: ImportForm, session: Session) -> None:
        super().__init__(parent, form, session, "New from a track", "Make the case")
        self.made: Edit | None = None
        self._setup = Setup()
        self.resize(px(940), px(660))
        self.thing = ThingFields("1", "Matters only for drag and collisions")
        self.support = self.thing.choice("On", ["a level floor", "a slope that rises along x"], "What it moves on")
        self.level = self.thing.field("Height [m]", "0", "Height of the floor")
        self.angle = self.thing.field("Angle [°]", "10", "Of the slope; below zero it falls along x")
        self.support.currentIndexChanged.connect(self._supported)
        self.thing.radius.textChanged.connect(self._sized)
        self.column.insertWidget(1, self.thing)
        find = QHBoxLayout()
        find.setSpacing(10)
        find.addWidget(label("Find", 9, role="soft"))
        self.finds: dict[str, QCheckBox] = {}
        for name, meaning in FINDABLE.items():
            tick = QCheckBox(QUANTITIES[name].label)
            tick.setToolTip(f"{meaning[0].upper()}{meaning[1:]}. Where it starts and how fast is always found along")
            tick.setAccessibleName(f"find {tick.text()}")
            tick.setChecked(name in ("restitution", "friction") or (name == "angular_velocity" and self._has_angle()))
            find.addWidget(tick)
            self.finds[name] = tick
        find.addStretch(1)
        self.column.insertLayout(2, find)
        self._supported(0)
        self._sized()
        self.thing.radius.setFocus()
        self.thing.radius.selectAll()

    def _has_angle(self) -> bool:
        return any(column.role == "angle" for column in self.model.columns)

    def _supported(self, k: int) -> None:
        self.thing.show_field(self.level, k == 0)
        self.thing.show_field(self.angle, k == 1)

    def _sized(self) -> None:
        """The ball from edge to edge is what a scale is set by, until something else is typed there."""
        try:
            self.apart.setText(f"{2 * number_from(self.thing.radius, 'radius'):g}")
        except YapaError:
            return  # it is said when the case is made

    def _floor(self) -> float:
        """How high the middle of the thing is where it touches the floor [m]."""
        try:
            setup = self.setup()
        except YapaError:
            return 0.0  # it is said when the case is made
        return setup.reach + (setup.floor or 0.0)

    def setup(self) -> Setup:
        """What the dialog says of the thing.

        Raises
        ------
        InputError
            If a field is no number.
        """
        sloped = self.support.currentIndex() == 1
        return Setup(
            radius=self.thing.ball, size=self.thing.box, mass=self.thing.weight,
            floor=None if sloped else number_from(self.level, "height"),
            slope=number_from(self.angle, "angle") if sloped else None,
            unknown={name: None for name, tick in self.finds.items() if tick.isChecked()}, title=self.model.path.stem)

    def take(self) -> None:
        """Take over what the fields say; a field that is no number is said before anything is read."""
        super().take()
        self._setup = self.setup()

    def use(self, tracks: list[Track]) -> None:
        """Make the case."""
        self.made = filmed_scene(tracks, self._setup)


def open_dialog(window: MainWindow) -> None:
    """Choose a file."""
    if not window.files.may_leave():
        return
    name, _ = QFileDialog.getOpenFileName(window, "Choose a track", "", track_files())
    if name:
        new_from_track(window, Path(name))


def new_from_track(window: MainWindow, path: Path) -> None:
    """Show what a file holds over an empty scene, and fill the scene as it is told; what is no table is said and opens nothing."""
    session = window.session

    def show(form: ImportForm) -> None:
        back = window.files.begin_new()
        dialog = NewFromTrack(window, form, session)
        dialog.read_as.connect(session.tracks.show)
        dialog.finished.connect(lambda _code: session.tracks.show([]))
        dialog.accepted.connect(lambda: fill(dialog))
        dialog.rejected.connect(back)
        show_once(dialog)

    def fill(dialog: NewFromTrack) -> None:
        if dialog.made is not None and session.fill(dialog.made):
            window.show_message("ready: press F to fit")

    session.tracks.look_into(path, show)
