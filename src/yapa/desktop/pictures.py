"""Pictures of the main views, taken from the real window on the demo data.

``python -m yapa.desktop.pictures FOLDER`` writes one PNG of each view at 1280x800.
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

from yapa.demo import DATA
from yapa.desktop.app import make_application
from yapa.desktop.dialogs import NumbersDialog, TargetDialog, prefixes_of_body
from yapa.desktop.import_dialog import ImportDialog
from yapa.desktop.new_outcomes import NewFromOutcomes
from yapa.desktop.new_track import NewFromTrack
from yapa.desktop.note import NoteDialog
from yapa.desktop.window import MainWindow
from yapa.formats.any_track import read_any
from yapa.formats.roles import Questions
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
        self.window.open_demo(DATA / f"{name}.yapa")
        wait_until(self.app, lambda: session.case is not before and session.picture is not None)
        session.move_playhead(at)
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
        session.start_fit()
        wait_until(self.app, lambda: not session.fitting)
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
    session.compare_with(0)
    wait_until(p.app, lambda: session.compare is not None)
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
    p.window.bench.stage.puller.put_back()
    p.open("orange-wanted", 0.8)
    for path in ("bodies.orange.velocity.z", "bodies.orange.spin.y"):
        session.free_number(path)
    p.window.show_ways()
    wait_until(p.app, lambda: p.window.ways.found is not None)
    p.shoot("other-ways", p.window.ways)
    p.window.ways.close()
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
    p.window.show_why()
    wait_until(p.app, lambda: bool(p.window.why.cards))
    p.shoot("what-may-be-wrong", p.window.why)
    p.window.why.close()
    p.window.show_outcomes()
    wait_until(p.app, lambda: p.window.outcomes.table.rowCount() > 10)
    p.shoot("outcomes", p.window.outcomes)
    p.window.outcomes.close()
    session.mark_clean()
    p.window.close()
    p.scratch.cleanup()


if __name__ == "__main__":
    take_all(Path(sys.argv[1]))
