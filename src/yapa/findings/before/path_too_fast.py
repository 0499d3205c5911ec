"""A driven path that goes at a speed that nothing in a packing house has: keys too close in time, or places in another unit."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from yapa.case.model import Case
from yapa.case.scene import Body
from yapa.findings.base import Finding, Mend, set_body
from yapa.findings.registry import case_check

ABSURD = 100.0
"""m/s: faster than this between two keys is taken for a slip"""
USUAL = 2.0
"""m/s: what the mend brings the fastest stretch to"""


@case_check
def check(case: Case) -> Iterator[Finding]:
    """The fastest stretch between two keys of every driven body."""
    for name, body in case.bodies.items():
        stretches = _speeds(body)
        if not stretches:
            continue
        speed, at = max(stretches)
        if speed > ABSURD:
            slower = speed / USUAL
            keys = tuple(key.model_copy(update={"time": key.time * slower}) for key in body.keyframes)
            yield Finding("path too fast", name, f"its path goes at {speed:.3g} m/s from {at:.3g} s on",
                          f"more than {ABSURD:g} m/s between two keys; are its places in metres and its times in seconds?",
                          mend=Mend(f"stretch its times by {slower:.3g}", set_body(name, keyframes=keys)))


def _speeds(body: Body) -> list[tuple[float, float]]:
    """Speed [m/s] of every stretch between two keys, and when it begins [s]."""
    return [(float(np.linalg.norm(np.array(b.position) - np.array(a.position)) / (b.time - a.time)), a.time)
            for a, b in zip(body.keyframes, body.keyframes[1:], strict=False)]
