"""Wall time of the demo fits, of a map, and what a second thread gives."""

from __future__ import annotations

import statistics
import time

from yapa import api
from yapa.case import Target
from yapa.demo import DATA
from yapa.fitting.sweep import axis_of, sweep

FITS = ("orange-drop", "orange-throw", "crate-chute", "grapefruit-lane", "lemons-nudge")


def demo_fits() -> dict[str, float]:
    """Median seconds of a warm fit of each demo case."""
    out = {}
    for name in FITS:
        case = api.load(DATA / f"{name}.yapa")
        api.fit(case)
        spent = []
        for _ in range(3):
            begun = time.perf_counter()
            api.fit(case)
            spent.append(time.perf_counter() - begun)
        out[name] = statistics.median(spent)
    return out


def map_of_drop(side: int = 64) -> tuple[float, float, float]:
    """Seconds of a map in one and in two threads, and of as many single runs that read the same outcome."""
    case = api.load(DATA / "orange-drop.yapa")
    axes = [axis_of(case, "pairs.rind+pad.restitution", 0.4, 0.8), axis_of(case, "bodies.orange.position.z", 1.0, 1.6)]
    asked = [Target(outcome="apex", index=2, body="orange")]

    def spent(threads: int) -> float:
        begun = time.perf_counter()
        sweep(case, axes, asked, side, threads=threads)
        return time.perf_counter() - begun

    spent(1)
    singles = []
    from yapa.outcomes import read

    for k in range(200):
        begun = time.perf_counter()
        read(
            api.simulate(case, {"pairs.rind+pad.restitution": 0.4 + 0.002 * k, "bodies.orange.position.z": 1.0 + 0.003 * k}),
            "apex",
            "orange",
            2,
        )
        singles.append(time.perf_counter() - begun)
    return spent(1), spent(2), side * side * statistics.fmean(singles)
