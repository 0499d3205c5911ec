"""A long session does not grow: thousands of things done, and as much memory at the end as after the first hundreds."""

from __future__ import annotations

import gc
import random
import time
from pathlib import Path

from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QApplication, QDialog

from tests.hard.levels import amount
from yapa.demo import DATA
from yapa.session.edits import free, lock, remove_unknown

EARLY = 300
"""operations after which the memory is looked at first"""
GROWN = 1.10


def resident() -> float:
    """MiB of memory that this process holds."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * 4096 / 2**20


def live(window, seconds=0.01):
    """Let the window live until nothing is under way."""
    end = time.monotonic() + seconds
    while time.monotonic() < end or not window.session.jobs.idle:
        QApplication.processEvents()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)


def operations(window, rng):
    """What is done, by name."""
    session, bench = window.session, window.bench

    def knob():
        path = rng.choice([u.path for u in session.case.unknowns] or ["gravity"])
        session.preview.preview_value(path, session.case[path] * rng.uniform(0.98, 1.02))
        live(window)
        session.preview.set({})

    def dialog():
        window.run_command(rng.choice(["Outcomes…", "What may be wrong…", "Contacts shown and heard…", "Help"]))
        live(window, 0.05)
        for shown in window.findChildren(QDialog):
            shown.close()

    def unknown():
        path = "bodies.orange.velocity.x"
        known = any(u.path == path for u in session.case.unknowns)
        session.make(remove_unknown(path) if known else free(path))

    def pull():
        handles = [h for h in session.preview.comparison.handles if h.is_on_stage]
        if handles and session.drag.begin(handles[0]):
            session.drag.to(handles[0].target.value * 1.01)
            live(window)
            session.drag.put_back()

    def put():
        session.builder.put_in(rng.choice(["ball", "crate", "can"]))
        live(window)
        session.undo()

    def reopen():
        session.mark_clean()
        window.files.open_demo(DATA / "orange-throw.yapa")

    def lock_one():
        if session.case.unknowns:
            session.make(lock(session.case.unknowns[0].path, rng.random() < 0.5))

    def beside():
        session.preview.lay_beside(0 if session.case.trials and rng.random() < 0.5 else None)

    return [knob, knob, knob, dialog, unknown, pull, put, lock_one, beside, reopen, session.undo, session.redo,
            lambda: session.builder.select([rng.choice(list(session.case.bodies))]),
            lambda: window.show_work(rng.choice(["build", "tune"])),
            lambda: session.playback.go_to(rng.uniform(0, session.case.duration)),
            lambda: bench.stage.look_from(rng.uniform(-1, 1), 0.4)]


def test_thousands_of_operations_leave_as_much_memory_as_the_first_hundreds(bench):
    count = amount(short=40, long=2000)
    w = bench("orange-throw")
    rng = random.Random(7)
    early = None
    for k in range(count):
        rng.choice(operations(w, rng))()
        live(w)
        if k == min(EARLY, count // 2):
            gc.collect()
            early = resident()
    gc.collect()
    live(w, 0.5)
    print(f"after {min(EARLY, count // 2)} operations {early:.0f} MiB, after {count} {resident():.0f} MiB")
    assert w.session.case is not None
    if count > EARLY:
        assert resident() < GROWN * early
