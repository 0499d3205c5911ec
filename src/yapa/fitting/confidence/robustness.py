"""How a result holds: under slightly varied starts, at half the step, on a take that was left out.

Of n starts varied at random the share that still meets every target, with Wilson's 95% interval; without targets the spread of what
a first look shows. Starts vary by 1 mm, 1% of the launch and 1% of the spin (but at least 1 mm/s and 0.05 rad/s), as a hand would.
"""

from __future__ import annotations

from collections.abc import Mapping
from concurrent.futures import Executor
from dataclasses import dataclass, field

import numpy as np
from scipy.stats import binomtest

from yapa.case.changed_numbers import with_numbers
from yapa.case.model import Case
from yapa.case.parameter_path import parse_path
from yapa.case.parameters import numbers
from yapa.case.profiles import Precise
from yapa.engine.batch import simulate_many
from yapa.engine.simulate import READ_RATE, sample_times, simulate
from yapa.fitting.problem.cancel import Cancel
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.problem.target_residuals import evaluate_target
from yapa.fitting.problem.track_residuals import residual_columns
from yapa.fitting.tracks.fit import Fit
from yapa.motion import Motion
from yapa.outcomes import measure, read_target

PLACE = 1e-3
"""m: standard deviation of a start set by hand"""
SPEED = 1e-3
"""m/s: least standard deviation of a launch"""
SPIN = 0.05
"""rad/s: least standard deviation of an angular velocity"""
SHARE = 0.01
"""of a launch: its standard deviation"""


@dataclass(frozen=True)
class RobustnessResult:
    """Of ``count`` varied starts, how many meet every target; ``low`` and ``high`` of the share; and how outcomes spread."""

    count: int
    met: int
    low: float
    high: float
    spread: dict[str, tuple[float, float]] = field(default_factory=dict)

    @property
    def share(self) -> float:
        """Of the starts that meet every target."""
        return self.met / self.count


def perturb_starts(
    case: Case, count: int = 60, seed: int = 0, *, vary: Mapping[str, float] | None = None, threads: int | None = None,
    executor: Executor | None = None, cancel: Cancel | None = None,
) -> RobustnessResult:
    """Run a case from slightly varied starts.

    Parameters
    ----------
    case : the case
    count : how many
    seed : of random numbers
    threads : runs side by side
    executor : runs batches of simulations
    cancel : stops the work where it is set
    vary : path → standard deviation, instead of the usual ones of places, launches and spins of moving bodies

    Returns
    -------
    How many starts met the targets, and how outcomes scatter.
    """
    usual = dict(vary) if vary is not None else _usual(case)
    rng = np.random.default_rng(seed)
    paths, base = list(usual), numbers(case)
    rows = np.array([base[p] for p in paths]) + rng.normal(size=(count, len(paths))) * np.array([usual[p] for p in paths])
    problem = FitProblem(case.model_copy(update={"tracks": (), "takes": ()}), cancel or Cancel(), evaluate_only=True)
    targets = problem.targets

    def read(motion: Motion) -> tuple[bool, dict[str, float]]:
        good = all(evaluate_target(t, body, read_target(motion, body, t)).met for t, body in targets)
        first = {f"{body} {name}": r.value for body in motion.dynamic_bodies() for name, r in measure(motion, body).items()
                 if r.value is not None}
        return good, first

    found = simulate_many(case, paths, rows, read, times=problem.target_times, threads=threads, executor=executor,
                          cancel=cancel.flag if cancel else None)
    if cancel is not None:
        cancel.raise_if_cancelled()
    met = sum(good for good, _ in found)
    names = sorted(set.intersection(*(set(first) for _, first in found))) if found else []
    spread = {}
    for name in names:
        column = np.array([first[name] for _, first in found])
        spread[name] = (float(column.mean()), float(column.std()))
    likely = binomtest(met, count).proportion_ci(method="wilson")
    return RobustnessResult(count, met, float(likely.low), float(likely.high), spread)


def _usual(case: Case) -> dict[str, float]:
    out = {}
    for path, value in numbers(case).items():
        parts = parse_path(path)
        if parts.section != "bodies" or case.bodies[parts.owner].motion != "dynamic":
            continue
        if parts.quantity == "position":
            out[path] = PLACE
        elif parts.quantity in ("velocity", "speed"):
            out[path] = max(SPEED, SHARE * abs(value))
        elif parts.quantity == "angular_velocity":
            out[path] = max(SPIN, SHARE * abs(value))
    planar = [p for p in out if (parse_path(p).axis == "y") == (parse_path(p).quantity == "angular_velocity")]
    across = any(abs(v) > 0 for p, v in numbers(case).items()
                 if parse_path(p).quantity == "velocity" and parse_path(p).axis == "y")
    return out if across else {p: out[p] for p in planar}


@dataclass(frozen=True)
class StepSensitivity:
    """Outcomes as they are, and with half the step; ``moved`` is the largest change in tolerances of targets, None without."""

    rows: list[tuple[str, float | None, float | None]]
    moved: float | None
    notes: tuple[str, ...] = ()
    """Differences that are none of the step."""


def halve_step(case: Case, cancel: Cancel | None = None) -> StepSensitivity:
    """Run at half the step of the case's profile.

    Parameters
    ----------
    case : the case
    cancel : stops the work where it is set

    Returns
    -------
    Outcomes as they are and with half the step.
    """
    finer = case.profile.model_copy(update={"step": case.profile.step / 2})
    if isinstance(case.profile, Precise):
        finer = finer.model_copy(update={"soft_contact_substeps": min(64, 2 * case.profile.soft_contact_substeps)})
    return compare_outcomes(case, case.model_copy(update={"profile": finer}), cancel)


def compare_outcomes(one: Case, two: Case, cancel: Cancel | None = None) -> StepSensitivity:
    """Return outcomes of two cases that differ in how they are simulated, side by side.

    Parameters
    ----------
    one : one case
    two : the other case
    cancel : stops the work where it is set

    Raises
    ------
    Cancelled
        If stopping was asked for.
    """
    problem = FitProblem(one.model_copy(update={"tracks": (), "takes": ()}), evaluate_only=True)
    times = problem.target_times if problem.targets else sample_times(one.duration, READ_RATE)
    motions = [simulate(c, times=times, cancel=None if cancel is None else cancel.flag) for c in (one, two)]
    if cancel is not None:
        cancel.raise_if_cancelled()
    rows: list[tuple[str, float | None, float | None]] = []
    moved: float | None = None
    for target, body in problem.targets:
        a, b = (read_target(m, body, target).value for m in motions)
        rows.append((target.label, a, b))
        if a is not None and b is not None:
            moved = max(moved or 0.0, abs(b - a) / target.tolerance)
    for body in motions[0].dynamic_bodies():
        first = [measure(m, body) for m in motions]
        for name, reading in first[0].items():
            other = first[1].get(name)
            rows.append((f"{body} {name}", reading.value, other.value if other is not None else None))
    return StepSensitivity(rows, moved)


@dataclass(frozen=True)
class LeaveOneOut:
    """A take (or track) predicted from the others: its misfit with their shared numbers, and its own fitted misfit."""

    name: str
    misfit: float
    alone: float


def leave_one_out(case: Case, cancel: Cancel | None = None) -> list[LeaveOneOut]:
    """Fit without each take, lock what is shared, fit what is the take's own, and tell its misfit. Needs two takes or tracks.

    Parameters
    ----------
    case : the case
    cancel : stops the work where it is set

    Returns
    -------
    One entry for each take.
    """
    if case.table is not None:
        from yapa.fitting.tables.left_out import misfits_left_out

        return [LeaveOneOut(*one) for one in misfits_left_out(case, cancel)]
    out = []
    if case.takes:
        from yapa.fitting.tracks.takes import fit_takes

        for take in case.takes:
            rest = case.model_copy(update={"takes": tuple(t for t in case.takes if t is not take), "targets": ()})
            shared = fit_takes(rest, lambda one: Fit(one, None, cancel).run(), None, cancel).values if len(rest.takes) > 0 else {}
            mine = case.for_take(take)
            known = {p: v for p, v in shared.items() if p not in take.free_per_take}
            locked = tuple(u.model_copy(update={"fixed": u.fixed or u.path in known}) for u in mine.unknowns)
            case_at = with_numbers(mine, known).model_copy(update={"unknowns": locked})
            if cancel is not None:
                cancel.raise_if_cancelled()
            out.append(LeaveOneOut(take.name, _misfit(case_at, cancel), _misfit(mine, cancel)))
    elif len(case.tracks) > 1 and len({t.body for t in case.tracks}) < len(case.tracks):
        for track in case.tracks:
            rest = case.model_copy(update={"tracks": tuple(t for t in case.tracks if t is not track), "targets": ()})
            result = Fit(rest, None, cancel).run()
            mine = case.model_copy(update={"tracks": (track,), "targets": ()})
            locked = tuple(u.model_copy(update={"fixed": True}) for u in mine.unknowns)
            case_at = with_numbers(mine, result.values).model_copy(update={"unknowns": locked})
            if cancel is not None:
                cancel.raise_if_cancelled()
            out.append(LeaveOneOut(track.name, _misfit(case_at, cancel), _misfit(mine, cancel)))
    return out


def _misfit(case: Case, cancel: Cancel | None) -> float:
    """Misfit of a case: fitted where something is free, as it stands otherwise."""
    if any(not u.fixed for u in case.unknowns):
        return float(Fit(case, None, cancel).run().misfit or 0.0)
    problem = FitProblem(case, cancel or Cancel(), evaluate_only=True)
    columns = residual_columns(problem, {})
    every = np.concatenate([c[np.isfinite(c)] for _, _, c in columns])
    return float(np.sqrt(np.mean(every**2)))
