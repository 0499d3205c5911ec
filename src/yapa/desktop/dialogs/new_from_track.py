"""New from a track: file, curve, shape, support, what to find. Ready to fit in under a minute."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QCheckBox, QFileDialog, QGridLayout, QHBoxLayout, QPushButton, QWidget

from yapa.case import Samples, Track
from yapa.case.quantities import QUANTITIES
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import px
from yapa.desktop.dialogs.import_file import ImportDialog
from yapa.desktop.widgets.card import label
from yapa.desktop.widgets.choice import Choice
from yapa.desktop.widgets.form_dialog import FormDialog, ask, number_from, show_once
from yapa.desktop.widgets.track_plot import TrackPlot
from yapa.errors import YapaError, bad_input
from yapa.session.importing import ImportForm, Questions, TrackFile, read_any, track_data, track_files
from yapa.session.jobs import Queue, in_words
from yapa.session.new_case import FINDABLE, Prepared, Setup, prepare

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow


class NewFromTrack(FormDialog):
    """Exactly what `yapa calibrate` takes, as a form."""

    def __init__(self, parent: QWidget | None, session: Session) -> None:
        super().__init__("New from a track", parent, "Make the case")
        self._session = session
        self._gone = False
        self.finished.connect(self._leave)
        self.prepared: Prepared | None = None
        self.samples: Samples | None = None
        self.resize(px(640), px(660))
        row = QHBoxLayout()
        self.file_label = label("no file yet", 10, role="soft")
        self.choose = QPushButton("Choose a file…")
        self.choose.setToolTip("Any table of times and places; what it does not say of itself is asked")
        self.choose.setAutoDefault(False)
        self.choose.clicked.connect(self._choose)
        row.addWidget(self.choose)
        row.addWidget(self.file_label, 1)
        self.column.insertLayout(0, row)
        self.preview = TrackPlot()
        self.preview.setFixedHeight(170)
        self.column.insertWidget(1, self.preview)
        self.columns = label("", 10, role="soft", wrap=True)
        self.column.insertWidget(2, self.columns)
        self.shape = Choice()
        self.shape.addItems(["sphere", "box"])
        self.shape.setAccessibleName("shape")
        self.form.addRow("Shape", self.shape)
        self.radius = self.field("Radius", "0.04", "Radius of the sphere", "m")
        self.edges = self.field("Edges", "0.3 x 0.2 x 0.15", "Edge lengths of the box; the first lies along the slope", "m")
        self.mass = self.field("Mass", "1", "Matters only for drag and collisions", "kg")
        self.support = Choice()
        self.support.addItems(["level floor at height", "slope rising along +x, degrees"])
        self.support.setAccessibleName("support")
        self.form.addRow("Support", self.support)
        self.level = self.field("Height or angle", "0", "Height of the floor in metres, or angle of the slope in degrees")
        self.sigma = self.field("Noise σ", "", "Of the places; left empty, it is estimated from the track", "m")
        self.sigma_angle = self.field("Noise of the angle", "", "Left empty, it is estimated from the track", "rad")
        self.column.insertWidget(4, label("Find (start place and velocity are always fitted along)", 10, True))
        grid = QGridLayout()
        self.finds: dict[str, QCheckBox] = {}
        for k, (name, meaning) in enumerate(FINDABLE.items()):
            tick = QCheckBox(QUANTITIES[name].label)
            tick.setToolTip(meaning)
            tick.setAccessibleName(f"find {tick.text()}")
            tick.setChecked(name in ("restitution", "friction"))
            grid.addWidget(tick, k // 4, k % 4)
            self.finds[name] = tick
        self.column.insertLayout(5, grid)
        self.shape.currentTextChanged.connect(self._shaped)
        self._shaped("sphere")
        self.done_button.setEnabled(False)
        self.title = "calibration"

    def _leave(self, _code: int) -> None:
        self._gone = True

    def _shaped(self, kind: str) -> None:
        self.form.setRowVisible(self.radius, kind == "sphere")
        self.form.setRowVisible(self.edges, kind == "box")

    def _choose(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Choose a track", "", track_files())
        if name:
            self.use_file(Path(name))

    def use_file(self, path: Path) -> None:
        """Read a file off the interface thread and show what is in it; a fault is said here."""
        self.file_label.setText(f"reading {path.name} …")
        self.samples = None
        self.done_button.setEnabled(False)

        def failed(error: Exception) -> None:
            if not self._gone:
                self._refused(path, error)

        def use(found: TrackFile) -> None:
            if not self._gone:
                self._show(path, found)

        self._session.work(f"reading {path.name}", lambda: read_any(path), use, Queue.FILES, failed)

    def _refused(self, path: Path, error: Exception) -> None:
        """What cannot be read is said here; what only a person can say is asked."""
        self.file_label.setText(path.name)
        try:
            form = ImportForm.of_file(path)
        except YapaError:  # no table at all
            form = None
        if form is not None and (isinstance(error, Questions) or form.open()):
            dialog = ImportDialog(self, form)
            if ask(dialog) and dialog.read is not None:
                self._show(path, dialog.read)
                return
        self.preview.clear()
        self.columns.setText("")
        self.show_message(in_words(error))

    def _show(self, path: Path, found: TrackFile) -> None:
        self.show_message("\n".join(found.notices))
        self.samples = found.samples
        self.title = path.stem
        self.file_label.setText(path.name)
        self.file_label.setToolTip(str(path))
        self.done_button.setEnabled(True)
        s = found.samples
        self.columns.setText(f"columns {', '.join(found.columns)}; {len(s.t)} samples from {s.t[0]:g} to {s.t[-1]:g} s")
        data = track_data(Track(name="track", body="track", samples=s))
        self.preview.show_tracks([data])
        if data.angle is not None:
            self.finds["angular_velocity"].setChecked(True)

    def setup(self) -> Setup:
        """What the form says.

        Raises
        ------
        InputError
            If a field is no number.
        """
        box = self.shape.currentText() == "box"
        size = None
        if box:
            parts = self.edges.text().lower().replace("×", "x").split("x")
            try:
                a, b, c = (float(p) for p in parts)
            except ValueError:
                raise bad_input("edges", repr(self.edges.text()), "three lengths, such as 0.3 x 0.2 x 0.15") from None
            size = (a, b, c)
        sloped = self.support.currentIndex() == 1
        level = number_from(self.level, "height or angle")
        return Setup(
            radius=None if box else number_from(self.radius, "radius"), size=size, mass=number_from(self.mass, "mass"),
            floor=None if sloped else level, slope=level if sloped else None,
            unknown={name: None for name, tick in self.finds.items() if tick.isChecked()},
            sigma=number_from(self.sigma, "noise") if self.sigma.text().strip() else None,
            sigma_angle=number_from(self.sigma_angle, "noise of the angle") if self.sigma_angle.text().strip() else None,
            title=self.title,
        )

    def take(self) -> None:
        """Make the case."""
        if self.samples is None:
            raise bad_input("track", "no file", "a CSV track; choose one above")
        self.prepared = prepare(self.samples, self.setup())


def open_dialog(window: MainWindow, path: Path | None = None) -> None:
    """The form for a new case from a track."""
    if not window.files.may_leave():
        return
    dialog = NewFromTrack(window, window.session)
    if path is not None:
        dialog.use_file(path)

    def take() -> None:
        if dialog.prepared is not None:
            window.session.open_case(dialog.prepared.case)
            window.show_message("ready: press F to fit")

    dialog.accepted.connect(take)
    show_once(dialog)
