"""How far a motion is from what a target wants, as numbers that a search can follow.

A form gives the residuals of a target: how far the value is outside what is wanted, in tolerances, and how far a missing event is
from
happening. Bounds are hinges. An event that must never happen is pushed to later, and out. An outcome whose value has no slope that
a
search can follow brings a form of its own (``Outcome.forms``).
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

import numpy as np

from yapa.case.evidence import Target
from yapa.motion import Array, Motion
from yapa.outcomes.value import OutcomeValue

BOUND_MARGIN = 0.02
"""of a tolerance: how far inside a bound is aimed at"""
SLACK = 1e-3
"""of a tolerance: room that is left where a target is met and has no more to say"""
SHORTFALL_TOLERANCE = 0.02
"""a missing event counts this much of a logarithm of speed as one tolerance"""
MAX_SLACK = 10.0
"""tolerances: room beyond which a bound says no more"""

ReadTarget = Callable[[Motion, str, Target], OutcomeValue]


class TargetForm(Protocol):
    """The numbers of a target that a search follows; as many for a target whatever the motion."""

    def residuals(self, motion: Motion, target: Target, body: str, read: ReadTarget) -> Array:
        """Return misses in tolerances, then a graded shortfall.

        Parameters
        ----------
        motion : simulated or measured motion
        target : the wanted outcome
        body : name of the body
        read : reads the outcome of a motion
        """

    def slack(self, motion: Motion, target: Target, body: str, read: ReadTarget) -> tuple[Array, Array]:
        """Return equality residuals (to be zero) and inequality slacks (to be at least zero), in tolerances.

        Parameters
        ----------
        motion : simulated or measured motion
        target : the wanted outcome
        body : name of the body
        read : reads the outcome of a motion
        """

    def acceptance(self, target: Target) -> Array:
        """Return, for every residual, up to where the target is met well, in tolerances.

        Parameters
        ----------
        target : the wanted outcome
        """


def wanted_range(target: Target) -> tuple[float, float]:
    """Return the least and the greatest value that meet a target, in its unit.

    Parameters
    ----------
    target : the wanted outcome
    """
    infinite = float("inf")
    if target.condition == "equal":
        return target.value - target.tolerance, target.value + target.tolerance
    if target.condition == "within":
        return target.value, target.upper if target.upper is not None else infinite
    if target.condition == "at least":
        return target.value, infinite
    return (-infinite, target.value) if target.condition == "at most" else (-infinite, infinite)


def margin_of(target: Target) -> float:
    """Return how far inside its bounds a target is aimed at, in its unit.

    Parameters
    ----------
    target : the wanted outcome
    """
    low, high = wanted_range(target)
    return min(BOUND_MARGIN * target.tolerance, 0.1 * (high - low))


class ScalarForm:
    """The usual form: one miss and one shortfall. Bounds are aimed at a little inside, so that what is found meets them."""

    def residuals(self, motion: Motion, target: Target, body: str, read: ReadTarget) -> Array:
        """See :class:`TargetForm`."""
        value = read(motion, body, target)
        short = value.shortfall / SHORTFALL_TOLERANCE
        return np.array([_aimed(target, value.value_or_surrogate) / target.tolerance, short])

    def slack(self, motion: Motion, target: Target, body: str, read: ReadTarget) -> tuple[Array, Array]:
        """See :class:`TargetForm`."""
        value = read(motion, body, target)
        here = SLACK - value.shortfall / SHORTFALL_TOLERANCE
        if target.condition == "equal":
            return np.array([(value.value_or_surrogate - target.value) / target.tolerance]), np.array([here])
        low, high = wanted_range(target)
        margin = margin_of(target)
        ends = np.array([value.value_or_surrogate - low - margin, high - margin - value.value_or_surrogate]) / target.tolerance
        return np.zeros(0), np.array([*np.minimum(ends, MAX_SLACK), here])

    def acceptance(self, target: Target) -> Array:
        """See :class:`TargetForm`."""
        if target.condition == "equal":
            return np.array([0.25, 0.5 * BOUND_MARGIN])
        return np.array([0.7 * BOUND_MARGIN, 0.5 * BOUND_MARGIN])


class EventForm:
    """The form of an event that is to happen, or never: without a value, by its shortfall alone."""

    def residuals(self, motion: Motion, target: Target, body: str, read: ReadTarget) -> Array:
        """See :class:`TargetForm`."""
        value = read(motion, body, target)
        if target.condition == "happens":
            return np.array([0.0, value.shortfall / SHORTFALL_TOLERANCE])
        if value.value is None:
            return np.zeros(2)
        later = max(0.0, motion.end - value.value) / motion.end if target.unit == "s" else 0.0
        return np.array([(1.0 + later) / SHORTFALL_TOLERANCE, 0.0])

    def slack(self, motion: Motion, target: Target, body: str, read: ReadTarget) -> tuple[Array, Array]:
        """See :class:`TargetForm`."""
        return np.zeros(0), SLACK - np.abs(self.residuals(motion, target, body, read))

    def acceptance(self, target: Target) -> Array:
        """See :class:`TargetForm`."""
        return np.array([0.7 * BOUND_MARGIN, 0.5 * BOUND_MARGIN])


SCALAR, EVENT = ScalarForm(), EventForm()


def usual_form(target: Target) -> TargetForm:
    """Return the form of a target whose outcome brings none.

    Parameters
    ----------
    target : the wanted outcome
    """
    return EVENT if target.condition in ("happens", "never") else SCALAR


def _aimed(target: Target, value: float) -> float:
    """How far a value is outside what is aimed at: bounds a little inside."""
    if target.condition == "equal":
        return value - target.value
    low, high = wanted_range(target)
    margin = margin_of(target)
    if value < low + margin:
        return value - low - margin
    return value - high + margin if value > high - margin else 0.0
