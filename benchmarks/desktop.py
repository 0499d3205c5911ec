"""How soon the window follows a hand: ``python -m benchmarks.desktop`` on a display, with the machine idle.

The orange drop is open at 1280 x 800. A restitution is turned 500 times, each time once everything of the last turn is painted.
Printed apart: the look (from the turn to the comparison at the interface), knob to repaint (to the end of the painting of all that
shows it; the scene is drawn 30 ms later, for all turns meanwhile), and how long the interface is held when the knob is let go.
"""

from __future__ import annotations

import statistics
import tempfile
import time
from pathlib import Path

import numpy as np
from PySide6.QtCore import QEvent, QEventLoop
from PySide6.QtWidgets import QApplication

from benchmarks.pages import put
from yapa.demo import DATA
from yapa.desktop.app.app import make_application
from yapa.desktop.app.main_window import MainWindow
from yapa.session.recovery import Recovery

PATH = "pairs.rind+pad.restitution"
MOVES, RELEASES = 500, 40
STAGE = 0.05
"""s after which the stage has drawn a turn as well"""


def settle(app: QApplication, window: MainWindow, pause: float = 0.0) -> None:
    """Let the window live until nothing is under way."""
    end = time.perf_counter() + pause
    while not window.session.jobs.idle or time.perf_counter() < end:
        app.processEvents()


def moves(app: QApplication, window: MainWindow) -> tuple[list[float], list[float]]:
    """Milliseconds to the comparison, and to the end of painting, of every move of a knob."""
    session, loop = window.session, QEventLoop()
    looks: list[float] = []
    paints: list[float] = []
    session.comparison_changed.connect(loop.quit)
    for value in np.random.default_rng(1).uniform(0.3, 0.85, MOVES):
        begun = time.perf_counter()
        session.preview.preview_value(PATH, float(value))
        loop.exec()  # asleep until it is heard, as a window is
        looks.append(1e3 * (session.preview.latencies[-1][1] - begun))
        app.sendPostedEvents(None, QEvent.Type.UpdateRequest.value)
        paints.append(1e3 * (time.perf_counter() - begun))
        settle(app, window, STAGE)
    session.comparison_changed.disconnect(loop.quit)
    return looks, paints


def releases(app: QApplication, window: MainWindow) -> list[float]:
    """Milliseconds that letting go of a knob holds the interface."""
    out = []
    for value in np.random.default_rng(2).uniform(0.3, 0.85, RELEASES):
        window.session.preview.preview_value(PATH, float(value))
        settle(app, window)
        begun = time.perf_counter()
        window.session.set_number(PATH, float(value))
        out.append(1e3 * (time.perf_counter() - begun))
        settle(app, window)
    return out


def main() -> None:
    """Print the figures and rewrite their section."""
    app = make_application()
    with tempfile.TemporaryDirectory() as folder:
        window = MainWindow(Recovery(Path(folder)))
        window.show()
        window.files.open_demo(DATA / "orange-drop.yapa")
        settle(app, window, 2.0)
        moves(app, window)
        looks, paints = moves(app, window)
        held = releases(app, window)
        window.session.mark_clean()
        window.close()

    def told(times: list[float]) -> str:
        return f"{statistics.median(times):.1f} / {np.percentile(times, 95):.1f} / {max(times):.1f} ms"

    rows = [("look", told(looks), "4 ms median"), ("knob to repaint", told(paints), "14 ms median, 25 ms at 95%"),
            ("letting go holds the interface", told(held), "10 ms")]
    for row in rows:
        print(": ".join(row))
    put("Window", rows, f"{MOVES} moves of a knob in the orange drop at 1280 x 800, {RELEASES} releases; median / 95% / greatest.",
        ("", "takes", "at most"))


if __name__ == "__main__":
    main()
