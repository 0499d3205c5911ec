"""A target that is missed: by how much, when it was nearest, and which unlocked number would meet it.

The number is looked for among the free ones: the outcome's slope says how far each would have to move, the nearest in its range is
run, and corrected once by the secant; it is named if the target is met there.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import numpy as np

from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.case.parameters import get_number
from yapa.case.quantities import label_of, quantity_of
from yapa.case.units import amount_text
from yapa.case.unknowns import Unknown, from_unit_box, to_unit_box
from yapa.engine.simulate import simulate
from yapa.errors import YapaError
from yapa.findings.base import Finding, Mend, set_number
from yapa.findings.registry import motion_check
from yapa.motion import Motion
from yapa.outcomes import OutcomeValue, read_target
from yapa.outcomes.judging import deviation, is_met, target_body
from yapa.outcomes.kinds.closest_approach import nearest
from yapa.outcomes.query import OutcomeQuery
from yapa.outcomes.target_form import wanted_range

STEP = 1e-3
"""of the range: of the slope"""
TRIES = 3
"""runs towards a number that meets it"""
EVENT_POINTS = 8
"""values between where a number stands and the end of its range, at which an event is looked for"""
UNKNOWNS_TRIED = 6
"""numbers that are tried for one target"""


@motion_check
def check(case: Case, motion: Motion) -> Iterator[Finding]:
    """Every target that is not met."""
    for target in case.targets:
        try:
            body = target_body(case, target)
            value = read_target(motion, body, target)
        except YapaError:  # what is wrong with the target itself is said where it is used
            continue
        if is_met(target, value):
            continue
        help_ = _helpful(case, target, body, value)
        yield Finding("target missed", target.label, _how(target, value), _why(motion, target, body, value, help_),
                      mend=None if help_ is None else Mend(f"set {label_of(help_[0])} to {_text(help_)}", set_number(*help_)))


def _how(target: Target, value: OutcomeValue) -> str:
    if value.value is None:
        return f"wanted {target.wanted}; it does not occur: {value.missing}"
    if target.condition == "never":
        return f"it happens, at {amount_text(value.value, target.unit)}, and never should"
    off = deviation(target, value.value)
    gap = amount_text(abs(off), target.unit, ".3g")
    return f"wanted {target.wanted}; it is {amount_text(value.value, target.unit)}, {gap} too {'large' if off > 0 else 'small'}"


def _why(motion: Motion, target: Target, body: str, value: OutcomeValue, help_: tuple[str, float] | None) -> str:
    parts = []
    if target.outcome in ("miss", "inside", "hit") and body in motion.names and (target.point or target.partner in motion.names):
        gap, when = nearest(motion, body, OutcomeQuery.of(target))
        parts.append(f"it comes nearest, within {gap:.3g} m, at {when:.3g} s")
    if help_ is not None:
        parts.append(f"{label_of(help_[0])} at {_text(help_)} would meet it")
    elif not parts:
        alone = "no unlocked number alone is seen to meet it"
        parts.append("something must keep them apart" if target.condition == "never" else alone)
    return "; ".join(parts)


def _text(number: tuple[str, float]) -> str:
    return amount_text(number[1], quantity_of(number[0]).unit, ".5g")


def _helpful(case: Case, target: Target, body: str, here: OutcomeValue) -> tuple[str, float] | None:
    """The unlocked number that meets a target with the least move of its range, and where."""
    if target.condition == "never":
        return None
    moves: list[tuple[float, Unknown]] = []
    for unknown in [u for u in case.unknowns if not u.fixed][:UNKNOWNS_TRIED]:
        u = to_unit_box(unknown, get_number(case, unknown.path))
        step = STEP if u + STEP <= 1.0 else -STEP
        there = _read(case, target, body, {unknown.path: from_unit_box(unknown, u + step)})
        slope = (_followed(target, there) - _followed(target, here)) / step
        move = (_aim(target, here) - _followed(target, here)) / slope if slope else np.inf
        if 0.0 <= u + move <= 1.0 or (target.condition == "happens" and slope):
            moves.append((move, unknown))
    found_at = _happens_at if target.condition == "happens" else _met_at
    for move, unknown in sorted(moves, key=lambda one: abs(one[0]))[:2]:
        found = found_at(case, target, body, here, unknown, move)
        if found is not None:
            return found
    return None


def _happens_at(case: Case, target: Target, body: str, _: OutcomeValue, unknown: Unknown, move: float) -> tuple[str, float] | None:
    """The nearest of some values on the side on which the event comes nearer: its shortfall may jump where it begins."""
    u = to_unit_box(unknown, get_number(case, unknown.path))
    for there in np.linspace(u, 1.0 if move > 0 else 0.0, EVENT_POINTS + 1)[1:]:
        number = from_unit_box(unknown, float(there))
        if is_met(target, _read(case, target, body, {unknown.path: number})):
            return unknown.path, number
    return None


def _met_at(case: Case, target: Target, body: str, here: OutcomeValue, unknown: Unknown, move: float) -> tuple[str, float] | None:
    u0 = to_unit_box(unknown, get_number(case, unknown.path))
    a, fa, b = u0, _followed(target, here), u0 + move
    for _ in range(TRIES):
        number = from_unit_box(unknown, b)
        value = _read(case, target, body, {unknown.path: number})
        if is_met(target, value):
            return unknown.path, number
        fb = _followed(target, value)
        if fb == fa:
            return None
        a, fa, b = b, fb, float(np.clip(b + (_aim(target, value) - fb) * (b - a) / (fb - fa), 0.0, 1.0))
    return None


def _followed(target: Target, value: OutcomeValue) -> float:
    """The number that is brought to its aim: the value, or how far an event is from happening."""
    return -value.shortfall if target.condition == "happens" else value.value_or_surrogate


def _aim(target: Target, value: OutcomeValue) -> float:
    """What is aimed at: a little inside the wanted range; of an event, no shortfall."""
    if target.condition == "happens":
        return 0.0
    if target.condition == "equal":
        return target.value
    low, high = wanted_range(target)
    inside = 0.1 * min(target.tolerance, high - low)
    return min(max(value.value_or_surrogate, low + inside), high - inside)


def _read(case: Case, target: Target, body: str, values: Mapping[str, float]) -> OutcomeValue:
    return read_target(simulate(case, dict(values)), body, target)
