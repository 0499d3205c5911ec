"""A track as arrays, and the noise that can be read off it.

σ is estimated from third differences: a smooth motion sampled often has almost none, white noise
of standard deviation σ gives them a standard deviation of √20 σ. The median absolute deviation
keeps contacts and outliers out.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

import numpy as np

from yapa.by_identity import once_for_each
from yapa.case.evidence import Samples, Track
from yapa.errors import bad_input
from yapa.motion import Array, rising

MIN_ROUGHNESS = 0.25
"""Of the third differences where a column moves: the share that rounding makes other than zero, at least."""
MIN_SIGMA = 1e-6
"""m: no track is believed to be better than this."""


@dataclass(frozen=True)
class TrackData:
    """Arrays of one track.

    Attributes
    ----------
    t : (N,) s
    x : (N, 3) m, NaN where there is a gap; a coordinate not measured is zero
    angle : (N,) rad about +y, unwrapped, or None
    shown : which of x, y, z vary and so are evidence
    sigma, sigma_angle : noise [m], [rad]
    sigma_given : False where σ was estimated here
    """

    name: str
    body: str
    t: Array
    x: Array
    angle: Array | None
    shown: tuple[bool, bool, bool]
    sigma: float
    sigma_angle: float
    sigma_given: bool

    @property
    def rate(self) -> float:
        """Median frames a second."""
        return 1.0 / float(np.median(np.diff(self.t)))


def estimate_sigma(columns: list[Array]) -> float:
    """Return σ of white noise on smooth columns, by third differences.

    Parameters
    ----------
    columns : (N,) samples of each; NaN where there is none
    """
    spreads = []
    for column in columns:
        d = np.diff(column[np.isfinite(column)], n=3)
        if len(d) >= 4:
            spreads.append(1.4826 * float(np.median(np.abs(d - np.median(d)))) / sqrt(20.0))
    positive = [s for s in spreads if s > 0]
    steps = [resolution(column) for column in columns]
    return max(float(np.median(positive)) if positive else 0.0, max(steps, default=0.0) / sqrt(12.0))


def resolution(column: Array) -> float:
    """Return the least step between the values of a column that was rounded: many repeat, or all lie on one grid; 0 of any other.

    A clean track of a steady or a falling body lies on a grid as well, of its own steps: one that was rounded is rough on it.

    Parameters
    ----------
    column : (N,) samples; NaN where there is none
    """
    values = column[np.isfinite(column)]
    different = rising(values)
    if len(different) < 2:
        return 0.0
    steps = np.diff(different)
    least = float(steps.min())
    on_a_grid = len(steps) > 8 and float(np.abs(steps / least - np.round(steps / least)).max()) < 0.01
    return least if (on_a_grid and _is_rough(values, least)) or len(different) < 0.7 * len(values) else 0.0


def _is_rough(values: Array, step: float) -> bool:
    """Whether, where a column moves, its third differences are whole steps and not nothing."""
    if len(values) < 8:
        return False
    moves = np.abs(np.diff(values)) > 0.5 * step
    moving = moves[:-2] | moves[1:-1] | moves[2:]
    rough = np.abs(np.diff(values, n=3)) > 0.5 * step
    return bool(moving.any()) and float(rough[moving].mean()) > MIN_ROUGHNESS


def _column(samples: Samples, name: str) -> Array | None:
    values = getattr(samples, name)
    if values is None:
        return None
    return np.array([np.nan if v is None else v for v in values], dtype=float)


def varies(column: Array) -> bool:
    """Return whether a coordinate varies: one that is constant over its whole track is no evidence.

    Parameters
    ----------
    column : (N,) samples; NaN where there is none
    """
    seen = column[np.isfinite(column)]
    return len(seen) > 0 and float(np.ptp(seen)) > 1e-12


@once_for_each(most=64)
def track_data(track: Track) -> TrackData:
    """Return arrays from a track of a case, read once a track. Not to be written to.

    Parameters
    ----------
    track : the measured track

    Raises
    ------
    InputError
        If the track names a file that was not read, or nothing in it moves.
    """
    samples = track.samples
    if samples is None:
        raise bad_input(f"track {track.name}", "no samples", "a track whose file has been read")
    t = np.array(samples.t, dtype=float)
    columns = [_column(samples, name) for name in "xyz"]
    x = np.column_stack([np.zeros(len(t)) if c is None else c for c in columns])
    angle = _column(samples, "angle")
    if angle is not None and not varies(angle):
        angle = None
    shown = [c is not None and varies(c) for c in columns]
    if not any(shown) and angle is None:
        raise bad_input(f"track {track.name}", "only constant columns", "a track of something that moves")
    for array in (t, x, angle):
        if array is not None:
            array.flags.writeable = False
    sigma = track.sigma or estimate_sigma([x[:, i] for i in range(3) if shown[i]])
    sigma_angle = track.sigma_angle or (estimate_sigma([angle]) if angle is not None else 0.0)
    return TrackData(
        track.name, track.body, t, x, angle, (shown[0], shown[1], shown[2]), max(sigma, MIN_SIGMA),
        max(sigma_angle, MIN_SIGMA), track.sigma is not None,
    )
