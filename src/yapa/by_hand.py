"""Evidence made by hand: marks, apex heights, ratios, a stopwatch, a drawn path, a curve of theory, an earlier trial.

All become ordinary evidence: targets with a tolerance, or tracks with a noise.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from yapa.case.evidence import Samples, Target, Track
from yapa.case.model import Case
from yapa.case.unknowns import Trial
from yapa.engine import simulate
from yapa.errors import bad_input

Place = tuple[float, float, float]


def mark(time: float, place: Place, tolerance: float, body: str | None = None) -> list[Target]:
    """A body seen at a place [m] at a time [s]: three targets. A coordinate that is NaN was not seen."""
    return [Target(outcome=axis, at=time, value=value, tolerance=tolerance, body=body)
            for axis, value in zip("xyz", place, strict=True) if value == value]


def apex_heights(heights: Sequence[float], tolerance: float, body: str | None = None) -> list[Target]:
    """Heights of successive apexes [m], as they are typed."""
    if not heights:
        raise bad_input("apexes", "none", "at least one height in metres")
    return [Target(outcome="apex", index=k, value=h, tolerance=tolerance, body=body) for k, h in enumerate(heights, start=1)]


def apex_ratios(ratios: Sequence[float], tolerance: float, body: str | None = None) -> list[Target]:
    """Ratios of each apex to the one before, from the second on."""
    if not ratios:
        raise bad_input("ratios", "none", "at least one ratio")
    return [Target(outcome="apex ratio", index=k, value=r, tolerance=tolerance, body=body) for k, r in enumerate(ratios, start=2)]


def stopwatch(seconds: float, tolerance: float = 0.2, body: str | None = None) -> Target:
    """A rest time by hand; a person presses to about a fifth of a second."""
    return Target(outcome="rest time", value=seconds, tolerance=tolerance, body=body)


def drawn_path(name: str, body: str, times: Sequence[float], places: Sequence[Place], sigma: float) -> Track:
    """A path drawn through some places at some times, as a track at 60 a second between them, straight."""
    t, x = np.asarray(times, dtype=float), np.asarray(places, dtype=float)
    if len(t) < 2 or x.shape != (len(t), 3) or (np.diff(t) <= 0).any():
        raise bad_input("path", f"{len(t)} places", "at least two places at rising times, three coordinates each")
    grid = np.arange(t[0], t[-1] + 1e-9, 1 / 60)
    return _track(name, body, grid, np.column_stack([np.interp(grid, t, c) for c in x.T]), sigma)


def theory_curve(name: str, body: str, place: Callable[[float], Place], duration: float, sigma: float) -> Track:
    """A curve of theory, place [m] as a function of time [s], as a track at 120 a second."""
    grid = np.arange(0.0, duration + 1e-9, 1 / 120)
    return _track(name, body, grid, np.array([place(float(t)) for t in grid]), sigma)


def trial_track(case: Case, trial: Trial, body: str, sigma: float = 1e-3) -> Track:
    """The motion an earlier trial makes of a body, as evidence for another."""
    motion = simulate(case, trial.values)
    grid = np.arange(0.0, motion.end + 1e-9, 1 / 120)
    return _track(f"{trial.name} of {body}"[:60], body, grid, motion.path(body).place(grid), sigma)


def _track(name: str, body: str, t: np.ndarray, x: np.ndarray, sigma: float) -> Track:
    columns = {axis: tuple(x[:, c].tolist()) for c, axis in enumerate("xyz")}
    return Track(name=name, body=body, sigma=sigma, samples=Samples(t=tuple((t - min(t[0], 0.0)).tolist()), **columns))
