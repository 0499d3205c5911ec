"""Pictures of the main views, taken from the real window on the demo data.

``python -m yapa.desktop.app.screenshots FOLDER`` writes one PNG of each view at 1280x800.
"""

from __future__ import annotations

import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from yapa.desktop.app.app import make_application
from yapa.desktop.app.main_window import MainWindow
from yapa.desktop.dialogs.import_file import ImportDialog
from yapa.desktop.dialogs.manual_evidence import NoteDialog
from yapa.desktop.dialogs.new_from_outcomes import NewFromOutcomes
from yapa.desktop.dialogs.new_from_track import NewFromTrack
from yapa.desktop.dialogs.numbers import NumbersDialog, prefixes_of_body
from yapa.desktop.dialogs.target import TargetDialog
from yapa.session.demo_cases import DATA
from yapa.session.edits import free
from yapa.session.importing import Questions, read_any
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

    def open(self, name: str, at: float) -> None:
        """Open a demo case and go to a time."""
        session = self.window.session
        session.mark_clean()
        before = session.case
        self.window.files.open_demo(DATA / f"{name}.yapa")
        wait_until(self.app, lambda: session.case is not before and session.preview.comparison is not None)
        session.playback.go_to(at)
        wait_until(self.app, lambda: False, 0.4)

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


def take_all(folder: Path) -> None:
    """Every main view."""
    folder.mkdir(parents=True, exist_ok=True)
    p = Photographer(folder)
    wait_until(p.app, lambda: all(card.curve for card in p.window.start.cards))
    p.shoot("start")
    p.open("orange-throw", 0.9)
    p.shoot("bench-before")
    p.fit()
    session = p.window.session
    session.preview.lay_beside(0)
    wait_until(p.app, lambda: session.preview.other is not None)
    p.shoot("bench-fitted")
    dialog = NumbersDialog(p.window, session, "orange", prefixes_of_body(session, "orange"))
    dialog.show()
    wait_until(p.app, dialog.isVisible)
    p.shoot("numbers", dialog)
    dialog.close()
    for name, at in (("orange-drop", 0.95), ("crate-chute", 0.6), ("grapefruit-lane", 1.2), ("lemons-nudge", 0.7),
                     ("orange-wanted", 0.8), ("sweeper-bar", 0.3)):
        p.open(name, at)
        if name not in ("orange-drop", "lemons-nudge"):
            p.fit()
        p.shoot(name)
    p.open("orange-drop", 0.95)
    p.pull("orange apex 2", 34)
    p.shoot("pulling")
    session.drag.put_back()
    p.open("orange-wanted", 0.8)
    for path in ("bodies.orange.velocity.z", "bodies.orange.spin.y"):
        session.make(free(path))
    p.window.run_command("Other ways…")
    wait_until(p.app, lambda: p.window.dialogs["solutions"].found is not None)
    p.shoot("other-ways", p.window.dialogs["solutions"])
    p.window.dialogs["solutions"].close()
    track = NewFromTrack(p.window, session)
    track.show()
    track.use_file(DATA / "orange-throw.csv")
    wait_until(p.app, lambda: track.samples is not None)
    p.shoot("new-from-track", track)
    track.close()
    unclear = Path(p.scratch.name) / "lane.txt"
    rows = [f"{k};{1.2 * k};{900 - 3 * k};{24.1}" for k in range(60)]
    unclear.write_text("\n".join(["Frame;along [px];height [palms];Temperatur [°C]", *rows]))
    try:
        read_any(unclear)
    except Questions as questions:
        asked = ImportDialog(p.window, unclear, questions)
        asked.show()
        wait_until(p.app, asked.isVisible)
        p.shoot("how-to-read", asked)
        asked.close()
    outcomes = NewFromOutcomes(p.window)
    outcomes.show()
    wait_until(p.app, outcomes.isVisible)
    p.shoot("new-from-outcomes", outcomes)
    outcomes.close()
    target = TargetDialog(p.window, ["orange"])
    target.show()
    wait_until(p.app, target.isVisible)
    p.shoot("target", target)
    target.close()
    p.open("orange-throw", 0.9)
    assert session.case is not None
    noted = NoteDialog(p.window, session.case)
    noted.apexes.setText("0.37, 0.15")
    noted.rest.setText("2.1")
    noted.show()
    wait_until(p.app, noted.isVisible)
    p.shoot("note-by-hand", noted)
    noted.close()
    p.window.run_command("What may be wrong…")
    wait_until(p.app, lambda: bool(p.window.dialogs["findings"].cards))
    p.shoot("what-may-be-wrong", p.window.dialogs["findings"])
    p.window.dialogs["findings"].close()
    p.window.run_command("Outcomes…")
    wait_until(p.app, lambda: p.window.dialogs["outcomes"].table.rowCount() > 10)
    p.shoot("outcomes", p.window.dialogs["outcomes"])
    p.window.dialogs["outcomes"].close()
    session.mark_clean()
    p.window.close()
    p.scratch.cleanup()


if __name__ == "__main__":
    take_all(Path(sys.argv[1]))
