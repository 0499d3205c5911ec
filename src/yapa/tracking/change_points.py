"""Change points of a track: pieces of parabola, and where its velocity jumps.

A body in flight, one that slides and one that rolls all follow a parabola in each coordinate, nearly. The best
division of the track into parabolas minimises

    Σ over pieces (Σ residuals² / σ² + β),      β = (3 d + 1) ln N + 10,

d the number of coordinates that move (optimal partitioning by dynamic programming; Jackson et al., IEEE Signal
Processing Letters 12, 2005; the penalty is Schwarz's). Between two pieces the velocities of both, taken to the
boundary, differ by more than their noise at a contact, and do not where only the acceleration changed.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from yapa.motion import Array

MAX_FRAMES = 1200
"""Longer tracks are divided at every m-th frame first."""
MAX_IN_PIECE = 500
"""frames of a piece"""
AT_ONCE = 32
"""Ends of pieces that are tried in one go."""
MIN_FRAMES = 3
"""frames of a piece"""
FALL = 10.0
"""m/s²: an acceleration that changes no contact."""


@dataclass(frozen=True)
class Jump:
    """Between two frames, the velocity changes by ``by`` [m/s] with standard deviation ``std`` in each coordinate."""

    before: int
    time: float
    by: Array
    std: float


def go_on() -> None:
    """Nobody asks to stop."""


def pieces(t: Array, x: Array, sigma: float, stop: Callable[[], None] = go_on) -> list[int]:
    """Return first frames of the pieces; the first is 0. ``t`` (N,), ``x`` (N, d). ``stop`` is called often, and raises to stop.

    Parameters
    ----------
    t : (N,) times [s]
    x : (N, 3) places [m]
    sigma : standard deviation of the noise
    stop : sets the flag
    """
    stride = -(-len(t) // MAX_FRAMES)
    if stride == 1:
        return _divide(t, x, sigma, stop)
    coarse = [start * stride for start in _divide(t[::stride], x[::stride], sigma, stop)]
    out = [0]
    for start in coarse[1:]:
        lo, hi = max(out[-1] + MIN_FRAMES, start - 12 * stride), min(start + 12 * stride, len(t))
        parts = _divide(t[lo:hi], x[lo:hi], sigma, stop)
        out += [lo + part for part in parts[1:]] or [start]
    return sorted(set(out))


def _divide(t: Array, x: Array, sigma: float, stop: Callable[[], None]) -> list[int]:
    n, d = x.shape
    penalty = (3 * d + 1) * np.log(max(n, 2)) + 10.0
    best = np.full(n + 1, np.inf)
    best[0] = -penalty
    came = np.zeros(n + 1, dtype=int)
    for first in range(MIN_FRAMES, n + 1, AT_ONCE):
        ends = np.arange(first, min(first + AT_ONCE, n + 1))
        costs = _misfits(t, x, ends) / (1.1 * sigma) ** 2
        for end, cost in zip(ends, costs, strict=True):
            stop()
            low = max(0, end - MAX_IN_PIECE)
            total = best[low : end - MIN_FRAMES + 1] + cost[MIN_FRAMES - 1 : end - low][::-1] + penalty
            k = int(np.argmin(total))
            best[end], came[end] = total[k], low + k
    starts, end = [], n
    while end > 0:
        starts.append(int(came[end]))
        end = int(came[end])
    return starts[::-1]


def _misfits(t: Array, x: Array, ends: NDArray[np.intp]) -> Array:
    """Residual sum of squares of the parabola through the last 1, 2, … frames before each of these ends, (E, most in a piece).

    What would begin before the first frame stands there too, and means nothing.
    """
    count = np.minimum(ends, MAX_IN_PIECE)
    at = np.maximum(ends[:, None] - 1 - np.arange(count.max()), 0)  # from the last frame back
    last = ends - 1
    scale = np.maximum(t[last] - t[ends - count], 1e-12)
    u = (t[at] - t[last][:, None]) / scale[:, None]
    uu = u * u
    s1, s2, s3, s4 = (np.cumsum(power, axis=1) for power in (u, uu, uu * u, uu * uu))
    m = np.arange(1.0, at.shape[1] + 1)
    # the parabola's three functions made orthogonal: 1, u - a, (u - a)² - b (u - a) - c
    a = s1 / m
    q2 = s2 - a * s1
    aa = a * a
    q3 = s3 - 3 * a * s2 + 3 * aa * s1 - m * aa * a
    q4 = s4 - 4 * a * s3 + 6 * aa * s2 - 4 * aa * a * s1 + m * aa * aa
    safe2 = np.where(q2 > 1e-14 * m, q2, 1.0)
    curve = q4 - q3 * q3 / safe2 - q2 * q2 / m
    bends = curve > 1e-13 * m
    total = np.zeros(at.shape)
    for column in x.T:
        y = column[at] - column[last][:, None]
        y0, y1, y2, yy = (np.cumsum(moment, axis=1) for moment in (y, y * u, y * uu, y * y))
        c1 = y1 - a * y0
        c2 = y2 - 2 * a * y1 + aa * y0
        r = yy - y0 * y0 / m
        r = np.where(m > 1, r - c1 * c1 / safe2, r)
        bent = c2 - q3 / safe2 * c1 - q2 / m * y0
        r = np.where(bends, r - bent * bent / np.where(bends, curve, 1.0), r)
        total += np.maximum(np.where(m <= MIN_FRAMES, 0.0, r), 0.0)
    return total


def jumps(t: Array, x: Array, sigma: float, stop: Callable[[], None] = go_on) -> list[Jump]:
    """Return where the velocity jumps, in order of time.

    Parameters
    ----------
    t : (N,) times [s]
    x : (N, 3) places [m]
    sigma : standard deviation of the noise
    stop : sets the flag
    """
    starts = pieces(t, x, sigma, stop)
    edges = [*starts, len(t)]
    speeds = np.abs(np.gradient(x, t, axis=0))
    least = 0.03 * float(np.percentile(speeds, 95)) if len(t) > 3 else 0.0
    out = []
    for k in range(1, len(starts)):
        at = starts[k]
        when = 0.5 * (t[at - 1] + t[at])
        left = _speed_at(when, t[max(edges[k - 1], at - 25) : at], x[max(edges[k - 1], at - 25) : at], sigma)
        right = _speed_at(when, t[at : min(edges[k + 1], at + 25)], x[at : min(edges[k + 1], at + 25)], sigma)
        by, std = right[0] - left[0], float(np.hypot(left[1], right[1]))
        few = min(at - edges[k - 1], edges[k + 1] - at) < 5
        if np.linalg.norm(by) > max((8.0 if few else 5.0) * std, least):
            out.append(Jump(at - 1, float(when), by, std))
    return out


def _speed_at(when: float, t: Array, x: Array, sigma: float) -> tuple[Array, float]:
    """Velocity at a time from a parabola, and its noise; through three frames a line, wrong by up to a frame of falling."""
    order = 2 if len(t) > 3 else 1
    A = np.vander(t - when, order + 1, increasing=True)
    inverse = np.linalg.pinv(A)
    bent = 0.0 if order == 2 else 0.5 * FALL * float(abs(t.mean() - when))
    return (inverse @ x)[1], float(sigma * np.linalg.norm(inverse[1]) + bent)
