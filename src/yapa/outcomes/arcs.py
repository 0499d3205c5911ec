"""Contacts between the frames of a track, and the flights between them.

In flight x(τ) = x₀ + v₀ τ + ½ g τ² - k Q(τ), where Q is the double integral of |v| v; taken with
the present velocity it makes the place linear in x₀, v₀ and one drag constant k [1/m] shared by
all flights, so a few passes of linear least squares fit them all (no simulation).

A contact shows as a jump of velocity: the slopes of straight lines through w frames on either
side differ by more than they do one window before and after, and than noise allows. Its time is
then where the two neighbouring flights meet.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from yapa.motion import Array
from yapa.outcomes.track import TrackData

LEAST_FRAMES = 6
"""Flights with fewer frames are not resolved."""


@dataclass(frozen=True)
class Arc:
    """A fitted flight from ``start`` to ``end``: place and velocity at ``origin``, shared drag ``k``."""

    start: float
    end: float
    origin: float
    x0: Array
    v0: Array
    k: float
    gravity: Array
    cov: Array
    frames: int

    def at(self, t: float | Array) -> tuple[Array, Array]:
        """Place and velocity at times, shape (T, 3); drag by its second-order expansion over the flight."""
        tau = np.atleast_1d(np.asarray(t, dtype=float) - self.origin)[:, None]
        return _fly(self.x0, self.v0, self.k, self.gravity, tau)

    def std(self, t: float) -> tuple[float, float]:
        """Standard deviation of one coordinate of place and of velocity at a time."""
        tau = t - self.origin
        row = np.array([1.0, tau])
        return float(np.sqrt(row @ self.cov @ row)), float(np.sqrt(self.cov[1, 1]))


def _fly(x0: Array, v0: Array, k: float, g: Array, tau: Array) -> tuple[Array, Array]:
    """Runge-Kutta 4 in eight equal steps for each time at once."""
    h = tau / 8.0
    x, v = np.broadcast_to(x0, (len(tau), 3)).copy(), np.broadcast_to(v0, (len(tau), 3)).copy()

    def pull(u: Array) -> Array:
        return g - k * np.linalg.norm(u, axis=1, keepdims=True) * u

    for _ in range(8):
        a1 = pull(v)
        a2 = pull(v + 0.5 * h * a1)
        a3 = pull(v + 0.5 * h * a2)
        a4 = pull(v + h * a3)
        x = x + h * (v + h / 6 * (a1 + a2 + a3))
        v = v + h / 6 * (a1 + 2 * a2 + 2 * a3 + a4)
    return x, v


def _slopes(t: Array, x: Array, w: int) -> Array:
    """Slope of the straight line through frames i … i+w-1, for every i. Shape (N-w+1, 3)."""
    n = len(t) - w + 1
    index = np.arange(n)[:, None] + np.arange(w)
    tt = t[index] - t[index].mean(axis=1, keepdims=True)
    return np.einsum("nw,nwd->nd", tt, x[index]) / (tt**2).sum(axis=1)[:, None]


def _outlier_free(x: Array, sigma: float) -> Array:
    """Frames further than 8σ from the running median of five are replaced by it."""
    if len(x) < 5:
        return x
    padded = np.pad(x, ((2, 2), (0, 0)), mode="edge")
    median = np.median(np.stack([padded[i : i + len(x)] for i in range(5)]), axis=0)
    spread = np.abs(np.diff(median, axis=0, prepend=median[:1])) * 2
    far = np.abs(x - median) > 8 * sigma + spread
    return np.where(far, median, x)


def jump_times(track: TrackData, up: Array, support: float | None) -> list[float]:
    """Rough times of the contacts of a track [s], strongest kept where two are too close.

    ``support`` is the height at which the centre touches the support along ``up``; jumps high
    above it are sideways hits or outliers.
    """
    good = np.isfinite(track.x).all(axis=1)
    t, x = track.t[good], _outlier_free(track.x[good], track.sigma)
    w = 5 if track.rate < 180 else 6
    if len(t) < 2 * w + 2:
        return []
    slopes = _slopes(t, x, w)
    jump = slopes[w:] - slopes[:-w]
    when = 0.5 * (t[w - 1 : -w] + t[w:][: len(jump)])
    noise = np.sqrt(2.0) * track.sigma * np.sqrt(12.0 / (w * (w * w - 1.0))) * track.rate
    # what changes slowly (gravity, sliding friction) is the same one window before and after
    background = 0.5 * (np.roll(jump, w, axis=0) + np.roll(jump, -w, axis=0))
    background[:w], background[-w:] = np.roll(jump, -w, axis=0)[:w], np.roll(jump, w, axis=0)[-w:]
    jump = jump - background
    noise *= np.sqrt(1.5)
    rise = jump @ up
    across = np.linalg.norm(jump - np.outer(rise, up), axis=1)
    strength = np.maximum(rise / (5 * noise), across / (7 * noise))
    if support is not None:
        height = x[w - 1 : -w][: len(jump)] @ up - support
        strength = np.where((height > 0.25 * np.ptp(x @ up) + 20 * track.sigma) & (rise / 5 > across / 7), 0, strength)
    found: list[int] = []
    for i in np.argsort(-strength):
        if strength[i] < 1.0:
            break
        if all(abs(int(i) - j) >= 2 * w for j in found):
            found.append(int(i))
    return sorted(float(when[i]) for i in found)


def _without_tail(track: TrackData, piece: NDArray[np.intp], gravity: Array) -> NDArray[np.intp]:
    """The last flight without frames after a contact too late in the track to be seen."""

    def misfit(rows: NDArray[np.intp]) -> float:
        tau = (track.t[rows] - track.t[rows].mean())[:, None]
        A = np.hstack([np.ones_like(tau), tau])
        y = track.x[rows] - 0.5 * gravity * tau**2
        r = y - A @ np.linalg.lstsq(A, y, rcond=None)[0]
        return float(np.sqrt(np.mean(r[:, np.array(track.shown)] ** 2))) / track.sigma

    here = misfit(piece)
    while here > 3.0 and len(piece) > LEAST_FRAMES:
        shorter = misfit(piece[:-1])
        if shorter > 0.8 * here:
            break
        piece, here = piece[:-1], shorter
    return piece


def fit_arcs(track: TrackData, cuts: list[float], gravity: Array, held: list[bool]) -> list[Arc | None]:
    """Fit the flights between cut times; None where held on a support or too short to resolve."""
    edges = [float(track.t[0]), *cuts, float(track.t[-1])]
    good = np.isfinite(track.x).all(axis=1)
    pieces: list[NDArray[np.intp]] = []
    pad = 0.25 / track.rate
    for i in range(len(edges) - 1):
        lo = edges[i] + (pad if i > 0 else -1.0)
        hi = edges[i + 1] - (pad if i < len(edges) - 2 else -1.0)
        inside = np.flatnonzero(good & (track.t > lo) & (track.t < hi))
        pieces.append(inside if len(inside) >= LEAST_FRAMES and not held[i] else np.zeros(0, dtype=np.intp))
    if pieces and len(pieces[-1]):
        pieces[-1] = _without_tail(track, pieces[-1], gravity)
    k = 0.0
    sols: list[tuple[Array, Array, Any, float] | None] = [None] * len(pieces)
    weights = [np.ones(len(p)) for p in pieces]
    for sweep in range(6):
        numerator = denominator = 0.0
        for i, piece in enumerate(pieces):
            if not len(piece):
                continue
            t0 = float(track.t[piece].mean())
            tau = (track.t[piece] - t0)[:, None]
            A = np.hstack([np.ones_like(tau), tau])
            old = sols[i]
            Q = np.zeros((len(piece), 3))
            if old is not None:
                # difference between flight without and with drag, per unit k
                unit = 0.01
                Q = (_fly(old[0], old[1], 0.0, gravity, tau)[0] - _fly(old[0], old[1], unit, gravity, tau)[0]) / unit
            y = track.x[piece] - 0.5 * gravity * tau**2
            wA = A * weights[i][:, None]
            project = np.linalg.pinv(wA)
            shown = np.array(track.shown)
            res_y = weights[i][:, None] * y - wA @ (project @ (weights[i][:, None] * y))
            res_q = weights[i][:, None] * Q - wA @ (project @ (weights[i][:, None] * Q))
            numerator -= float((res_y * res_q)[:, shown].sum())
            denominator += float((res_q**2)[:, shown].sum())
            c = project @ (weights[i][:, None] * (y + k * Q))
            r = y + k * Q - A @ c
            r = np.where(shown, r, 0.0)
            size = np.linalg.norm(r, axis=1) / track.sigma
            weights[i] = np.where(size < 6, 1.0, 6.0 / size) if sweep < 3 else np.where(size < 6, 1.0, 0.0)
            if weights[i].sum() < LEAST_FRAMES:
                weights[i] = np.ones(len(piece))
            sols[i] = (c[0], c[1], np.linalg.pinv(wA.T @ wA) * track.sigma**2, t0)
        if denominator > 0 and sweep >= 1:
            k = max(0.0, numerator / denominator)
            if k * np.sqrt(denominator) < 2.0 * track.sigma:  # not seen above the noise
                k = 0.0
    return [
        None if s is None else Arc(edges[i], edges[i + 1], s[3], s[0], s[1], k, gravity, s[2], len(pieces[i]))
        for i, s in enumerate(sols)
    ]


def meeting_time(before: Arc, after: Arc, direction: Array, guess: float, reach: float) -> tuple[float, float] | None:
    """When two flights meet along a direction, near a guess: (time, standard deviation)."""
    t = guess
    for _ in range(20):
        xb, vb = before.at(t)
        xa, va = after.at(t)
        gap = float((xa[0] - xb[0]) @ direction)
        rate = float((va[0] - vb[0]) @ direction)
        if abs(rate) < 1e-9:
            return None
        step = gap / rate
        t -= step
        if abs(t - guess) > reach:
            return None
        if abs(step) < 1e-12:
            break
    sb, sa = before.std(t)[0], after.std(t)[0]
    return t, float(np.hypot(sb, sa) / abs(rate))
