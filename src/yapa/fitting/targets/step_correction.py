"""For a runtime: what the same numbers give in *precise*, and numbers for the runtime that give what precise gives.

Numbers found for a fixed step hold for that step. ``compare`` runs them in both profiles and lays the outcomes side by side: the
difference is the error of the step. ``corrected`` takes the outcomes of *precise* as targets and searches for the numbers with
which the stepped profile meets them, near the ones there are.
"""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Executor
from dataclasses import replace
from math import log1p

from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.case.outcome_specs import outcome_and_index, spec_of
from yapa.case.profiles import Precise, Stepped
from yapa.engine.simulate import simulate
from yapa.errors import bad_input
from yapa.fitting.confidence.robustness import Stepping, two_ways
from yapa.fitting.problem.cancel import Cancel
from yapa.fitting.problem.problem import MAX_SIMULATIONS
from yapa.fitting.problem.result import Progress
from yapa.fitting.targets.search import solve
from yapa.fitting.targets.solutions import Solutions
from yapa.outcomes import measure, read_target

TOLERANCES = {"m": 0.005, "s": 0.02, "m/s": 0.05, "rad": 0.02, "rad/s": 0.5, "": 0.01, "J": 0.01}
WANTED = ("apex", "landing", "rest time", "travel", "slide distance", "roll distance")
MOST = 6


def compare(case: Case, cancel: Cancel | None = None) -> Stepping:
    """Outcomes in the case's stepped profile, and in precise.

    Raises
    ------
    InputError
        If the case is in precise already.
    """
    _needs_step(case)
    there, notes = in_precise(case)
    return replace(two_ways(case, there, cancel), notes=notes)


def in_precise(case: Case) -> tuple[Case, tuple[str, ...]]:
    """The case in precise, with numbers whose unit is another there converted; and a sentence on each of those.

    A damping c that a stepped profile reads as 1 - c once a step of h, or as (1 - c)^t, is -ln(1 - c)/h or -ln(1 - c) per second.
    """
    profile, bodies, notes = case.profile, dict(case.bodies), []
    if isinstance(profile, Stepped) and profile.damping in ("factor per step", "power"):
        span = profile.step if profile.damping == "factor per step" else 1.0
        for name, body in case.bodies.items():
            if body.motion != "dynamic":
                continue
            for what in ("linear_damping", "angular_damping"):
                c = getattr(body, what)
                if 0 < c < 1:
                    rate = -log1p(-c) / span
                    bodies[name] = bodies[name].model_copy(update={what: rate})
                    a = f"a step of {span:.4g} s" if profile.damping == "factor per step" else "a second"
                    notes.append(f"{what.replace('_', ' ')} of {name}: {c:g} is the share lost {a}, {rate:.4g} per second in "
                                 "precise; that is a difference of units, no error of the step")
    return case.model_copy(update={"profile": Precise(), "bodies": bodies}), tuple(notes)


def corrected(case: Case, progress: Callable[[Progress], None] | None = None, cancel: Cancel | None = None, *,
              threads: int | None = None, executor: Executor | None = None, limit: int = MAX_SIMULATIONS) -> Solutions:
    """Numbers for the stepped profile with which it gives the outcomes that precise gives with the case's own.

    The case's targets say which outcomes; without any, those of a first look do (at most six).
    """
    _needs_step(case)
    wanted = case.model_copy(update={"targets": wanted_of(case, cancel)})
    return solve(wanted, progress, cancel, threads=threads, executor=executor, limit=limit)


def wanted_of(case: Case, cancel: Cancel | None = None) -> tuple[Target, ...]:
    """The outcomes of the case in precise, as targets.

    Raises
    ------
    Cancelled
        If stopping was asked for.
    """
    motion = simulate(in_precise(case)[0], cancel=None if cancel is None else cancel.flag)
    if cancel is not None:
        cancel.heed()
    out = []
    for target in case.targets:
        body = target.body or motion.movers()[0]
        reading = read_target(motion, body, target)
        if reading.value is not None:
            out.append(target.model_copy(update={"condition": "equal", "value": reading.value, "upper": None}))
    if out:
        return tuple(out)
    for body in motion.movers():
        for name, reading in measure(motion, body, WANTED).items():
            if reading.value is None or abs(reading.value) < 1e-6:
                continue
            outcome, index = outcome_and_index(name)
            out.append(Target(outcome=outcome, index=index, body=body, value=reading.value,
                              tolerance=TOLERANCES[spec_of(name).unit]))
    return tuple(out[:MOST])


def _needs_step(case: Case) -> None:
    if isinstance(case.profile, Precise):
        raise bad_input("profile", "precise", "a stepped profile, such as one that `yapa profiles` lists, to compare with precise")
