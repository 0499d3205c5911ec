"""Reading outcomes from motions, simulated or measured alike."""

from __future__ import annotations

from typing import cast

from yapa.case.evidence import Target
from yapa.errors import bad_input
from yapa.motion import Motion
from yapa.outcomes.groups import over_group
from yapa.outcomes.query import OutcomeQuery
from yapa.outcomes.registry import CATALOGUE, Outcome
from yapa.outcomes.value import OutcomeValue

MAX_NUMBER = 12
"""of a numbered outcome in a table of all of them"""


def outcome_named(name: str) -> Outcome:
    """Return the outcome of a name.

    Parameters
    ----------
    name : its name

    Raises
    ------
    InputError
        If there is none of that name.
    """
    if name not in CATALOGUE:
        raise bad_input("outcome", repr(name), f"one of {', '.join(CATALOGUE)}")
    return CATALOGUE[name]


def _read(motion: Motion, body: str, name: str, query: OutcomeQuery) -> OutcomeValue:
    """An outcome, or that the track does not resolve it."""
    outcome = outcome_named(name)
    value = outcome.read(motion, body, query)
    if not motion.unresolved_intervals:
        return value
    at = motion.end if query.time is None else query.time
    lost = outcome.at_time and any(a < at <= b for a, b in motion.unresolved_intervals)
    if lost or outcome.spec.integer or outcome.whole_motion or (value.value is None and outcome.indexed):
        first = motion.unresolved_intervals[0][0]
        return OutcomeValue(None, None, f"not resolved: from {first:.3f} s contacts come too fast for the frames",
                            value.value_or_surrogate, value.shortfall)
    return value


def read(motion: Motion, name: str, body: str, index: int | None = None, query: OutcomeQuery | None = None) -> OutcomeValue:
    """Return one outcome of a motion.

    Parameters
    ----------
    motion : simulated or measured
    name : of the outcome
    body : whose
    index : which of a numbered outcome, from 1
    query : all its arguments, in place of ``index``

    Raises
    ------
    InputError
        If there is no outcome of that name.
    """
    return _read(motion, body, name, query) if query is not None else _of_index(motion, body, name, index)


def _of_index(motion: Motion, body: str, name: str, index: int | None = None) -> OutcomeValue:
    """An outcome without arguments but a number, read once for a motion."""
    key = (f"{name} {index}", body)
    if key not in motion.cache:
        motion.cache[key] = _read(motion, body, name, OutcomeQuery(index))
    return cast("OutcomeValue", motion.cache[key])


def read_target(motion: Motion, body: str, target: Target) -> OutcomeValue:
    """Return the outcome that a target is about.

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    target : the wanted outcome
    """
    query = OutcomeQuery.of(target)
    if target.each is None:
        return _read(motion, body, target.outcome, query)
    if body not in motion.groups or not all(name in motion.names for name in motion.groups[body]):
        return OutcomeValue(None, None, f"not all of {body} are here", 0.0, 0.0)
    return over_group(target, [_read(motion, name, target.outcome, query) for name in motion.groups[body]])


def first_look() -> tuple[str, ...]:
    """Return the names of the outcomes that are shown where only a few are."""
    return tuple(outcome.name for outcome in CATALOGUE.values() if outcome.first_look)


def measure(motion: Motion, body: str, only: tuple[str, ...] | None = ()) -> dict[str, OutcomeValue]:
    """Return outcomes of a body that need no argument but a number.

    Parameters
    ----------
    motion : simulated or measured
    body : whose
    only : names of outcomes; by default those of a first look, None for all of them
    """
    wanted = first_look() if only == () else only
    out: dict[str, OutcomeValue] = {}
    for outcome in CATALOGUE.values():
        if not outcome.needs_no_argument or (wanted is not None and outcome.name not in wanted):
            continue
        if not outcome.indexed:
            out[outcome.name] = _of_index(motion, body, outcome.name)
        elif outcome.count is not None:
            for k in range(1, min(outcome.count(motion, body), MAX_NUMBER) + 1):
                out[f"{outcome.name} {k}"] = _of_index(motion, body, outcome.name, k)
    return out
