"""Eight minutes of use in the real window: ``python -m tests.hard.using ROUNDS SECONDS``; a line of memory after every round.

Of 54 rounds each opens a demo case, turns knobs, fits, looks at the outcome table and edits: 54 openings, 1,550 turns, 54 fits, 54
tables, 200 edits in all.
"""

from __future__ import annotations

import gc
import sys
import tempfile
import time
from pathlib import Path

from PySide6.QtWidgets import QApplication

from yapa.case import get_number
from yapa.demo import demo_paths
from yapa.desktop.app.app import make_application
from yapa.desktop.app.main_window import MainWindow
from yapa.desktop.app.screenshots import wait_until
from yapa.session.recovery import Recovery

TURNS, EDITS = 1550 / 54, 200 / 54


def resident() -> float:
    """Memory of this process [MB]."""
    line = next(text for text in Path("/proc/self/status").read_text().splitlines() if text.startswith("VmRSS"))
    return int(line.split()[1]) / 1024


def one_round(app: QApplication, window: MainWindow, k: int) -> None:
    """Open, turn, fit, look, edit."""
    session = window.session
    before = session.document
    session.mark_clean()
    window.files.open_demo(demo_paths()[k % len(demo_paths())])
    wait_until(app, lambda: session.document is not before and session.preview.comparison is not None and session.jobs.idle)
    free = [u for u in session.case.unknowns if not u.fixed]
    for j in range(round(TURNS * (k + 1)) - round(TURNS * k)):
        unknown = free[j % len(free)]
        value = unknown.low + (0.2 + 0.6 * ((j * 7) % 29) / 29) * (unknown.high - unknown.low)
        session.preview.preview_value(unknown.path, value)
        app.processEvents()
    wait_until(app, lambda: session.jobs.idle)
    session.preview.values = {}
    session.fits.start()
    wait_until(app, lambda: not session.fits.running and session.jobs.idle, 120)
    window.run_command("Outcomes…")
    wait_until(app, window.dialogs["outcomes"].isVisible)
    window.dialogs["outcomes"].close()
    for j in range(round(EDITS * (k + 1)) - round(EDITS * k)):
        session.set_number("gravity", get_number(session.case, "gravity") + 0.01 * (j + 1))
        wait_until(app, lambda: session.jobs.idle)


def main() -> None:
    """Use the window for so many rounds, spread over so many seconds."""
    rounds, seconds = int(sys.argv[1]), float(sys.argv[2])
    app = make_application()
    with tempfile.TemporaryDirectory() as folder:
        window = MainWindow(Recovery(Path(folder)))
        window.resize(1280, 800)
        window.show()
        begun = time.monotonic()
        for k in range(rounds):
            one_round(app, window, k)
            end = begun + seconds * (k + 1) / rounds
            wait_until(app, lambda end=end: time.monotonic() >= end, seconds)
            gc.collect()
            print(f"{k} {time.monotonic() - begun:.1f} {resident():.1f}", flush=True)
        window.session.mark_clean()
        window.close()


if __name__ == "__main__":
    main()
