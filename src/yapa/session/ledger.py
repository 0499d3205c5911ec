"""The ledger: every set of values worth keeping, with its score and what changed."""

from __future__ import annotations

from datetime import UTC, datetime

import numpy as np

from yapa.case.model import Case
from yapa.case.paths import get_number
from yapa.case.quantities import label_of
from yapa.case.unknowns import Estimate, Trial
from yapa.engine import ENGINE_VERSION, simulate
from yapa.fitting.problem.cancel import Cancel, Cancelled
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.problem.result import FitResult
from yapa.fitting.problem.target_residuals import met
from yapa.fitting.tracks.takes import shown
from yapa.motion import Array, Motion
from yapa.outcomes import TrackData, measure

CURVE_POINTS = 60


def present_values(case: Case) -> dict[str, float]:
    """The values of every unknown, locked or not."""
    return {u.path: get_number(case, u.path) for u in case.unknowns}


def what_changed(case: Case, before: dict[str, float], after: dict[str, float]) -> str:
    """``restitution 0.8 → 0.74``, the largest changes (as shares of the ranges) first, at most three."""
    spans = {u.path: u.high - u.low for u in case.unknowns}
    changes = []
    for path, value in after.items():
        old = before.get(path)
        if old is None or abs(value - old) <= 1e-9 * max(abs(value), abs(old), 1e-9):
            continue
        share = abs(value - old) / spans.get(path, max(abs(old), abs(value), 1e-9))
        if share > 5e-4:
            changes.append((share, path, old, value))
    changes.sort(reverse=True)
    short = [f"{label_of(p).split(' · ')[0]} {a:.3g} → {b:.3g}" for _, p, a, b in changes[:3]]
    more = f" and {len(changes) - 3} more" if len(changes) > 3 else ""
    return ", ".join(short) + more


def thumbnail(motion: Motion, body: str) -> tuple[tuple[float, float], ...]:
    """A small curve: time and height, or time and travel where the height does not change."""
    path = motion.path(body)
    t = np.linspace(float(motion.times[0]), motion.end, CURVE_POINTS)
    x = path.place(t)
    z = x[:, 2]
    column = z if np.ptp(z) > 0.02 * max(float(np.ptp(x[:, 0])), 1e-6) else x[:, 0]
    return tuple((round(float(a), 4), round(float(b), 5)) for a, b in zip(t, column, strict=True))


def curve_of(case: Case) -> tuple[tuple[float, float], ...]:
    """The small curve of a case's own motion, of the first body that moves by forces."""
    motion = simulate(case)
    body = next((name for name in case.movers() if name in motion.paths), None)
    return () if body is None else thumbnail(motion, body)


def score(case: Case, values: dict[str, float] | None = None, cancel: Cancel | None = None) -> tuple[float | None, int, int]:
    """Misfit of the tracks, targets met, targets, at these values.

    Raises
    ------
    Cancelled
        If stopping was asked for.
    """
    case = shown(case)
    problem = FitProblem(case, cancel or Cancel(), look_only=True)
    full = {**present_values(case), **(values or {})}
    columns = problem.residual_columns(full)
    readings = problem.target_readings(full)
    return misfit_of_columns(columns), sum(met(t, r) for t, _, r in readings), len(readings)


def misfit_of_columns(columns: list[tuple[TrackData, str, Array]]) -> float | None:
    """Root mean square over all columns, gaps left out."""
    if not columns:
        return None
    every = np.concatenate([r for _, _, r in columns])
    return float(np.sqrt(np.nanmean(every**2)))


def make_trial(
    case: Case, name: str, origin: str, values: dict[str, float], misfit: float | None, targets_met: int, targets: int,
    estimates: dict[str, Estimate] | None = None, changed: str = "", cancel: Cancel | None = None,
) -> Trial:
    """A trial with its outcomes and curve.

    Raises
    ------
    Cancelled
        If stopping was asked for.
    """
    motion = simulate(case, values, cancel=None if cancel is None else cancel.flag)
    if cancel is not None and cancel.is_set():
        raise Cancelled
    body = next((t.body for t in case.tracks), (case.movers() or [""])[0])
    outcomes = {}
    if body in motion.paths:
        outcomes = {k: r.value for k, r in measure(motion, body).items() if r.value is not None}
    return Trial(
        name=name, origin=origin, values=values, estimates=estimates or {}, misfit=misfit,  # type: ignore[arg-type]
        targets_met=targets_met, targets=targets, outcomes=outcomes, changed=changed,
        curve=thumbnail(motion, body) if body in motion.paths else (), engine=ENGINE_VERSION,
        made=datetime.now(UTC).isoformat(timespec="seconds"),
    )


def fit_name(case: Case) -> str:
    """The name of the next fit's trial."""
    return f"fit {sum(t.origin in ('fit', 'stopped fit') for t in case.trials) + 1}"


def fit_trial(case: Case, result: FitResult) -> Trial:
    """The trial a fit leaves when it ends or is stopped."""
    stopped = result.stopped == "cancelled"
    values = {**present_values(case), **result.values}
    before = case.trials[-1].values if case.trials else {}
    return make_trial(
        case, fit_name(case), "stopped fit" if stopped else "fit", values, result.misfit,
        sum(t.met for t in result.targets), len(result.targets), result.estimates, what_changed(case, before, values),
    )


def hand_trial(case: Case, cancel: Cancel | None = None) -> Trial:
    """The trial a released hand edit makes."""
    values = present_values(case)
    misfit, hit, count = score(case, cancel=cancel)
    before = next((t.values for t in reversed(case.trials) if t.origin != "by hand" or t.pinned), {})
    changed = what_changed(case, before, values)
    return make_trial(case, "by hand", "by hand", values, misfit, hit, count, changed=changed, cancel=cancel)


def as_set_up(case: Case, cancel: Cancel | None = None) -> Trial:
    """The first trial of a case: how it came."""
    misfit, hit, count = score(case, cancel=cancel)
    return make_trial(case, "as set up", "as set up", present_values(case), misfit, hit, count, cancel=cancel)


def add_trial(case: Case, trial: Trial) -> Case:
    """Append a trial; successive hand edits update one trial until it is pinned, renamed or followed by a fit."""
    trials = list(case.trials)
    last = trials[-1] if trials else None
    if trial.origin == "by hand" and last is not None and last.origin == "by hand" and not last.pinned and (
        last.name == "by hand"
    ):
        trials[-1] = trial
    else:
        trials.append(trial)
    return case.model_copy(update={"trials": tuple(trials)})


def newest_fit(case: Case) -> Trial | None:
    """The last fit whose values the case still has."""
    now = present_values(case)
    for trial in reversed(case.trials):
        if trial.estimates and all(abs(now.get(p, v) - v) <= 1e-9 * max(1.0, abs(v)) for p, v in trial.values.items()):
            return trial
    return None
