"""Simulated and measured motions, what they come to, and what closed forms say of them."""

from __future__ import annotations

from typing import Any

import numpy as np

from yapa.case.model import Case
from yapa.case.takes import case_of
from yapa.engine import program_for
from yapa.fitting.initial.seen import look
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Motion
from yapa.outcomes import SHORT, OutcomeValue, measure
from yapa.outcomes.theory import Prediction, predictions


def measured_motions(case: Case) -> dict[str, Motion]:
    """Every track of a case as a motion, by the track's name."""
    if not case.tracks:
        return {}
    takes = [case_of(case, take) for take in case.takes] or [case]
    return {seen.data.name: seen.motion for one in takes for seen in look(FitProblem(one, look_only=True))}


def measure_motion(motion: Motion, every: bool = False) -> dict[str, dict[str, OutcomeValue]]:
    """Outcomes of every moving body: a first look, or all that need to be told nothing but a number."""
    return {body: measure(motion, body, None if every else SHORT) for body in motion.movers() if body in motion.paths}


def predict(case: Case, motion: Motion) -> dict[str, dict[str, Prediction]]:
    """What closed forms say of every moving body of a simulated motion."""
    program = program_for(case)

    def law(a: str, b: str) -> dict[str, float]:
        return program.law_between(case.bodies[a].shapes[0].surface, case.bodies[b].shapes[0].surface)

    return {body: predictions(motion, body, law) for body in motion.movers() if body in motion.paths}


def contact_rows(motion: Motion) -> list[dict[str, Any]]:
    """The contact log as plain rows."""
    return [
        {"time": c.time, "time_std": c.time_std, "body": c.body, "partner": c.partner,
         "point": np.asarray(c.point).tolist(), "normal": np.asarray(c.normal).tolist(), "approach_speed": c.approach,
         "rebound_speed": None if np.isnan(c.rebound) else c.rebound, "slip_before": c.slip_before, "slip_after": c.slip_after,
         "normal_impulse": c.normal_impulse, "friction_impulse": c.friction_impulse}
        for c in motion.contacts
    ]


def reading_dict(reading: OutcomeValue) -> dict[str, Any]:
    """A reading as plain data."""
    return {"value": reading.value, "std": reading.std, "missing": reading.missing}
