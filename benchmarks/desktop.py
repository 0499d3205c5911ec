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
from PySide6.QtCore import QEvent, QEventLoop, QTimer
from PySide6.QtWidgets import QApplication

from benchmarks.pages import put
from yapa.case import Target
from yapa.demo import DATA
from yapa.desktop.app.app import make_application
from yapa.desktop.app.main_window import MainWindow
from yapa.session.edits import add_target, lock
from yapa.session.recovery import Recovery

PATH = "pairs.rind+pad.restitution"
MOVES, RELEASES, PULLS = 500, 40, 500
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


def pulls(app: QApplication, window: MainWindow) -> list[float]:
    """Milliseconds between frames that follow a hand which pulls an apex, 125 moves a second, what is met being held."""
    session, loop = window.session, QEventLoop()
    value = next(h for h in session.preview.comparison.handles if h.name == "orange apex 1").target.value
    session.make(add_target(Target(outcome="apex", index=1, body="orange", value=round(value, 3), tolerance=0.02)))
    session.make(lock("bodies.orange.position.z", False))
    settle(app, window, 0.5)
    handle = next(h for h in session.preview.comparison.handles if h.name == "orange apex 2")
    assert session.drag.begin(handle)
    frames: list[float] = []
    session.pull_followed.connect(note := lambda _f: frames.append(time.perf_counter()))
    steps = iter(range(PULLS))
    hand = QTimer(interval=8)

    def step() -> None:
        k = next(steps, None)
        if k is None:
            loop.quit()
        else:
            session.drag.to(handle.target.value * (1.0 + 0.06 * float(np.sin(k / 40))))

    hand.timeout.connect(step)
    hand.start()
    loop.exec()
    hand.stop()
    session.pull_followed.disconnect(note)
    session.drag.put_back()
    settle(app, window, 0.5)
    return (1e3 * np.diff(frames)).tolist()


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
        pulled = pulls(app, window)
        shown = window.session.preview
        shown.choose_traces([("orange", name) for name in ("height", "travel", "speed", "speed upwards")])
        window.resize(1280, 1100)  # all four are seen
        settle(app, window, 1.0)
        _, four = moves(app, window)
        window.session.mark_clean()
        window.close()

    def told(times: list[float]) -> str:
        return f"{statistics.median(times):.1f} / {np.percentile(times, 95):.1f} / {max(times):.1f} ms"

    rows = [("look", told(looks), "4 ms median"), ("knob to repaint", told(paints), "14 ms median, 25 ms at 95%"),
            ("letting go holds the interface", told(held), "10 ms"),
            ("knob to repaint, four curves", told(four), "20 ms median, 33 ms at 95%"),
            ("pulling an apex, another held", f"{1e3 / statistics.mean(pulled):.0f} frames a second", "30 a second")]
    for row in rows:
        print(": ".join(row))
    put("Window", rows, f"{MOVES} moves of a knob in the orange drop at 1280 x 800, {RELEASES} releases; median / 95% / greatest.",
        ("", "takes", "at most"))


if __name__ == "__main__":
    main()
