"""Pictures of the main views, taken from the real window on the demo data.

``python -m yapa.desktop.app.screenshots FOLDER`` writes one PNG of each view at 1280x800.
"""

from __future__ import annotations

import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from yapa.case import Case
from yapa.desktop.app.app import make_application
from yapa.desktop.app.main_window import MainWindow
from yapa.desktop.dialogs.import_file import ImportDialog
from yapa.desktop.dialogs.manual_evidence import NoteDialog
from yapa.desktop.dialogs.new_from_outcomes import NewFromOutcomes
from yapa.desktop.dialogs.new_from_track import NewFromTrack
from yapa.desktop.dialogs.numbers import NumbersDialog, prefixes_of_body
from yapa.desktop.dialogs.target import TargetDialog
from yapa.session.building.scene_edits import launch, move_body, put_in
from yapa.session.building.stock import thing_named
from yapa.session.demo_cases import DATA
from yapa.session.edits import free
from yapa.session.importing import ImportForm
from yapa.session.new_case import empty_scene
from yapa.session.recovery import Recovery


def wait_until(app: QApplication, done: Callable[[], bool], seconds: float = 60.0) -> None:
    """Let the window live until something is so."""
    end = time.monotonic() + seconds
    while not done() and time.monotonic() < end:
        app.processEvents()
        time.sleep(0.005)
    for _ in range(40):
        app.processEvents()
        time.sleep(0.005)


class Photographer:
    """Drives one window and saves what it shows."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.app = make_application()
        self.scratch = tempfile.TemporaryDirectory()
        self.window = MainWindow(Recovery(Path(self.scratch.name)))
        self.window.resize(1280, 800)
        self.window.show()
        wait_until(self.app, self.window.isVisible, 5)

    def shoot(self, name: str, widget: QWidget | None = None) -> None:
        """Save a widget, the window by default."""
        (widget or self.window).grab().save(str(self.folder / f"{name}.png"))

    def open(self, name: str, at: float) -> Case:
        """Open a demo case and go to a time."""
        session = self.window.session
        session.mark_clean()
        before = session.case
        self.window.files.open_demo(DATA / f"{name}.yapa")
        wait_until(self.app, lambda: session.case is not before and session.preview.comparison is not None)
        session.playback.go_to(at)
        wait_until(self.app, lambda: False, 0.4)
        assert session.case is not None
        return session.case

    def pull(self, name: str, pixels: int) -> None:
        """Take a handle of the stage and hold it that much higher."""
        stage = self.window.bench.stage
        p_open = stage.handles.places(stage.view, stage.width(), stage.height())
        _, at, _ = next(place for place in p_open if place[0].name == name)
        QTest.mousePress(stage, Qt.MouseButton.LeftButton, pos=at.toPoint())
        for k in range(1, 11):
            to = QPointF(at.x(), at.y() - pixels * k / 10)
            stage.handles.drag(to, stage.view, stage.height())
            wait_until(self.app, lambda: False, 0.05)

    def fit(self) -> None:
        """Fit and wait for the end."""
        session = self.window.session
        session.fits.start()
        wait_until(self.app, lambda: not session.fits.running)
        wait_until(self.app, lambda: False, 0.6)

    def shoot_dialog(self, name: str, dialog: QWidget, ready: Callable[[], bool] | None = None) -> None:
        """Show a dialog, save it once it is ready, and close it."""
        dialog.show()
        wait_until(self.app, ready or dialog.isVisible)
        self.shoot(name, dialog)
        dialog.close()

    def shoot_command(self, name: str, command: str, dialog: str, ready: Callable[[QWidget], bool]) -> None:
        """Do a command that opens a dialog, save that, and close it."""
        self.window.run_command(command)
        opened = self.window.dialogs[dialog]
        self.shoot_dialog(name, opened, lambda: ready(opened))


def _start(p: Photographer) -> None:
    wait_until(p.app, lambda: all(card.curve for card in p.window.start.cards))
    p.shoot("start")


def _throw(p: Photographer) -> None:
    session = p.window.session
    p.open("orange-throw", 0.9)
    p.shoot("bench-before")
    p.fit()
    session.preview.lay_beside(0)
    wait_until(p.app, lambda: session.preview.other is not None)
    p.shoot("bench-fitted")
    p.shoot_dialog("numbers", NumbersDialog(p.window, session, "orange", prefixes_of_body(session, "orange")))


def _demos(p: Photographer) -> None:
    for name, at in (("orange-drop", 0.95), ("lemons-nudge", 0.7), ("orange-wanted", 0.8), ("sweeper-bar", 0.3)):
        p.open(name, at)
        if name not in ("orange-drop", "lemons-nudge"):
            p.fit()
        p.shoot(name)


def _build(p: Photographer) -> None:
    p.open("sweeper-bar", 0.0)
    p.window.show_work("build")
    p.window.session.builder.select(["crate"])
    wait_until(p.app, lambda: False, 0.6)
    p.shoot("build")
    p.window.session.mark_clean()
    p.window.files.new_scene()
    wait_until(p.app, lambda: p.window.session.jobs.idle, 5)
    for thing in ("floor", "slope", "open bin"):
        p.window.session.builder.put_in(thing)
        wait_until(p.app, lambda: p.window.session.jobs.idle, 5)
    orange = put_in(thing_named("ball"), "orange", np.array([0.35, 0.0, 0.6]), np.array([0.0, 0.0, 1.0]))
    p.window.session.make(orange)
    p.window.session.make(move_body("open bin", np.array([1.9, 0.0, 0.02])))
    p.window.session.make(launch("orange", (0.6, 0.0, 1.0)))
    p.window.session.builder.select(["orange"])
    wait_until(p.app, lambda: p.window.session.jobs.idle, 5)
    p.window.bench.stage.show_whole_scene()
    wait_until(p.app, lambda: False, 0.6)
    p.shoot("build-scene")
    p.window.show_work("tune")


def _pulling(p: Photographer) -> None:
    p.open("orange-drop", 0.95)
    p.pull("orange apex 2", 34)
    p.shoot("pulling")
    p.window.session.drag.put_back()


def _other_ways(p: Photographer) -> None:
    p.open("orange-wanted", 0.8)
    for path in ("bodies.orange.velocity.z", "bodies.orange.angular_velocity.y"):
        p.window.session.make(free(path))
    p.shoot_command("other-ways", "Other ways…", "solutions", lambda dialog: dialog.found is not None)  # type: ignore[attr-defined]


def _new_cases(p: Photographer) -> None:
    p.window.session.open_case(empty_scene())
    track = NewFromTrack(p.window, ImportForm.of_file(DATA / "orange-throw.csv"), p.window.session)
    track.thing.radius.setText("0.037")
    p.shoot_dialog("new-from-track", track, lambda: bool(track.sigma.placeholderText()))
    unclear = Path(p.scratch.name) / "lane.txt"
    rows = [f"{k};{1.2 * k};{900 - 3 * k};{24.1}" for k in range(60)]
    unclear.write_text("\n".join(["Frame;along [px];height [palms];Temperatur [°C]", *rows]))
    p.open("orange-drop", 0.8)
    p.shoot_dialog("how-to-read", ImportDialog(p.window, ImportForm.of_file(unclear), p.window.session))
    wanted = NewFromOutcomes(p.window)
    for index, height in ((1, "50 cm"), (2, "25 cm")):
        wanted.index.setValue(index)
        wanted.value.setText(height)
        if index == 1:
            wanted.another.click()
    p.shoot_dialog("new-from-outcomes", wanted)


def _evidence(p: Photographer) -> None:
    p.shoot_dialog("target", TargetDialog(p.window, ["orange"]))
    noted = NoteDialog(p.window, p.open("orange-throw", 0.9))
    noted.apexes.setText("0.37, 0.15")
    noted.rest.setText("2.1")
    p.shoot_dialog("note-by-hand", noted)


def _tables(p: Photographer) -> None:
    p.shoot_command("what-may-be-wrong", "What may be wrong…", "findings", lambda dialog: bool(dialog.cards))  # type: ignore[attr-defined]
    p.shoot_command("outcomes", "Outcomes…", "outcomes", lambda dialog: dialog.table.rowCount() > 10)  # type: ignore[attr-defined]


VIEWS = (_start, _throw, _demos, _build, _pulling, _other_ways, _new_cases, _evidence, _tables)


def take_all(folder: Path) -> None:
    """Every main view."""
    folder.mkdir(parents=True, exist_ok=True)
    p = Photographer(folder)
    for view in VIEWS:
        view(p)
    p.window.session.mark_clean()
    p.window.close()
    p.scratch.cleanup()


if __name__ == "__main__":
    take_all(Path(sys.argv[1]))
