"""Simulated and measured motions, what they come to, and what closed forms say of them."""

from __future__ import annotations

from typing import Any

import numpy as np

from yapa.case.model import Case
from yapa.engine import program_for
from yapa.fitting.initial.seen import reconstruct_tracks
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.problem.result import TargetReport
from yapa.fitting.problem.target_residuals import evaluate_target
from yapa.motion import Motion
from yapa.outcomes import OutcomeValue, measure, read_target
from yapa.outcomes.judging import target_body
from yapa.outcomes.theory import Prediction, predictions


def measured_motions(case: Case) -> dict[str, Motion]:
    """Return every track of a case as a motion, by the track's name.

    Parameters
    ----------
    case : the case

    Returns
    -------
    dict of str to Motion
        Places [m] and velocities [m/s] of the body, with contacts and their standard deviations.

    Raises
    ------
    InputError
        If a track cannot be read as a motion of its body.

    Notes
    -----
    Flights are fitted between contacts found by optimal partitioning (Killick, Fearnhead & Eckley, Journal of the American
    Statistical
    Association 107, 2012). See ``docs/outcomes.md``.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> motion = next(iter(measured_motions(load(DATA / "orange-drop.yapa")).values()))
    >>> motion.measured, len(motion.contacts) > 2
    (True, True)
    """
    if not case.tracks:
        return {}
    takes = [case.for_take(take) for take in case.takes] or [case]
    return {seen.data.name: seen.motion for one in takes for seen in reconstruct_tracks(FitProblem(one, evaluate_only=True))}


def measure_motion(motion: Motion, every: bool = False) -> dict[str, dict[str, OutcomeValue]]:
    """Return the outcomes of every body of a motion.

    Parameters
    ----------
    motion : simulated or measured
    every : whether all outcomes that need no argument but a number are read, instead of a first look

    Returns
    -------
    dict of str to dict of str to OutcomeValue
        Body → outcome, with its number → value in SI units, or why there is none.

    Raises
    ------
    KeyError
        If the motion has a body without a trajectory.

    Notes
    -----
    The outcomes and their definitions stand in ``docs/outcomes.md``.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> outcomes = measure_motion(simulate(load(DATA / "orange-drop.yapa")))
    >>> round(outcomes["orange"]["apex 1"].value, 2)
    0.6
    """
    return {body: measure(motion, body,
                          None if every else ()) for body in motion.dynamic_bodies() if body in motion.trajectories}


def predict(case: Case, motion: Motion) -> dict[str, dict[str, Prediction]]:
    """Return what closed forms say of every moving body of a simulated motion.

    Parameters
    ----------
    case : the case
    motion : its simulated motion

    Returns
    -------
    dict of str to dict of str to Prediction
        Body → outcome → value in SI units with its formula, for the situations that are recognised.

    Raises
    ------
    Unsupported
        If the case asks for a meeting of shapes this engine cannot do.

    Notes
    -----
    The bounce series, sliding, rolling and the central hit, as in textbooks of mechanics; the formulas stand in
    ``outcomes/theory.py``.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> case = with_numbers(load(DATA / "orange-drop.yapa"), {"air.density": 0.0})
    >>> sorted(predict(case, simulate(case))["orange"])[0]
    'apex 1'
    """
    program = program_for(case)

    def law(a: str, b: str) -> dict[str, float]:
        return program.law_between(case.bodies[a].shapes[0].surface, case.bodies[b].shapes[0].surface)

    return {body: predictions(motion, body, law) for body in motion.dynamic_bodies() if body in motion.trajectories}


def contact_rows(motion: Motion) -> list[dict[str, Any]]:
    """Return the contact log as plain rows.

    Parameters
    ----------
    motion : simulated or measured motion
    """
    return [
        {"time": c.time, "time_std": c.time_std, "body": c.body, "partner": c.partner,
         "point": np.asarray(c.point).tolist(), "normal": np.asarray(c.normal).tolist(), "approach_speed": c.approach,
         "rebound_speed": None if np.isnan(c.rebound) else c.rebound, "slip_before": c.slip_before, "slip_after": c.slip_after,
         "normal_impulse": c.normal_impulse, "friction_impulse": c.friction_impulse}
        for c in motion.contacts
    ]


def reading_dict(reading: OutcomeValue) -> dict[str, Any]:
    """Return a reading as plain data.

    Parameters
    ----------
    reading : the outcome
    """
    return {"value": reading.value, "std": reading.std, "missing": reading.missing}


def judged(case: Case, motion: Motion) -> list[TargetReport]:
    """Return which targets of a case a motion meets, and by how much it misses the others.

    Parameters
    ----------
    case : the case
    motion : simulated, or measured with the bodies that the targets are about

    Returns
    -------
    A report of every target: what it is, whether that is met, and by how much it is missed.

    Raises
    ------
    InputError
        If a target names no body where several move.

    Notes
    -----
    A bound is met to a billionth of its tolerance.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> case = load(DATA / "orange-wanted.yapa")
    >>> [report.met for report in judged(case, simulate(case))]
    [False, False]
    """
    out = []
    for target in case.targets:
        body = target_body(case, target)
        if body in motion.names or target.each is not None:
            out.append(evaluate_target(target, body, read_target(motion, body, target)))
    return out
