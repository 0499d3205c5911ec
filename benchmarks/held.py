"""How long the interface is held: ``python -m benchmarks.held`` on a display, with the machine idle.

A timer of 1 ms beats on the interface's thread; the longest time between two beats, while something is done by hand or goes on
beside, is how long a person's next move would have waited. The first frame of the window is not counted.
"""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QEventLoop, Qt, QTimer
from PySide6.QtWidgets import QApplication, QDialog

from benchmarks.pages import put
from yapa.demo import DATA
from yapa.desktop.app.app import make_application
from yapa.desktop.app.main_window import MainWindow
from yapa.session.recovery import Recovery

TIMES = 5
LIMIT = 50.0
"""ms"""


class Heart:
    """Beats on the interface's thread."""

    def __init__(self) -> None:
        self._last = time.perf_counter()
        self.longest = 0.0
        self._timer = QTimer(interval=1)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._beat)
        self._timer.start()

    def _beat(self) -> None:
        now = time.perf_counter()
        self.longest = max(self.longest, 1e3 * (now - self._last))
        self._last = now

    def during(self, act: Callable[[], object], until: Callable[[], bool], pause: float = 0.25) -> float:
        """Milliseconds of the longest hold while something is done, and until what follows from it is over."""
        loop, poll = QEventLoop(), QTimer(interval=3)
        end = time.perf_counter() + pause
        poll.timeout.connect(lambda: loop.quit() if until() and time.perf_counter() > end else None)
        self.longest, self._last = 0.0, time.perf_counter()
        QTimer.singleShot(0, act)
        poll.start()
        loop.exec()
        return self.longest


def close_dialogs(window: MainWindow) -> None:
    """Close what stands beside the window."""
    for dialog in window.findChildren(QDialog):
        dialog.close()


def rows_of(app: QApplication, window: MainWindow) -> list[tuple[str, list[float]]]:
    """What is done, and how long it held the interface each time."""
    session, heart = window.session, Heart()

    def idle() -> bool:
        return session.jobs.idle

    def over() -> bool:
        return not session.fits.running and session.jobs.idle

    def open_case(name: str) -> None:
        session.mark_clean()
        window.files.open_demo(DATA / f"{name}.yapa")

    heart.during(lambda: open_case("orange-throw"), idle, 2.0)  # the first frame
    out: dict[str, list[float]] = {}

    def note(name: str, act: Callable[[], object], until: Callable[[], bool] = idle, pause: float = 0.25) -> None:
        out.setdefault(name, []).append(heart.during(act, until, pause))

    for k in range(TIMES):
        for name in ("orange-drop", "sweeper-bar", "orange-throw"):
            note(f"a case is opened ({name})", lambda name=name: open_case(name), pause=0.8)
        note("a fit runs", lambda: session.fits.start(), over)
        note("undone", lambda: session.undo())
        note("to Build", lambda: window.show_work("build"))
        note("a body is selected", lambda: session.builder.select(["orange"]))
        note("another is selected", lambda: session.builder.select([next(n for n in session.case.bodies if n != "orange")]))
        note("nothing is selected", lambda: session.builder.select([]))
        note("a crate is put in", lambda: session.builder.put_in("crate"), pause=0.8)
        note("taken back", lambda: session.undo(), pause=0.8)
        note("to Tune", lambda: window.show_work("tune"))
        note("it plays for a second", lambda: window.bench.top.toggle(), pause=1.0)
        note("stopped", lambda: window.bench.top.toggle())
        note("the view is turned", lambda k=k: window.bench.stage.look_from(-0.3 - 0.1 * k, 0.4), pause=0.8)
        for text in ("What may be wrong…", "Outcomes…", "Every number and choice…", "Help"):
            def shown(text: str = text) -> None:
                QTimer.singleShot(150, lambda: close_dialogs(window))
                window.run_command(text)
            note(f"{text.rstrip('…')} is opened", shown, pause=0.5)
    return list(out.items())


def main() -> None:
    """Print the figures and rewrite their section."""
    app = make_application()
    with tempfile.TemporaryDirectory() as folder:
        window = MainWindow(Recovery(Path(folder)))
        window.resize(1280, 800)
        window.show()
        found = rows_of(app, window)
        window.session.mark_clean()
        window.close()
    rows = [(name, f"{statistics.median(times):.0f} / {max(times):.0f} ms", f"{LIMIT:.0f} ms") for name, times in found]
    for row in rows:
        print(": ".join(row))
    put("Held", rows, f"{TIMES} times each, at 1280 x 800; median / longest.", ("", "holds", "at most"))


if __name__ == "__main__":
    main()
