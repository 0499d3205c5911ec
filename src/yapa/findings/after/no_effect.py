"""An unknown that changes nothing, and why."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from yapa.case.model import Case
from yapa.case.paths import get_number
from yapa.case.quantities import quantity_of
from yapa.engine.simulate import simulate
from yapa.findings.base import Finding
from yapa.motion import Motion

MOST_STEPS = 20_000
"""Steps of all the runs together that are worth an answer nobody asked for"""


def check(case: Case, motion: Motion) -> Iterator[Finding]:
    """Turned by a tenth of its range, the motion stays the same to a micrometre."""
    free = [unknown for unknown in case.unknowns if not unknown.locked]
    if motion.steps * len(free) > MOST_STEPS:
        yield Finding("no effect not tried", "unknowns", "whether each unknown changes the motion was not tried",
                      f"a run takes {motion.steps:,} steps, and {len(free)} more of them would be needed", "note")
        return
    for unknown in free:
        now = get_number(case, unknown.path)
        step = 0.1 * (unknown.high - unknown.low)
        other = now + step if now + step <= unknown.high else now - step
        if other <= 0 and unknown.scale == "log":
            other = 1.1 * now
        quantity = quantity_of(unknown.path)
        other = min(max(other, quantity.least), quantity.most)
        if other == now:
            continue
        turned = simulate(case, {unknown.path: other}, times=motion.times)
        if (
            len(turned.states) == len(motion.states)
            and float(np.abs(turned.states[:, :, :7] - motion.states[:, :, :7]).max()) < 1e-6
        ):
            yield Finding(
                "no effect", unknown.path, f"from {now:.4g} to {other:.4g} nothing changes", _why(case, motion, unknown.path)
            )


def _why(case: Case, motion: Motion, path: str) -> str:
    parts, what = path.split("."), path.split(".")[-1]
    hits = motion.contacts
    if what in ("mass", "density"):
        return "a body's mass matters only where it meets another that moves, is pushed, or drags in air"
    if what in ("friction", "dynamic_friction"):
        if not hits and not motion.phases:
            return "nothing touches, and friction acts only in contact"
        if all(phase.mode == "grips" for phase in motion.phases) and all(c.slip_after < 1e-6 for c in hits):
            return "every contact grips already; more friction cannot hold better"
        return "no contact slips along its surface"
    if what in ("restitution", "rolling_resistance", "spinning_resistance"):
        if not hits and not motion.phases:
            return "nothing touches in this clip"
        return "nothing bounces there" if what == "restitution" else "nothing rolls there"
    if what == "drag_coefficient" or parts[0] == "air":
        return "the air has no density, or nothing moves fast in it"
    return "nothing in this clip depends on it"
