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

from yapa.case.model import Case
from yapa.case.paths import numbers, with_numbers
from yapa.case.profiles import Precise
from yapa.case.takes import case_of
from yapa.engine.batch import simulate_many
from yapa.engine.simulate import READ_RATE, sample_times, simulate
from yapa.fitting.problem.cancel import Cancel
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.problem.target_residuals import judge
from yapa.fitting.tracks.fit import Fit
from yapa.motion import Motion
from yapa.outcomes import measure, read_target

PLACE, SPEED, SPIN, SHARE = 1e-3, 1e-3, 0.05, 0.01


@dataclass(frozen=True)
class Held:
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


def varied_starts(
    case: Case, count: int = 60, seed: int = 0, *, vary: Mapping[str, float] | None = None, threads: int | None = None,
    executor: Executor | None = None, cancel: Cancel | None = None,
) -> Held:
    """Run a case from slightly varied starts.

    Parameters
    ----------
    vary : path → standard deviation, instead of the usual ones of places, launches and spins of moving bodies
    """
    usual = dict(vary) if vary is not None else _usual(case)
    rng = np.random.default_rng(seed)
    paths, base = list(usual), numbers(case)
    rows = np.array([base[p] for p in paths]) + rng.normal(size=(count, len(paths))) * np.array([usual[p] for p in paths])
    problem = FitProblem(case.model_copy(update={"tracks": (), "takes": ()}), cancel or Cancel(), look_only=True)
    targets = problem.targets

    def read(motion: Motion) -> tuple[bool, dict[str, float]]:
        good = all(judge(t, body, read_target(motion, body, t)).met for t, body in targets)
        first = {f"{body} {name}": r.value for body in motion.movers() for name, r in measure(motion, body).items()
                 if r.value is not None}
        return good, first

    found = simulate_many(case, paths, rows, read, times=problem.target_times, threads=threads, executor=executor,
                          cancel=cancel.flag if cancel else None)
    if cancel is not None:
        cancel.heed()
    met = sum(good for good, _ in found)
    names = sorted(set.intersection(*(set(first) for _, first in found))) if found else []
    spread = {}
    for name in names:
        column = np.array([first[name] for _, first in found])
        spread[name] = (float(column.mean()), float(column.std()))
    likely = binomtest(met, count).proportion_ci(method="wilson")
    return Held(count, met, float(likely.low), float(likely.high), spread)


def _usual(case: Case) -> dict[str, float]:
    out = {}
    for path, value in numbers(case).items():
        parts = path.split(".")
        if parts[0] != "bodies" or case.bodies[parts[1]].motion != "dynamic":
            continue
        if parts[2] == "position":
            out[path] = PLACE
        elif parts[2] in ("velocity", "speed"):
            out[path] = max(SPEED, SHARE * abs(value))
        elif parts[2] == "spin":
            out[path] = max(SPIN, SHARE * abs(value))
    planar = [p for p in out if not p.endswith((".y", "spin.x", "spin.z")) or p.endswith("spin.y")]
    across = any(abs(v) > 0 for p, v in numbers(case).items() if p.endswith("velocity.y"))
    return out if across else {p: out[p] for p in planar}


@dataclass(frozen=True)
class Stepping:
    """Outcomes as they are, and with half the step; ``moved`` is the largest change in tolerances of targets, None without."""

    rows: list[tuple[str, float | None, float | None]]
    moved: float | None
    notes: tuple[str, ...] = ()
    """Differences that are none of the step."""


def half_step(case: Case, cancel: Cancel | None = None) -> Stepping:
    """Run at half the step of the case's profile."""
    finer = case.profile.model_copy(update={"step": case.profile.step / 2})
    if isinstance(case.profile, Precise):
        finer = finer.model_copy(update={"crowd_substeps": min(64, 2 * case.profile.crowd_substeps)})
    return two_ways(case, case.model_copy(update={"profile": finer}), cancel)


def two_ways(one: Case, two: Case, cancel: Cancel | None = None) -> Stepping:
    """Outcomes of two cases that differ in how they are simulated, side by side.

    Raises
    ------
    Cancelled
        If stopping was asked for.
    """
    problem = FitProblem(one.model_copy(update={"tracks": (), "takes": ()}), look_only=True)
    times = problem.target_times if problem.targets else sample_times(one.duration, READ_RATE)
    motions = [simulate(c, times=times, cancel=None if cancel is None else cancel.flag) for c in (one, two)]
    if cancel is not None:
        cancel.heed()
    rows: list[tuple[str, float | None, float | None]] = []
    moved: float | None = None
    for target, body in problem.targets:
        a, b = (read_target(m, body, target).value for m in motions)
        rows.append((target.label, a, b))
        if a is not None and b is not None:
            moved = max(moved or 0.0, abs(b - a) / target.tolerance)
    for body in motions[0].movers():
        first = [measure(m, body) for m in motions]
        for name, reading in first[0].items():
            other = first[1].get(name)
            rows.append((f"{body} {name}", reading.value, other.value if other is not None else None))
    return Stepping(rows, moved)


@dataclass(frozen=True)
class LeftOut:
    """A take (or track) predicted from the others: its misfit with their shared numbers, and its own fitted misfit."""

    name: str
    misfit: float
    alone: float


def left_out(case: Case, cancel: Cancel | None = None) -> list[LeftOut]:
    """Fit without each take, lock what is shared, fit what is the take's own, and tell its misfit. Needs two takes or tracks."""
    out = []
    if case.takes:
        from yapa.fitting.tracks.takes import fit_takes

        for take in case.takes:
            rest = case.model_copy(update={"takes": tuple(t for t in case.takes if t is not take), "targets": ()})
            shared = fit_takes(rest, lambda one: Fit(one, None, cancel).run(), None, cancel).values if len(rest.takes) > 0 else {}
            mine = case_of(case, take)
            known = {p: v for p, v in shared.items() if p not in take.own}
            locked = tuple(u.model_copy(update={"locked": u.locked or u.path in known}) for u in mine.unknowns)
            told = with_numbers(mine, known).model_copy(update={"unknowns": locked})
            if cancel is not None:
                cancel.heed()
            out.append(LeftOut(take.name, _misfit(told, cancel), _misfit(mine, cancel)))
    elif len(case.tracks) > 1 and len({t.body for t in case.tracks}) < len(case.tracks):
        for track in case.tracks:
            rest = case.model_copy(update={"tracks": tuple(t for t in case.tracks if t is not track), "targets": ()})
            result = Fit(rest, None, cancel).run()
            mine = case.model_copy(update={"tracks": (track,), "targets": ()})
            locked = tuple(u.model_copy(update={"locked": True}) for u in mine.unknowns)
            told = with_numbers(mine, result.values).model_copy(update={"unknowns": locked})
            if cancel is not None:
                cancel.heed()
            out.append(LeftOut(track.name, _misfit(told, cancel), _misfit(mine, cancel)))
    return out


def _misfit(case: Case, cancel: Cancel | None) -> float:
    """Misfit of a case: fitted where something is free, as it stands otherwise."""
    if any(not u.locked for u in case.unknowns):
        return float(Fit(case, None, cancel).run().misfit or 0.0)
    problem = FitProblem(case, cancel or Cancel(), look_only=True)
    columns = problem.residual_columns({})
    every = np.concatenate([c[np.isfinite(c)] for _, _, c in columns])
    return float(np.sqrt(np.mean(every**2)))
