"""How long it slides on a support, and how long before it rolls."""

from __future__ import annotations

import numpy as np

from yapa.motion import Motion
from yapa.motion.contacts import SlipState
from yapa.outcomes.query import OutcomeQuery
from yapa.outcomes.registry import outcome
from yapa.outcomes.value import OutcomeValue, missing_event


def _frame(motion: Motion) -> float:
    return float(np.median(np.diff(motion.times)))


@outcome("slide time", "s", "how long it slips in contact")
def slide_time(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Time in contact while slipping [s]."""
    phases = motion.contact_intervals_of(body)
    if not phases:
        return missing_event("it never stays on a support", 0.0, 0.0)
    total = sum(p.end - p.start for p in phases if p.mode == SlipState.SLIP)
    return OutcomeValue(total, 4 * _frame(motion) if motion.measured else 0.0)


@outcome("slide to roll", "s", "how long it slides on its support before it rolls")
def slide_to_roll(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """From the first slide on a support to the moment it grips [s]."""
    phases = motion.contact_intervals_of(body)
    slides = [p for p in phases if p.mode == SlipState.SLIP]
    if not slides:
        return missing_event("it never slides on a support", 0.0, 0.0)
    first = slides[0]
    if any(a <= first.end and first.start <= b for a, b in motion.unresolved_intervals):
        return missing_event("not resolved: it still bounces, faster than the frames tell, where it seems to slide", 0.0, 0.0)
    grips = [p.start for p in phases if p.mode == SlipState.STICK and p.start >= first.start]
    if not grips:
        return missing_event("it slides to the end", first.end - first.start, 0.0)
    return OutcomeValue(grips[0] - first.start, 4 * _frame(motion) if motion.measured else 0.0)
