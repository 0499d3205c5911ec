"""How soon the future follows a hand that builds: ``python -m benchmarks.build`` on a display, with the machine idle.

A body is dragged over the stage, 125 steps of the pointer a second, in a case whose run is short (class A)
and in one whose run is long (class B: every look has a budget). Then how long a moving frame takes with ten bodies that cover a
quarter of a picture of 700 x 500, and how far the edges of a still picture are from a picture of 64 samples a pixel.
"""

from __future__ import annotations

import statistics
import tempfile
import time
from pathlib import Path

import numpy as np
from PySide6.QtCore import QEvent, QEventLoop, QObject, QPointF, Qt, QTimer
from PySide6.QtWidgets import QApplication

from benchmarks.desktop import settle
from benchmarks.pages import put
from yapa.case import Case
from yapa.demo import DATA
from yapa.desktop.app.app import make_application
from yapa.desktop.app.main_window import MainWindow
from yapa.desktop.app.theme import theme
from yapa.desktop.bench.stage.camera import View
from yapa.desktop.bench.stage.shadows import Shade
from yapa.desktop.bench.stage.solids import SAMPLES, Solids
from yapa.engine import simulate
from yapa.motion import Array
from yapa.session.building.scene_edits import put_in
from yapa.session.building.stock import thing_named
from yapa.session.new_case import empty_scene
from yapa.session.recovery import Recovery

STEPS = 500
"""of the pointer in one drag"""
SIZE = (700, 500)
"""pixels of the picture that is timed"""


def dragged(app: QApplication, window: MainWindow, demo: str, body: str) -> tuple[list[float], float]:
    """Milliseconds between pictures that follow a hand of 125 moves a second; and from its last to the whole future."""
    window.files.open_demo(DATA / f"{demo}.yapa")
    settle(app, window, 1.5)
    window.show_work("build")
    settle(app, window, 1.0)
    stage, session = window.bench.stage, window.session
    motion = session.preview.comparison.motion
    at = stage.to_pixels(motion.states[0, motion.names.index(body), :3][None])[0]
    session.builder.select([body])
    assert session.builder.hand.take(body, stage.hand.ray(QPointF(*at)))
    loop, painted, seen = QEventLoop(), [], [None]
    steps = iter(range(STEPS))
    hand = QTimer(interval=8)

    def step() -> None:
        k = next(steps, None)
        if k is None:
            loop.quit()
        else:
            place = QPointF(at[0] + 20 * np.sin(k / 29), at[1] - 30 - 10 * np.cos(k / 23))
            stage.hand.move(place, Qt.KeyboardModifier.AltModifier)

    class Watcher(QObject):
        def eventFilter(self, watched: QObject, event: QEvent) -> bool:
            if event.type() == QEvent.Type.Paint and session.preview.comparison is not seen[0]:
                seen[0] = session.preview.comparison
                painted.append(time.perf_counter())
            return False

    watcher = Watcher()
    stage.installEventFilter(watcher)
    hand.timeout.connect(step)
    hand.start()
    loop.exec()  # asleep until something comes, as a window is
    hand.stop()
    stage.removeEventFilter(watcher)
    session.comparison_changed.connect(loop.quit)
    begun = time.perf_counter()
    while session.preview.comparison.motion.is_unfinished:
        loop.exec()
    whole = 1e3 * (time.perf_counter() - begun)
    session.comparison_changed.disconnect(loop.quit)
    session.builder.hand.put_back()
    settle(app, window)
    session.mark_clean()
    return (1e3 * np.diff(painted)).tolist(), whole


def ten_bodies() -> Case:
    """Ten bodies that cover about a quarter of the picture."""
    case = empty_scene()
    up = np.array([0.0, 0.0, 1.0])
    case = put_in(thing_named("floor"), "floor", np.zeros(3), up).change(case)
    for k in range(10):
        thing = ("crate", "ball", "can", "hull", "capsule")[k % 5]
        case = put_in(thing_named(thing), f"{thing} {k}", np.array([0.28 * (k % 5), 0.4 * (k // 5), 0.0]), up).change(case)
    return case


def frames() -> tuple[list[float], float, float]:
    """Milliseconds a moving frame; how much of the picture bodies cover; the 95% of the still picture's edges beside a fine one."""
    motion, solids, view = simulate(ten_bodies()), Solids(), View((0.56, 0.15, 0.08), 0.42, -0.3, 0.35)
    shade = Shade()
    states = motion.states[0]
    solids.build(motion.bodies, 5.0, theme())
    times = []
    for k in range(60):
        begun = time.perf_counter()
        turned = View(view.centre, view.half_height, view.azimuth + 0.002 * k, view.elevation)
        solids.draw(states, turned, *SIZE, shade.of(motion, states))
        times.append(1e3 * (time.perf_counter() - begun))
    solids.draw(states, view, *SIZE, shade.of(motion, states))
    still = sum(solids.shifted(*SIZE, k).astype(float) for k in range(SAMPLES)) / SAMPLES
    covered = float((solids.depth < 1.0).mean()) if solids.depth is not None else 0.0
    fine = reference(solids)
    off = np.abs(still[..., :3] - fine[..., :3]).max(axis=-1)
    light = fine[..., :3].max(axis=-1)
    sharp = sum(np.abs(np.diff(light, axis=axis, prepend=0)) for axis in (0, 1))
    edges = off[sharp > 24]
    return times, covered, float(np.percentile(edges, 95))


def reference(solids: Solids, side: int = 8) -> Array:
    """The picture that was drawn last, with side² samples a pixel."""
    total = np.zeros((SIZE[1], SIZE[0], 4))
    for k in range(side * side):
        total += solids.shifted(*SIZE, k, side)
    return total / side**2


def main() -> None:
    """Print the figures and rewrite their section."""
    app = make_application()
    with tempfile.TemporaryDirectory() as folder:
        window = MainWindow(Recovery(Path(folder)))
        window.resize(1280, 800)
        window.show()
        settle(app, window, 1.0)
        short, _ = dragged(app, window, "orange-throw", "orange")
        long, whole = dragged(app, window, "sweeper-bar", "crate")
        window.close()
    times, covered, edge = frames()

    def told(ms: list[float]) -> str:
        return f"{statistics.median(ms):.1f} / {np.percentile(ms, 95):.1f} ms, {1e3 / statistics.mean(ms):.0f} a second"

    rows = [("dragging, class A (orange throw)", told(short), "25 a second"),
            ("dragging, class B (sweeper bar), budget 25 ms", told(long), "20 a second"),
            ("class B whole after the last move", f"{whole:.0f} ms", "its run + 100 ms"),
            (f"moving frame at 700 x 500, ten bodies over {100 * covered:.0f}% of it", told(times), "20 ms median"),
            ("edges of the still picture beside 8 x 8 samples, 95%", f"{edge:.0f} of 255", "16")]
    for row in rows:
        print(": ".join(row))
    put("Building", rows, f"{STEPS} steps of the pointer, 125 a second, at 1280 x 800; median / 95%.", ("", "takes", "at most"))


if __name__ == "__main__":
    main()
