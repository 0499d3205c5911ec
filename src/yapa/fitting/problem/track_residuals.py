"""Residuals of tracks by track and column, their derivatives by a track's own numbers, and a motion beside them from one run."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from yapa.engine.runner import RawRun
from yapa.engine.simulate import Sampling, motion_of
from yapa.motion import Array, Motion, rising
from yapa.tracking.track_data import TrackData

if TYPE_CHECKING:
    from yapa.fitting.problem.problem import FitProblem


SPEEDS = 7
"""first column of the velocity in a state"""
SPINS = 10
"""first column of the angular velocity in a state"""


@dataclass(frozen=True)
class Evidence:
    """One track laid on the simulation's sample times."""

    data: TrackData
    body: int
    rows: np.ndarray
    columns: tuple[int, ...]
    offset: int | None
    """Index among the free angle offsets, or None where the angle has a known zero or there is none."""


def track_slopes(problem: FitProblem, p: Array) -> dict[str, Array]:
    """Return derivatives of the track residuals by the scale and by the offset of every track, path → (R,), from one run.

    Parameters
    ----------
    problem : the least-squares problem
    p : vector of unknowns, in their unit box, then angle offsets
    """
    values = problem.values(p)
    times, evidence = problem.aligned_evidence(values)
    states = problem.run(values, times, float(times[-1]), keep=False).states
    out = {}
    for e, sampled, place in zip(problem.evidence, evidence, problem.layout.tracks, strict=True):
        rows = np.minimum(sampled.rows, len(states) - 1)
        scale, offset = np.zeros(problem.track_residuals), np.zeros(problem.track_residuals)
        for c, here in zip(e.columns, place.columns, strict=True):
            scale[here] = -e.data.x[:, c] / e.data.sigma
            offset[here] = states[rows, e.body, SPEEDS + c] / e.data.sigma
        if place.angle is not None:
            offset[place.angle] = states[rows, e.body, SPINS + 1] / e.data.sigma_angle
        for name, slope in (("scale", scale), ("time_offset", offset)):
            slope[~np.isfinite(problem.residual_times)] = 0.0
            if problem.robust_weights is not None:
                slope *= problem.robust_weights
            out[f"tracks.{e.data.name}.{name}"] = slope
    return out


def residual_columns(problem: FitProblem, values: Mapping[str, float]) -> list[tuple[TrackData, str, Array]]:
    """Return residuals in σ by track and column ("x", "y", "z", "angle"), at any values; NaN in a gap.

    Angles whose zero is free are laid on the simulation: over the whole track where that makes them
    agree, at the start otherwise.

    Parameters
    ----------
    problem : the least-squares problem
    values : path → value, SI units
    """
    if not problem.tracks:
        return []
    times, evidence = problem.aligned_evidence(values)
    return _columns_of(problem, problem.run(values, times, float(times[-1]), keep=False), len(times), evidence)


def motion_and_columns(problem: FitProblem, values: Mapping[str, float], sampled: Sampling, end: float
                       ) -> tuple[Motion, list[tuple[TrackData, str, Array]]]:
    """Return a simulated motion and its residual columns from one run, at the union of their times.

    Tracks that go on beyond ``end`` [s] need a run of their own, since the motion must not.

    Parameters
    ----------
    problem : the least-squares problem
    values : path → value, SI units
    sampled : times at which the run is sampled
    end : end of the run [s]
    """
    if not problem.tracks:
        return problem.motion(values, sampled, end), []
    times, evidence = problem.aligned_evidence(values)
    if times[-1] > end:
        return problem.motion(values, sampled, end), residual_columns(problem, values)
    every = rising(sampled.times, times)
    shown, read = (sampled.times if rows is None else sampled.times[rows] for rows in (sampled.shown, sampled.read))
    raw = problem.run(values, every, end)
    motion = motion_of(problem.program, raw, Sampling(every, np.searchsorted(every, shown), np.searchsorted(every, read)))
    rows = np.searchsorted(every, times)
    rows = rows[rows < len(raw.times)]
    return motion, _columns_of(problem, replace(raw, times=raw.times[rows], states=raw.states[rows]), len(times), evidence)


def _columns_of(problem: FitProblem, raw: RawRun, count: int, evidence: list[Evidence]) -> list[tuple[TrackData, str, Array]]:
    """The residual columns of a run that was sampled at the times of the tracks."""
    r = problem.track_residuals_of(raw, np.zeros(len(problem.unknowns) + problem.offsets), count, evidence)
    r = np.where(np.isfinite(problem.template), r, np.nan)
    out = []
    for e, place in zip(problem.evidence, problem.layout.tracks, strict=True):
        for name, here in zip([*("xyz"[c] for c in e.columns), "angle"], place.every, strict=False):
            column = r[here]
            if name == "angle" and e.offset is not None:
                column = column - _free_zero(column)
            out.append((e.data, name, column))
    return out


def _free_zero(column: Array) -> float:
    """The zero of an angle's residuals [σ]: their mean once the curves agree, their start before."""
    mean = float(np.nanmean(column))
    if np.nanstd(column) < 3.0:
        return mean
    return float(np.nanmedian(column[: max(5, len(column) // 20)]))
