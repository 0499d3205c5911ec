"""The value of one number that meets a target: by the slope of the outcome and the secant; of an event, by a look along it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.case.parameters import get_number
from yapa.case.unknowns import Unknown, from_unit_box, to_unit_box
from yapa.engine.simulate import simulate
from yapa.outcomes import OutcomeValue, read_target
from yapa.outcomes.judging import is_met
from yapa.outcomes.target_form import wanted_range

STEP = 1e-3
"""of the range: of the slope"""
TRIES = 3
"""runs towards a number that meets it"""
EVENT_POINTS = 8
"""values between where a number stands and the end of its range, at which an event is looked for"""


def moves_towards(case: Case, target: Target, body: str, here: OutcomeValue, unknowns: Sequence[Unknown]
                  ) -> list[tuple[float, Unknown]]:
    """Return how far each number would have to move to meet a target, by the outcome's slope, the nearest first.

    Parameters
    ----------
    case : the case
    target : the wanted outcome
    body : whose outcome it is
    here : what it is now
    unknowns : numbers with their ranges; those that cannot reach it within are left out

    Returns
    -------
    Moves as parts of the range, and their numbers.
    """
    moves: list[tuple[float, Unknown]] = []
    for unknown in unknowns:
        u = to_unit_box(unknown, get_number(case, unknown.path))
        step = STEP if u + STEP <= 1.0 else -STEP
        there = _read(case, target, body, {unknown.path: from_unit_box(unknown, u + step)})
        slope = (_followed(target, there) - _followed(target, here)) / step
        move = (_aim(target, here) - _followed(target, here)) / slope if slope else np.inf
        if 0.0 <= u + move <= 1.0 or (target.condition == "happens" and slope):
            moves.append((move, unknown))
    return sorted(moves, key=lambda one: abs(one[0]))


def value_that_meets(case: Case, target: Target, body: str, here: OutcomeValue, unknown: Unknown, move: float) -> float | None:
    """Return the value of one number that meets a target; None where it is not found.

    Parameters
    ----------
    case : the case
    target : the wanted outcome
    body : whose outcome it is
    here : what it is now
    unknown : the number and its range
    move : how far it is moved at first, as a part of its range
    """
    found = _happens_at if target.condition == "happens" else _met_at
    return found(case, target, body, here, unknown, move)


def _happens_at(case: Case, target: Target, body: str, _: OutcomeValue, unknown: Unknown, move: float) -> float | None:
    """The nearest of some values on the side on which the event comes nearer: its shortfall may jump where it begins."""
    u = to_unit_box(unknown, get_number(case, unknown.path))
    for there in np.linspace(u, 1.0 if move > 0 else 0.0, EVENT_POINTS + 1)[1:]:
        number = from_unit_box(unknown, float(there))
        if is_met(target, _read(case, target, body, {unknown.path: number})):
            return number
    return None


def _met_at(case: Case, target: Target, body: str, here: OutcomeValue, unknown: Unknown, move: float) -> float | None:
    u0 = to_unit_box(unknown, get_number(case, unknown.path))
    a, fa, b = u0, _followed(target, here), u0 + move
    for _ in range(TRIES):
        number = from_unit_box(unknown, b)
        value = _read(case, target, body, {unknown.path: number})
        if is_met(target, value):
            return number
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
