"""A body, launch or target off the plane in which the others lie."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from yapa.case.model import Case
from yapa.findings.base import Finding, Mend, movers, set_number
from yapa.findings.registry import case_check
from yapa.motion.info import Severity


@case_check
def check(case: Case) -> Iterator[Finding]:
    """Everything lies in one vertical plane along x but for a little: a miss in depth looks like a hit from the side."""
    placed = {
        name: body.position
        for name, body in case.bodies.items()
        if all(s.kind != "plane" for s in body.shapes) and body.motion != "static"
    }
    if len(placed) < 2:
        return
    y = {name: place[1] for name, place in placed.items()}
    usual = float(np.median(list(y.values())))
    spread = float(np.ptp([place[0] for place in placed.values()])) or 1.0
    for name in movers(case):
        off = y[name] - usual
        if 0 < abs(off) < 0.2 * spread and sum(abs(v - usual) < 1e-9 for v in y.values()) >= len(y) - 1:
            yield Finding(
                "off the plane",
                name,
                "it may pass beside what it is to meet",
                f"it starts {off:.3g} m off the plane y = {usual:g} m of the others",
                Severity.NOTE,
                Mend(f"put it at y = {usual:g} m", set_number(f"bodies.{name}.position.y", usual)),
            )
