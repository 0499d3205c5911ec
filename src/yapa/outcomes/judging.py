"""Whether an outcome is what a target wants, and how far it is from it."""

from __future__ import annotations

from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.case.outcome_text import FORMULA, bodies_in
from yapa.errors import bad_input
from yapa.outcomes.target_form import wanted_range
from yapa.outcomes.value import OutcomeValue

ROUNDOFF_SLACK = 1e-9
"""of a tolerance, of one at least: a bound that is missed by less is met"""


def deviation(target: Target, value: float) -> float:
    """Return how far a value is from what is wanted, in units of the outcome: negative below, positive above, 0 inside.

    Parameters
    ----------
    target : the wanted outcome
    value : its value
    """
    low, high = wanted_range(target)
    if target.condition == "equal":
        return value - target.value
    if value < low:
        return value - low
    return value - high if value > high else 0.0


def is_met(target: Target, value: OutcomeValue) -> bool:
    """Return whether a target is met.

    Parameters
    ----------
    target : the wanted outcome
    value : its value
    """
    if target.condition == "never":
        return value.value is None
    if value.value is None:
        return False
    low, high = wanted_range(target)
    slack = ROUNDOFF_SLACK * max(1.0, abs(target.tolerance))
    return low - slack <= value.value <= high + slack


def missed_by(target: Target, value: OutcomeValue) -> float | None:
    """Return how far a value is outside what is wanted, in its unit; None where there is no value to compare.

    Parameters
    ----------
    target : the wanted outcome
    value : its value
    """
    if value.value is None or target.condition in ("happens", "never"):
        return None
    return abs(deviation(target, value.value))


def target_body(case: Case, target: Target) -> str:
    """Return the body whose outcome a target asks for.

    Parameters
    ----------
    case : the case
    target : the wanted outcome

    Raises
    ------
    InputError
        If it does not move, or is not named where several move.
    """
    movers = case.dynamic_bodies()
    if target.body is not None:
        if target.body not in (case.groups if target.each is not None else case.bodies):
            raise bad_input(f"target {target.label}", f"no {'group' if target.each is not None else 'body'} {target.body!r}",
                            f"one of {', '.join(case.groups if target.each is not None else case.bodies)}")
        return target.body
    if target.outcome == FORMULA:  # its terms name their bodies, or there is one that moves
        named = bodies_in(str(target.argument(FORMULA)))
        if named:
            return next((body for body in named if body in movers), named[0])
    tracked = [t.body for t in case.tracks]
    if len(movers) == 1 or not tracked:
        if len(movers) != 1:
            raise bad_input(f"target {target.label}", f"no body named and {len(movers)} that move",
                            "the name of a body in front of the outcome")
        return movers[0]
    return tracked[0] if len(set(tracked)) == 1 else movers[0]
