"""How far a motion is from what a target wants: residuals a fit can follow, and whether it is met.

Every target gives two residuals: how far the value is outside what is wanted, in tolerances, and how far a missing
event is from happening. Bounds are hinges. A number of bounces is a hinge on the rebound speed of the last one wanted or
of the one too many. An event that must never happen is pushed to later, and out.
"""

from __future__ import annotations

from yapa.case.asking import ASKING
from yapa.case.evidence import Target
from yapa.fitting.result import TargetReport
from yapa.motion import Motion
from yapa.outcomes import read_target, rebounds
from yapa.outcomes.bounces import excess, shortfall
from yapa.outcomes.reading import Reading

SHORTFALL_TOLERANCE = 0.02
"""A missing event counts this much of a logarithm of speed as one tolerance."""


def outside(target: Target, value: float) -> float:
    """How far a value is from what is wanted, in units of the outcome: negative below, positive above, 0 inside."""
    low, high = wanted_range(target)
    if target.condition == "equal":
        return value - target.value
    if value < low:
        return value - low
    return value - high if value > high else 0.0


def wanted_range(target: Target) -> tuple[float, float]:
    """The least and the greatest value that meet a target."""
    infinite = float("inf")
    if target.condition == "equal":
        return target.value - target.tolerance, target.value + target.tolerance
    if target.condition == "within":
        return target.value, target.upper if target.upper is not None else infinite
    if target.condition == "at least":
        return target.value, infinite
    return (-infinite, target.value) if target.condition == "at most" else (-infinite, infinite)


def target_residual(motion: Motion, target: Target, body: str) -> tuple[float, float]:
    """Miss in tolerances, and a graded shortfall."""
    reading = read_target(motion, body, target)
    if target.condition == "happens":
        return 0.0, reading.shortfall / SHORTFALL_TOLERANCE
    if target.condition == "never":
        if reading.value is None:
            return 0.0, 0.0
        later = max(0.0, motion.end - reading.value) / motion.end if ASKING[target.outcome].unit == "s" else 0.0
        return (1.0 + later) / SHORTFALL_TOLERANCE, 0.0
    if target.outcome == "bounces":
        return _bounce_count(motion, target, body, reading.guide), 0.0
    return outside(target, reading.guide) / target.tolerance, reading.shortfall / SHORTFALL_TOLERANCE


def _bounce_count(motion: Motion, target: Target, body: str, now: float) -> float:
    low, high = wanted_range(target)
    if low - 1e-9 <= now <= high + 1e-9:
        return 0.0
    speeds = [b.speed for b in rebounds(motion, body) if b.speed > 0]
    if now < low:
        n = int(-(-low // 1))
        return shortfall(motion, speeds[n - 1] if len(speeds) >= n else 1e-3) / SHORTFALL_TOLERANCE
    n = int(high // 1)
    return excess(motion, speeds[n] if len(speeds) > n else 1e-3) / SHORTFALL_TOLERANCE


def met(target: Target, reading: Reading) -> bool:
    """Whether a target is met."""
    if target.condition == "never":
        return reading.value is None
    if reading.value is None:
        return False
    low, high = wanted_range(target)
    slack = 1e-9 * max(1.0, abs(target.tolerance))
    return low - slack <= reading.value <= high + slack


def missed_by(target: Target, reading: Reading) -> float | None:
    """How far a value is outside what is wanted, or None where there is no value to compare."""
    if reading.value is None or target.condition in ("happens", "never"):
        return None
    return abs(outside(target, reading.value))


def judge(target: Target, body: str, reading: Reading) -> TargetReport:
    """A target beside what happens."""
    miss = None if missed_by(target, reading) is None else outside(target, reading.value or 0.0) / target.tolerance
    return TargetReport(target, body, reading.value, met(target, reading), miss, reading.missing)
