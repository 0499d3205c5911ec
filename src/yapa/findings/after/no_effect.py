"""An unknown that changes nothing, and why."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from yapa.case.model import Case
from yapa.case.parameter_path import parse_path
from yapa.case.parameters import get_number
from yapa.case.quantities import quantity_of
from yapa.engine.simulate import simulate
from yapa.findings.base import Finding
from yapa.findings.hidden import is_hidden, why_hidden
from yapa.findings.registry import motion_check
from yapa.motion import Motion
from yapa.motion.contacts import SlipState
from yapa.motion.info import Severity

MAX_STEPS = 20_000
"""Steps of all the runs together that are worth an answer nobody asked for"""


@motion_check
def check(case: Case, motion: Motion) -> Iterator[Finding]:
    """Turned by a tenth of its range, the motion stays the same to a micrometre."""
    free = [unknown for unknown in case.unknowns if not unknown.fixed]
    if motion.steps * len(free) > MAX_STEPS:
        yield Finding("no effect not tried", "unknowns", "whether each unknown changes the motion was not tried",
                      f"a run takes {motion.steps:,} steps, and {len(free)} more of them would be needed", Severity.NOTE)
        return
    for unknown in free:
        now = get_number(case, unknown.path)
        step = 0.1 * (unknown.high - unknown.low)
        other = now + step if now + step <= unknown.high else now - step
        if other <= 0 and unknown.transform == "log":
            other = 1.1 * now
        quantity = quantity_of(unknown.path)
        other = min(max(other, quantity.least), quantity.most)
        if other == now:
            continue
        turned = simulate(case, {unknown.path: other}, times=motion.times)
        if turned.states.size and turned.states.shape == motion.states.shape and float(
                np.abs(turned.states[:, :, :7] - motion.states[:, :, :7]).max()) < 1e-6:
            yield Finding(
                "no effect", unknown.path, f"from {now:.4g} to {other:.4g} nothing changes", _why(case, motion, unknown.path)
            )


def _why(case: Case, motion: Motion, path: str) -> str:
    what = parse_path(path).quantity
    low_high = [(u.low, u.high) for u in case.unknowns if u.path == path]
    if low_high and is_hidden(case, path, low_high[0]):
        return why_hidden(case, path)
    hits = motion.contacts
    if what in ("mass", "density"):
        return "a body's mass matters only where it meets another that moves, is pushed, or drags in air"
    if what in ("friction", "dynamic_friction"):
        if not hits and not motion.contact_intervals:
            return "nothing touches, and friction acts only in contact"
        if all(phase.mode == SlipState.STICK for phase in motion.contact_intervals) and all(c.slip_after < 1e-6 for c in hits):
            return "every contact grips already; more friction cannot hold better"
        return "no contact slips along its surface"
    if what in ("restitution", "rolling_resistance", "spinning_resistance"):
        if not hits and not motion.contact_intervals:
            return "nothing touches in this clip"
        return _why_not_restitution(case, motion, path) if what == "restitution" else "nothing rolls there"
    if what == "drag_coefficient" or parse_path(path).section == "air":
        return "the air has no density, or nothing moves fast in it"
    return "nothing in this clip depends on it"


def _why_not_restitution(case: Case, motion: Motion, path: str) -> str:
    """What met with these surfaces: nothing, only slower than the cut-off, or something that the number does not decide."""
    parts = parse_path(path)
    surfaces = parts.owner.split("+") if parts.section == "pairs" else [parts.owner]
    one, *rest = [{name for name, body in case.bodies.items() if any(s.surface == surface for s in body.shapes)}
                  for surface in surfaces]
    other = rest[0] if rest else set(case.bodies)
    met = [c for c in motion.contacts if (c.body in one and c.partner in other) or (c.partner in one and c.body in other)]
    if not met:
        return "nothing meets there in this clip"
    fastest, cutoff = max(c.approach for c in met), case.profile.restitution_threshold
    if fastest < cutoff:
        return f"the fastest contact there is at {fastest:.3g} m/s, and nothing bounces below the cut-off speed, {cutoff:.3g} m/s"
    if max(c.rebound for c in met) <= 0.0:
        return "nothing bounces there"
    return "what bounces there does so by the numbers of other pairs, or only after the clip's last sample"
