"""How long it slides on a support, and how long before it rolls."""

from __future__ import annotations

import numpy as np

from yapa.motion import Motion
from yapa.outcomes.asked import Asked
from yapa.outcomes.value import OutcomeValue, absent


def _frame(motion: Motion) -> float:
    return float(np.median(np.diff(motion.times)))


def slide_time(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Time in contact while slipping [s]."""
    phases = motion.phases_of(body)
    if not phases:
        return absent("it never stays on a support", 0.0, 0.0)
    total = sum(p.end - p.start for p in phases if p.mode == "slides")
    return OutcomeValue(total, 4 * _frame(motion) if motion.measured else 0.0)


def slide_to_roll(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """From the first slide on a support to the moment it grips [s]."""
    phases = motion.phases_of(body)
    slides = [p for p in phases if p.mode == "slides"]
    if not slides:
        return absent("it never slides on a support", 0.0, 0.0)
    first = slides[0]
    if any(a <= first.end and first.start <= b for a, b in motion.unresolved):
        return absent("not resolved: it still bounces, faster than the frames tell, where it seems to slide", 0.0, 0.0)
    grips = [p.start for p in phases if p.mode == "grips" and p.start >= first.start]
    if not grips:
        return absent("it slides to the end", first.end - first.start, 0.0)
    return OutcomeValue(grips[0] - first.start, 4 * _frame(motion) if motion.measured else 0.0)
