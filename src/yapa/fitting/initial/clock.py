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
from yapa.case.quantities import AXES
from yapa.fitting.problem.problem import FitProblem
from yapa.tracking.track_data import TrackData

FAR = 5.0


def laid(track: Track, data: TrackData) -> TrackData:
    """A track on the clock and axes of its scene, frames from before the start left out."""
    if track.offset == 0.0 and track.scale == 1.0 and not any(track.shift):
        return data
    moved = replace(data, t=data.t + track.offset, x=data.x * track.scale + np.array(track.shift))
    return from_frame(moved, 0.5 / data.rate if track.offset < 0 else 0.0)


def with_nuisances(track: Track, known: Mapping[str, float]) -> Track:
    """A track with these offsets, scales and shifts of its own name."""
    def of(what: str, now: float) -> float:
        return known.get(f"tracks.{track.name}.{what}", now)

    return track.model_copy(update={
        "offset": of("offset", track.offset), "scale": of("scale", track.scale),
        "shift": tuple(of(f"shift.{axis}", v) for axis, v in zip(AXES, track.shift, strict=True))})


def from_frame(data: TrackData, start: float) -> TrackData:
    """The frames of a track from a time on."""
    on = data.t >= start - 1e-12
    return replace(data, t=data.t[on], x=data.x[on], angle=None if data.angle is None else data.angle[on])


def clock_is_free(problem: FitProblem, name: str) -> bool:
    """Whether the offset of a track is unknown."""
    return any(u.path == f"tracks.{name}.offset" for u in problem.unknowns)


def release_of(problem: FitProblem, data: TrackData) -> float | None:
    """About when the body leaves its start [s] in the track's own clock; None where it is never seen to."""
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
    """The time [s] at which the flight with place x and velocity v at a time passed nearest to the start."""
    shown = [k for k in range(3) if data.shown[k]]
    start = np.array(problem.case.bodies[data.body].position)[shown]
    back = np.linspace(-0.25, 0.05, 3001)[:, None]
    places = x[shown] + v[shown] * back + 0.5 * gravity[shown] * back**2
    return at + float(back[int(np.argmin(((places - start) ** 2).sum(axis=1))), 0])
