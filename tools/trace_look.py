"""What one move of a knob goes through: ``python tools/trace_look.py [CASE]``.

The orange drop (or another case) is opened on a desk without a window and settled; then the knob of a restitution (or else the
first) is turned, once, and every function call of it is seen, on whichever thread. Printed are the modules that were entered,
without kernels, outcome files and painting, and how often the engine ran, the case's numbers were listed, a track was read, and
anything was imported.
"""

from __future__ import annotations

import sys
import threading
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path
from queue import Empty, SimpleQueue

from yapa.demo import DATA
from yapa.session.demo_cases import demo_copy
from yapa.session.desk import Desk

ROOT = Path(__file__).resolve().parent.parent / "src" / "yapa"
LEFT_OUT = ("engine/kernels", "outcomes/", "desktop/")


@dataclass
class Trace:
    """What was seen: files entered, functions called by file, modules that were imported."""

    files: set[str] = field(default_factory=set)
    calls: Counter[tuple[str, str]] = field(default_factory=Counter)
    imported: list[str] = field(default_factory=list)

    @property
    def modules(self) -> list[str]:
        """Modules entered, without kernels, outcome files and painting."""
        return sorted(f for f in self.files if not f.startswith(LEFT_OUT))

    @property
    def engine_runs(self) -> int:
        """Simulations."""
        return self.calls["engine/runner.py", "run"]

    @property
    def listings(self) -> int:
        """How often all numbers of the case were listed."""
        return self.calls["case/paths.py", "numbers"]

    @property
    def tracks_read(self) -> int:
        """How often a track was made arrays, or a motion."""
        return self.calls["tracking/track_data.py", "track_data"] + self.calls["fitting/initial/seen.py", "look"]


def settled(desk: Desk, waiting: SimpleQueue) -> None:
    """Hear what is delivered until nothing is under way."""
    while not desk.jobs.idle:
        try:
            waiting.get(timeout=0.01)()
        except Empty:
            continue


def trace(path: Path = DATA / "orange-drop.yapa") -> Trace:
    """Turn a knob of a settled case by a thousandth of its range."""
    waiting: SimpleQueue = SimpleQueue()
    desk = Desk(waiting.put)
    desk.open_case(demo_copy(path))
    settled(desk, waiting)
    unknown = next((u for u in desk.case.unknowns if u.path.endswith("restitution")), desk.case.unknowns[0])
    now = desk.preview.comparison.values[unknown.path]
    for k in (2, 1):  # what is made once is made
        desk.preview.preview_value(unknown.path, now - 1e-3 * k * (unknown.high - unknown.low))
        settled(desk, waiting)
    seen = Trace()
    before = set(sys.modules)

    def watch(frame, event, _arg) -> None:  # type: ignore[no-untyped-def]
        name = frame.f_code.co_filename
        if event == "call" and name.startswith(str(ROOT)):
            file = name[len(str(ROOT)) + 1 :]
            seen.files.add(file)
            seen.calls[file, frame.f_code.co_name] += 1

    _watch_looks(desk, watch)
    sys.setprofile(watch)
    desk.preview.preview_value(unknown.path, now - 2e-3 * (unknown.high - unknown.low))
    settled(desk, waiting)
    sys.setprofile(None)
    seen.imported = sorted(set(sys.modules) - before)
    desk.close()
    return seen


def _watch_looks(desk: Desk, watch) -> None:  # type: ignore[no-untyped-def]
    """Have the thread of the looks see its own calls."""
    begun = threading.Event()

    def begin(_job) -> None:  # type: ignore[no-untyped-def]
        sys.setprofile(watch)
        begun.set()

    desk.preview.run("watching", begin, lambda _found, _error: None)
    begun.wait(10)


if __name__ == "__main__":
    told = trace(*(Path(p) for p in sys.argv[1:2]))
    print("\n".join(told.modules))
    print(f"{len(told.modules)} modules; {told.engine_runs} engine runs, {told.listings} listings of the numbers, "
          f"{told.tracks_read} tracks read, imported: {', '.join(told.imported) or 'nothing'}")
