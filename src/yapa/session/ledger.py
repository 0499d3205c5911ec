"""The ledger: every set of values worth keeping, with its score and what changed."""

from __future__ import annotations

from datetime import UTC, datetime

import numpy as np

from yapa.case.kept_scenes import scene_key, scene_of, without_idle_scenes
from yapa.case.ledger import present_values
from yapa.case.model import Case
from yapa.case.quantities import label_of
from yapa.case.unknowns import Estimate, Trial
from yapa.engine import ENGINE_VERSION, simulate
from yapa.fitting.problem.cancel import Cancel, Cancelled, FitStatus
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.problem.result import FitResult
from yapa.fitting.problem.track_residuals import residual_columns
from yapa.fitting.tracks.takes import shown
from yapa.motion import Array, Motion
from yapa.outcomes import measure
from yapa.outcomes.judging import is_met
from yapa.tracking.track_data import TrackData

CURVE_POINTS = 60
"""of the small curve that a trial keeps"""


def what_changed(case: Case, before: dict[str, float], after: dict[str, float]) -> str:
    """Return ``restitution 0.8 → 0.74``, the largest changes (as shares of the ranges) first, at most three.

    Parameters
    ----------
    case : the case
    before : path → value before
    after : path → value after
    """
    spans = {u.path: u.high - u.low for u in case.unknowns}
    changes = []
    for path, value in after.items():
        old = before.get(path)
        if old is None or abs(value - old) <= 1e-9 * max(abs(value), abs(old), 1e-9):
            continue
        relative_change = abs(value - old) / spans.get(path, max(abs(old), abs(value), 1e-9))
        if relative_change > 5e-4:
            changes.append((relative_change, path, old, value))
    changes.sort(reverse=True)
    short = [f"{label_of(p).split(' · ')[0]} {a:.3g} → {b:.3g}" for _, p, a, b in changes[:3]]
    more = f" and {len(changes) - 3} more" if len(changes) > 3 else ""
    return ", ".join(short) + more


def thumbnail(motion: Motion, body: str) -> tuple[tuple[float, float], ...]:
    """Return a small curve: time and height, or time and travel where the height does not change.

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    """
    path = motion.trajectory(body)
    t = np.linspace(float(motion.times[0]), motion.end, CURVE_POINTS)
    x = path.position(t)
    z = x[:, 2]
    column = z if np.ptp(z) > 0.02 * max(float(np.ptp(x[:, 0])), 1e-6) else x[:, 0]
    return tuple((round(float(a), 4), round(float(b), 5)) for a, b in zip(t, column, strict=True))


def curve_of(case: Case) -> tuple[tuple[float, float], ...]:
    """Return the small curve of a case's own motion, of the first body that moves by forces.

    Parameters
    ----------
    case : the case
    """
    motion = simulate(case)
    body = next((name for name in case.dynamic_bodies() if name in motion.trajectories), None)
    return () if body is None else thumbnail(motion, body)


def score(case: Case, values: dict[str, float] | None = None, cancel: Cancel | None = None) -> tuple[float | None, int, int]:
    """Return misfit of the tracks, targets met, targets, at these values.

    Parameters
    ----------
    case : the case
    values : path → value, SI units
    cancel : stops the work where it is set

    Raises
    ------
    Cancelled
        If stopping was asked for.
    """
    case = shown(case)
    problem = FitProblem(case, cancel or Cancel(), evaluate_only=True)
    full = {**present_values(case), **(values or {})}
    columns = residual_columns(problem, full)
    readings = problem.target_readings(full)
    return misfit_of_columns(columns), sum(is_met(t, r) for t, _, r in readings), len(readings)


def misfit_of_columns(columns: list[tuple[TrackData, str, Array]]) -> float | None:
    """Return root mean square over all columns, gaps left out.

    Parameters
    ----------
    columns : (track, name, residuals in standard deviations) of each
    """
    if not columns:
        return None
    every = np.concatenate([r for _, _, r in columns])
    return float(np.sqrt(np.nanmean(every**2)))


def misfits_of(columns: list[tuple[TrackData, str, Array]]) -> dict[str, float]:
    """Return root mean square of each track, by its name.

    Parameters
    ----------
    columns : (track, name, residuals in standard deviations) of each
    """
    names = dict.fromkeys(data.name for data, _, _ in columns)
    found = {name: misfit_of_columns([column for column in columns if column[0].name == name]) for name in names}
    return {name: misfit for name, misfit in found.items() if misfit is not None}


def make_trial(
    case: Case, name: str, origin: str, values: dict[str, float], misfit: float | None, targets_met: int, targets: int,
    estimates: dict[str, Estimate] | None = None, changed: str = "", cancel: Cancel | None = None,
) -> Trial:
    """Return a trial with its outcomes and curve.

    Parameters
    ----------
    case : the case
    name : its name
    origin : where the values came from
    values : path → value, SI units
    misfit : root mean square of the residuals
    targets_met : how many targets are met
    targets : how many targets there are
    estimates : path → estimate
    changed : what changed, in words
    cancel : stops the work where it is set

    Raises
    ------
    Cancelled
        If stopping was asked for.
    """
    motion = simulate(case, values, cancel=None if cancel is None else cancel.flag)
    if cancel is not None and cancel.is_set():
        raise Cancelled
    body = next((t.body for t in case.tracks), (case.dynamic_bodies() or [""])[0])
    outcomes = {}
    if body in motion.trajectories:
        outcomes = {k: r.value for k, r in measure(motion, body).items() if r.value is not None}
    return Trial(
        name=name, source=origin, values=values, estimates=estimates or {}, misfit=misfit,
        targets_met=targets_met, targets=targets, outcomes=outcomes, summary=changed,
        curve=thumbnail(motion, body) if body in motion.trajectories else (), engine_version=ENGINE_VERSION,
        created=datetime.now(UTC).isoformat(timespec="seconds"),
    )


def fit_name(case: Case) -> str:
    """Return the name of the next fit's trial.

    Parameters
    ----------
    case : the case
    """
    return f"fit {sum(t.source in ('fit', 'stopped fit') for t in case.trials) + 1}"


def fit_trial(case: Case, result: FitResult) -> Trial:
    """Return the trial a fit leaves when it ends or is stopped.

    Parameters
    ----------
    case : the case
    result : what the fit found
    """
    stopped = result.stopped == FitStatus.CANCELLED
    values = {**present_values(case), **result.values}
    before = case.trials[-1].values if case.trials else {}
    return make_trial(
        case, fit_name(case), "stopped fit" if stopped else "fit", values, result.misfit,
        sum(t.met for t in result.targets), len(result.targets), result.estimates, what_changed(case, before, values),
    )


def hand_trial(case: Case, cancel: Cancel | None = None) -> Trial:
    """Return the trial a released hand edit makes.

    Parameters
    ----------
    case : the case
    cancel : stops the work where it is set
    """
    values = present_values(case)
    misfit, hit, count = score(case, cancel=cancel)
    before = next((t.values for t in reversed(case.trials) if t.source != "by hand" or t.pinned), {})
    changed = what_changed(case, before, values)
    return make_trial(case, "by hand", "by hand", values, misfit, hit, count, changed=changed, cancel=cancel)


def as_set_up(case: Case, cancel: Cancel | None = None) -> Trial:
    """Return the first trial of a case: how it came.

    Parameters
    ----------
    case : the case
    cancel : stops the work where it is set
    """
    misfit, hit, count = score(case, cancel=cancel)
    return make_trial(case, "as set up", "as set up", present_values(case), misfit, hit, count, cancel=cancel)


def add_trial(case: Case, trial: Trial) -> Case:
    """Append a trial; successive hand edits update one trial until it is pinned, renamed or followed by a fit.

    Parameters
    ----------
    case : the case
    trial : a set of values that was kept

    Returns
    -------
    The case with the trial.
    """
    trials = list(case.trials)
    last = trials[-1] if trials else None
    if trial.source == "by hand" and last is not None and last.source == "by hand" and not last.pinned and (
        last.name == "by hand"
    ):
        trials[-1] = trial
    else:
        trials.append(trial)
    return case.model_copy(update={"trials": tuple(trials)})


def keep_scene(case: Case, trial: Trial, made_in: Case) -> Case:
    """Return the case with a trial of it marked by the scene it was made in, which is kept; scenes of no trial are let go.

    Parameters
    ----------
    case : the case, which has the trial
    trial : one of its trials
    made_in : the case that the trial was made of
    """
    key = scene_key(made_in, sorted(trial.values))
    trials = tuple(t.model_copy(update={"scene": key}) if t is trial else t for t in case.trials)
    scenes = {**case.scenes, key: case.scenes.get(key) or scene_of(made_in)}
    return without_idle_scenes(case.model_copy(update={"trials": trials, "scenes": scenes}))


def made_elsewhere(case: Case) -> list[bool]:
    """Return of each trial whether it was made in another scene than the present one; of one without a scene nothing is known.

    Parameters
    ----------
    case : the case
    """
    keys: dict[frozenset[str], str] = {}  # trials of the same unknowns have one key
    out = []
    for trial in case.trials:
        paths = frozenset(trial.values)
        if trial.scene in case.scenes and paths not in keys:
            keys[paths] = scene_key(case, sorted(paths))
        out.append(trial.scene in case.scenes and keys[paths] != trial.scene)
    return out
