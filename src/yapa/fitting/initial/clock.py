"""When the motion starts in a track whose clock is late: frames before the release are held, then a flight leaves the start.

The release is seen once most of four frames stand off the known start by 5 σ. The flight read after it, carried back under
gravity alone over those few frames,

    x(t) = x₁ + v₁ (t - t₁) + ½ g (t - t₁)²,

passes nearest to the start at t₀, and the offset of the clock is -t₀. A track with an offset, scale or shift that is known is
laid on the scene's clock and axes here.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from yapa.case.evidence import Track
from yapa.case.parameter_path import AXES
from yapa.fitting.problem.problem import FitProblem
from yapa.tracking.track_data import TrackData

FAR = 5.0
"""s: a clock that is further off is not believed"""


def to_case_frame(track: Track, data: TrackData) -> TrackData:
    """Return a track on the clock and axes of its scene, frames from before the start left out.

    Parameters
    ----------
    track : the measured track
    data : the track as read
    """
    if track.time_offset == 0.0 and track.scale == 1.0 and not any(track.translation):
        return data
    moved = replace(data, t=data.t + track.time_offset, x=data.x * track.scale + np.array(track.translation))
    return from_frame(moved, 0.5 / data.rate if track.time_offset < 0 else 0.0)


def with_nuisances(track: Track, known: Mapping[str, float]) -> Track:
    """Return a track with these offsets, scales and shifts of its own name.

    Parameters
    ----------
    track : the measured track
    known : path → value of what is known
    """
    def of(what: str, now: float) -> float:
        return known.get(f"tracks.{track.name}.{what}", now)

    return track.model_copy(update={
        "time_offset": of("time_offset", track.time_offset), "scale": of("scale", track.scale),
        "translation": tuple(of(f"translation.{axis}", v) for axis, v in zip(AXES, track.translation, strict=True))})


def from_frame(data: TrackData, start: float) -> TrackData:
    """Return the frames of a track from a time on.

    Parameters
    ----------
    data : the track as read
    start : time of the first frame that stays [s]
    """
    on = data.t >= start - 1e-12
    return replace(data, t=data.t[on], x=data.x[on], angle=None if data.angle is None else data.angle[on])


def clock_is_free(problem: FitProblem, name: str) -> bool:
    """Return whether the offset of a track is unknown.

    Parameters
    ----------
    problem : the least-squares problem
    name : its name
    """
    return any(u.path == f"tracks.{name}.time_offset" for u in problem.unknowns)


def time_of_release(problem: FitProblem, data: TrackData) -> float | None:
    """Return about when the body leaves its start [s] in the track's own clock; None where it is never seen to.

    Parameters
    ----------
    problem : the least-squares problem
    data : the track as read
    """
    start = np.array(problem.case.bodies[data.body].position)
    shown = [k for k in range(3) if data.shown[k]]
    if any(f"bodies.{data.body}.position.{AXES[k]}" in {u.path for u in problem.unknowns} for k in shown):
        return None
    seen = np.flatnonzero(np.isfinite(data.x).all(axis=1))
    off = np.abs(data.x[seen][:, shown] - start[shown]).max(axis=1) > FAR * data.sigma
    for k in range(len(off) - 4):
        if off[k : k + 4].sum() >= 3:
            return float(data.t[seen[k + int(np.argmax(off[k : k + 4]))]])
    return None


def start_of_flight(problem: FitProblem, data: TrackData, v: np.ndarray, x: np.ndarray, at: float, gravity: np.ndarray) -> float:
    """Return the time [s] at which the flight with place x and velocity v at a time passed nearest to the start.

    Parameters
    ----------
    problem : the least-squares problem
    data : the track as read
    v : (3,) velocity [m/s]
    x : (3,) place [m]
    at : when [s]
    gravity : (3,) [m/s²]
    """
    shown = [k for k in range(3) if data.shown[k]]
    start = np.array(problem.case.bodies[data.body].position)[shown]
    back = np.linspace(-0.25, 0.05, 3001)[:, None]
    places = x[shown] + v[shown] * back + 0.5 * gravity[shown] * back**2
    return at + float(back[int(np.argmin(((places - start) ** 2).sum(axis=1))), 0])
