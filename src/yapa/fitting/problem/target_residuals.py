"""Targets beside a motion: residuals that a fit follows, slack for a search along constraints, and whether a target is met."""

from __future__ import annotations

from yapa.case.evidence import Target
from yapa.fitting.problem.result import TargetReport
from yapa.motion import Array, Motion
from yapa.outcomes import read_target
from yapa.outcomes.judging import deviation, is_met, missed_by
from yapa.outcomes.reading import outcome_named
from yapa.outcomes.target_form import TargetForm, usual_form
from yapa.outcomes.value import OutcomeValue


def form_of(target: Target) -> TargetForm:
    """Return the form in which a search follows a target.

    Parameters
    ----------
    target : the wanted outcome
    """
    if target.each is not None:
        return usual_form(target)
    return outcome_named(target.outcome).forms.get(target.condition) or usual_form(target)


def target_residual(motion: Motion, target: Target, body: str) -> Array:
    """Return the residuals of a target in tolerances, (R,): misses, then a graded shortfall.

    Parameters
    ----------
    motion : simulated or measured motion
    target : the wanted outcome
    body : name of the body
    """
    return form_of(target).residuals(motion, target, body, read_target)


def constraint_slack(motion: Motion, target: Target, body: str) -> tuple[Array, Array]:
    """Return equality residuals (to be zero) and inequality slacks (to be ≥ 0) of a target, in tolerances.

    Unlike the residuals these go on changing inside the bounds, so that a search can walk along them.

    Parameters
    ----------
    motion : simulated or measured motion
    target : the wanted outcome
    body : name of the body
    """
    return form_of(target).slack(motion, target, body, read_target)


def acceptance_band(target: Target) -> Array:
    """Return, for every residual of a target, up to where it is met well, in tolerances.

    Parameters
    ----------
    target : the wanted outcome
    """
    return form_of(target).acceptance(target)


def evaluate_target(target: Target, body: str, value: OutcomeValue) -> TargetReport:
    """Return a target beside what happens.

    Parameters
    ----------
    target : the wanted outcome
    body : name of the body
    value : its value
    """
    miss = None if missed_by(target, value) is None else deviation(target, value.value or 0.0) / target.tolerance
    return TargetReport(target, body, value.value, is_met(target, value), miss, value.missing)
