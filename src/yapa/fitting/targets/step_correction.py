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
from yapa.fitting.confidence.robustness import StepSensitivity, compare_outcomes
from yapa.fitting.problem.cancel import Cancel
from yapa.fitting.problem.problem import MAX_SIMULATIONS
from yapa.fitting.problem.result import Progress
from yapa.fitting.targets.solutions import Solutions
from yapa.fitting.targets.solve import solve
from yapa.outcomes import measure, read_target

TOLERANCES = {"m": 0.005, "s": 0.02, "m/s": 0.05, "rad": 0.02, "rad/s": 0.5, "": 0.01, "J": 0.01}
WANTED = ("apex", "landing", "rest time", "travel", "slide distance", "roll distance")
"""outcomes that the correction asks for where the case has no targets"""
MAX_TARGETS = 6
"""targets that the correction asks for"""


def compare(case: Case, cancel: Cancel | None = None) -> StepSensitivity:
    """Return outcomes in the case's stepped profile, and in precise.

    Parameters
    ----------
    case : in a stepped profile
    cancel : stops it where it is set

    Returns
    -------
    Stepping
        Name and both values of every outcome of a first look, in SI units, and notes on numbers whose unit differs.

    Raises
    ------
    InputError
        If the case is in precise already.

    Notes
    -----
    A damping c that the profile reads as 1 - c once a step of h, or as (1 - c)^t, is compared at -ln(1 - c)/h or -ln(1 - c) per
    second.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> from yapa.case import PRESETS
    >>> case = load(DATA / "orange-drop.yapa").model_copy(update={"profile": PRESETS["60 Hz, 1 substep, 10 iterations"]})
    >>> [name for name, stepped, precise in compare(case).rows][0]
    'orange apex 1'
    """
    _needs_step(case)
    there, notes = in_precise(case)
    return replace(compare_outcomes(case, there, cancel), notes=notes)


def in_precise(case: Case) -> tuple[Case, tuple[str, ...]]:
    """Return the case in precise, with numbers whose unit is another there converted; and a sentence on each of those.

    A damping c that a stepped profile reads as 1 - c once a step of h, or as (1 - c)^t, is -ln(1 - c)/h or -ln(1 - c) per second.

    Parameters
    ----------
    case : the case
    """
    profile, bodies, notes = case.profile, dict(case.bodies), []
    if isinstance(profile, Stepped) and profile.damping in ("per_step", "power"):
        span = profile.step if profile.damping == "per_step" else 1.0
        for name, body in case.bodies.items():
            if body.motion != "dynamic":
                continue
            for what in ("linear_damping", "angular_damping"):
                c = getattr(body, what)
                if 0 < c < 1:
                    rate = -log1p(-c) / span
                    bodies[name] = bodies[name].model_copy(update={what: rate})
                    a = f"a step of {span:.4g} s" if profile.damping == "per_step" else "a second"
                    notes.append(f"{what.replace('_', ' ')} of {name}: {c:g} is the share lost {a}, {rate:.4g} per second in "
                                 "precise; that is a difference of units, no error of the step")
    return case.model_copy(update={"profile": Precise(), "bodies": bodies}), tuple(notes)


def corrected(case: Case, progress: Callable[[Progress], None] | None = None, cancel: Cancel | None = None, *,
              threads: int | None = None, executor: Executor | None = None, limit: int = MAX_SIMULATIONS) -> Solutions:
    """Return numbers for the stepped profile with which it gives the outcomes that precise gives with the case's own.

    The case's targets say which outcomes; without any, those of a first look do (at most six).

    Parameters
    ----------
    case : in a stepped profile, with at least one free unknown
    progress : called with a :class:`Progress` while it goes on, from another thread
    cancel : stops it where it is set; what was found so far is the result
    threads : simulations side by side
    executor : runs batches of simulations
    limit : simulations after which it ends with what it found

    Returns
    -------
    Solutions
        Values in SI units, the nearest to the case's own first.

    Raises
    ------
    InputError
        If the case is in precise already, or nothing is free.

    Notes
    -----
    The search of :func:`solve`, with the outcomes in precise as targets.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> from yapa.case import PRESETS
    >>> case = load(DATA / "orange-drop.yapa").model_copy(update={"profile": PRESETS["60 Hz, 1 substep, 10 iterations"]})
    >>> corrected(case, limit=60).stopped
    'limit reached'
    """
    _needs_step(case)
    wanted = case.model_copy(update={"targets": wanted_of(case, cancel)})
    return solve(wanted, progress, cancel, threads=threads, executor=executor, limit=limit)


def wanted_of(case: Case, cancel: Cancel | None = None) -> tuple[Target, ...]:
    """Return the outcomes of the case in precise, as targets.

    Parameters
    ----------
    case : the case
    cancel : stops the work where it is set

    Raises
    ------
    Cancelled
        If stopping was asked for.
    """
    motion = simulate(in_precise(case)[0], cancel=None if cancel is None else cancel.flag)
    if cancel is not None:
        cancel.raise_if_cancelled()
    out = []
    for target in case.targets:
        body = target.body or motion.dynamic_bodies()[0]
        reading = read_target(motion, body, target)
        if reading.value is not None:
            out.append(target.model_copy(update={"condition": "equal", "value": reading.value, "upper": None}))
    if out:
        return tuple(out)
    for body in motion.dynamic_bodies():
        for name, reading in measure(motion, body, WANTED).items():
            if reading.value is None or abs(reading.value) < 1e-6:
                continue
            outcome, index = outcome_and_index(name)
            out.append(Target(outcome=outcome, index=index, body=body, value=reading.value,
                              tolerance=TOLERANCES[spec_of(name).unit]))
    return tuple(out[:MAX_TARGETS])


def _needs_step(case: Case) -> None:
    if isinstance(case.profile, Precise):
        raise bad_input("profile", "precise", "a stepped profile, such as one that `yapa profiles` lists, to compare with precise")
