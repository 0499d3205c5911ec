"""Wall time of the demo fits, of a map, and what a second thread gives."""

from __future__ import annotations

import statistics
import time

import numpy as np

from yapa import api
from yapa.case import Target
from yapa.demo import DATA
from yapa.fitting.explore.sweep import axis_of, sweep
from yapa.outcomes import read

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


def map_of_drop(side: int = 64) -> tuple[int, float, float, float, float]:
    """Threads a map takes by itself and its seconds, those in one and in two threads, and those of as many single runs that read
    the same."""
    case = api.load(DATA / "orange-drop.yapa")
    axes = [axis_of(case, "pairs.rind+pad.restitution", 0.4, 0.8), axis_of(case, "bodies.orange.position.z", 1.0, 1.6)]
    asked = [Target(outcome="apex", index=2, body="orange")]

    def spent(threads: int | None) -> tuple[float, int]:
        begun = time.perf_counter()
        took = sweep(case, axes, asked, side, threads=threads).threads
        return time.perf_counter() - begun, took

    def single(share: tuple[float, float]) -> float:
        values = {axis.path: axis.low + s * (axis.high - axis.low) for axis, s in zip(axes, share, strict=True)}
        begun = time.perf_counter()
        read(api.simulate(case, values), "apex", "orange", 2)
        return time.perf_counter() - begun

    spent(1)
    seconds: dict[int | None, list[tuple[float, int]]] = {None: [], 1: [], 2: []}
    singles = []
    for part in np.array_split(np.random.default_rng(1).random((300, 2)), 9):
        for threads, taken in seconds.items():
            taken.append(spent(threads))
        singles += [single(tuple(share)) for share in part.tolist()]
    own, one, two = (statistics.median(t for t, _ in taken) for taken in seconds.values())
    return seconds[None][0][1], own, one, two, side * side * statistics.fmean(singles)
