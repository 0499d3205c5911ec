"""Ballistic segments of a track: contacts between its frames, and the flights between them.

In flight x(τ) = x₀ + v₀ τ + ½ g τ² - k Q(τ), where Q is the double integral of |v| v; taken with
the present velocity it makes the place linear in x₀, v₀ and one drag constant k [1/m] shared by
all flights, so a few passes of linear least squares fit them all (no simulation).

A contact shows as a jump of velocity (``segments``). Its time is then where the two neighbouring flights meet.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from math import sqrt
from typing import Any

import numpy as np
from numpy.typing import NDArray

from yapa.motion import Array
from yapa.tracking.change_points import go_on, jumps
from yapa.tracking.track_data import TrackData

MIN_FRAMES = 6
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
        """Return place and velocity at times, shape (T, 3); drag by its second-order expansion over the flight.

        Parameters
        ----------
        t : (N,) times [s]
        """
        tau = np.atleast_1d(np.asarray(t, dtype=float) - self.origin)[:, None]
        return _fly(self.x0, self.v0, self.k, self.gravity, tau)

    def std(self, t: float) -> tuple[float, float]:
        """Return standard deviation of one coordinate of place and of velocity at a time.

        Parameters
        ----------
        t : [s]
        """
        tau = t - self.origin
        row = np.array([1.0, tau])
        return float(np.sqrt(row @ self.cov @ row)), float(np.sqrt(self.cov[1, 1]))


FARTHEST = 1e60
"""m for a drag constant of 1/m: a flight that its drag takes farther is no flight"""


def _fly(x0: Array, v0: Array, k: float, g: Array, tau: Array) -> tuple[Array, Array]:
    """Runge-Kutta 4 in four equal steps for each time at once."""
    if k == 0.0:
        return x0 + tau * (v0 + 0.5 * tau * g), v0 + tau * g
    if len(tau) == 1:
        return _fly_once(x0, v0, k, g, float(tau[0, 0]))
    h = tau / 4.0
    x, v = x0, np.broadcast_to(v0, (len(tau), 3))

    def pull(u: Array) -> Array:
        return np.asarray(g - k * np.sqrt(np.einsum("ij,ij->i", u, u))[:, None] * u)

    with np.errstate(over="ignore", invalid="ignore"):  # backward, drag blows a flight up: long before it began it is nowhere
        for _ in range(4):
            a1 = pull(v)
            a2 = pull(v + 0.5 * h * a1)
            a3 = pull(v + 0.5 * h * a2)
            a4 = pull(v + h * a3)
            x = x + h * (v + h / 6 * (a1 + a2 + a3))
            v = v + h / 6 * (a1 + 2 * a2 + 2 * a3 + a4)
    return x, v


def _fly_once(x0: Array, v0: Array, k: float, g: Array, tau: float) -> tuple[Array, Array]:
    """The same at one time."""
    h = tau / 4.0
    x, v, pull = x0.tolist(), v0.tolist(), g.tolist()

    def rate(u: list[float]) -> list[float]:
        drag = k * sqrt(u[0] * u[0] + u[1] * u[1] + u[2] * u[2])
        return [a - drag * b for a, b in zip(pull, u, strict=True)]

    def ahead(u: list[float], by: float, a: list[float]) -> list[float]:
        return [p + by * q for p, q in zip(u, a, strict=True)]

    for _ in range(4):
        a1 = rate(v)
        a2 = rate(ahead(v, 0.5 * h, a1))
        a3 = rate(ahead(v, 0.5 * h, a2))
        a4 = rate(ahead(v, h, a3))
        x = [p + h * (u + h / 6 * (a + b + c)) for p, u, a, b, c in zip(x, v, a1, a2, a3, strict=True)]
        v = [u + h / 6 * (a + 2 * b + 2 * c + d) for u, a, b, c, d in zip(v, a1, a2, a3, a4, strict=True)]
    return np.array([x]), np.array([v])


def clear_of_outliers(t: Array, x: Array, sigma: float) -> NDArray[np.bool_]:
    """Return which frames stand on the line of three neighbours on at least one side, within 16 σ and what a flight bends.

    A bounce leaves every frame on the line of one side; an outlier stands off both. The worst of each neighbourhood goes first,
    since it spoils the lines of its neighbours. ``t`` (N,), ``x`` (N, K).

    Parameters
    ----------
    t : (N,) times [s]
    x : (N, 3) places [m]
    sigma : standard deviation of the noise
    """
    keep = np.ones(len(t), bool)
    for _ in range(12 if x.shape[1] else 0):
        at = np.flatnonzero(keep)
        if len(at) < 12:
            break
        off = _off_both_sides(t[at], x[at])
        worst = np.array([off[max(0, k - 4) : k + 5].max() for k in range(len(off))])
        bad = (off > 16 * sigma) & (off >= worst)
        if not bad.any():
            break
        keep[at[bad]] = False
    return keep


def _off_both_sides(t: Array, x: Array) -> Array:
    """Of every frame, how far it stands off the nearer of the lines through three frames before and after it [m]."""
    sides = []
    for order in (slice(None), slice(None, None, -1)):
        s, y = t[order], x[order]
        first, second, third = s[:-3], s[1:-2], s[2:-1]
        mean = (first + second + third) / 3
        a, b, c = (y[k : len(y) - 3 + k] for k in range(3))
        spread = (first - mean) ** 2 + (second - mean) ** 2 + (third - mean) ** 2
        rate = ((first - mean)[:, None] * a + (second - mean)[:, None] * b + (third - mean)[:, None] * c) / spread[:, None]
        ahead = (a + b + c) / 3 + rate * (s[3:] - mean)[:, None]
        gap = np.abs(y[3:] - ahead).max(axis=1) - 10.0 * np.abs(s[3:] - mean) * np.abs(s[3:] - first)
        sides.append(np.concatenate([np.full(3, np.inf), gap])[order])
    return np.asarray(np.minimum(*sides))


def jump_times(track: TrackData, up: Array, support: float | None, stop: Callable[[], None] = go_on) -> list[float]:
    """Return rough times of the contacts of a track [s].

    ``support`` is the height at which the centre touches the support along ``up``; an upward jump high above it is an
    outlier, unless it is a sideways hit.

    Parameters
    ----------
    track : the measured track
    up : (3,) direction against gravity
    support : plane on which the body lies
    stop : sets the flag
    """
    good = np.isfinite(track.x).all(axis=1)
    t, x = track.t[good], track.x[good]
    shown = np.flatnonzero(track.shown)
    if len(t) < 8 or not len(shown):
        return []
    clear = clear_of_outliers(t, x[:, shown], track.sigma)
    t, x = t[clear], x[clear]
    out = []
    for jump in jumps(t, x[:, shown], track.sigma, stop):
        by = np.zeros(3)
        by[shown] = jump.by
        rise = float(by @ up)
        across = float(np.linalg.norm(by - rise * up))
        if support is not None:
            near = x[max(0, jump.before - 1) : jump.before + 3] @ up
            high = float(near.min()) - support
            reach = abs(rise) / track.rate + 20 * track.sigma
            if rise > across and high > 0.1 * float(np.ptp(x @ up)) + reach:
                continue
        out.append(jump.time)
    return out


def _trimmed(track: TrackData, piece: NDArray[np.intp], gravity: Array, last: bool) -> NDArray[np.intp]:
    """A flight without frames beyond a contact that was not seen where it was: too late in the track, or beside an outlier."""

    def misfit(rows: NDArray[np.intp]) -> float:
        tau = (track.t[rows] - track.t[rows].mean())[:, None]
        A = np.hstack([np.ones_like(tau), tau])
        y = track.x[rows] - 0.5 * gravity * tau**2
        r = y - A @ np.linalg.lstsq(A, y, rcond=None)[0]
        return float(np.sqrt(np.mean(r[:, np.array(track.shown)] ** 2))) / track.sigma

    here = misfit(piece)
    while here > 3.0 and len(piece) > MIN_FRAMES:
        cuts = [piece[:-1]] if last else [piece[:-1], piece[1:]]
        shorter, cut = min(((misfit(c), c) for c in cuts), key=lambda one: one[0])
        if shorter > (0.8 if last else 0.5) * here:
            break
        piece, here = cut, shorter
    return piece


@np.errstate(over="ignore", invalid="ignore")  # places in another unit than metres may overflow: such a flight fits none
def fit_arcs(
    track: TrackData, cuts: list[float], gravity: Array, held: list[bool], strict: bool = False
) -> list[Arc | None]:
    """Return the flights between cut times, one for each piece; None where held on a support or too short to resolve.

    Parameters
    ----------
    track : the measured track
    cuts : (C,) times of contacts [s]
    gravity : (3,) [m/s²]
    held : (C + 1,) whether the body lies on a support between two cuts
    strict : whether a flight that does not follow its frames is None too
    """
    edges = [float(track.t[0]), *cuts, float(track.t[-1])]
    pieces = _pieces_between(track, edges, gravity, held)
    k = spread = 0.0
    bends = [np.zeros(2)] * len(pieces)
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
                if not np.isfinite(Q).all() or np.abs(Q).max(initial=0.0) > FARTHEST:
                    # as fast as that, a flight with this drag is nowhere: it says nothing of drag
                    Q = np.zeros((len(piece), 3))
            y = track.x[piece] - 0.5 * gravity * tau**2
            wA = A * weights[i][:, None]
            project = np.linalg.pinv(wA)
            shown = np.array(track.shown)
            res_y = weights[i][:, None] * y - wA @ (project @ (weights[i][:, None] * y))
            res_q = weights[i][:, None] * Q - wA @ (project @ (weights[i][:, None] * Q))
            free = max(len(piece) * int(shown.sum()) - 2 * int(shown.sum()), 1)
            best = (res_y**2)[:, shown].sum() - (res_y * res_q)[:, shown].sum() ** 2 / max((res_q**2)[:, shown].sum(), 1e-300)
            if old is None or best <= 9.0 * track.sigma**2 * free + 20 * track.sigma**2:  # a flight, with some drag
                numerator -= float((res_y * res_q)[:, shown].sum())
                denominator += float((res_q**2)[:, shown].sum())
            c = project @ (weights[i][:, None] * (y + k * Q))
            each = project @ (weights[i][:, None] * Q)
            bends[i] = each[:, int(np.argmax(np.abs(each[1])))]
            r = y + k * Q - A @ c
            r = np.where(shown, r, 0.0)
            size = np.linalg.norm(r, axis=1) / track.sigma
            weights[i] = 6.0 / np.maximum(size, 6.0) if sweep < 3 else np.where(size < 6, 1.0, 0.0)
            if weights[i].sum() < MIN_FRAMES:
                weights[i] = np.ones(len(piece))
            sols[i] = (c[0], c[1], wA, t0)
        if denominator > 0 and sweep >= 1:
            k = min(max(0.0, numerator / denominator), 5.0)  # a heavier drag would stop it within a hand
            spread = track.sigma / np.sqrt(denominator)
            if k < 3.0 * spread:  # not seen above the noise
                k = spread = 0.0
    out: list[Arc | None] = []
    for i, s in enumerate(sols):
        if s is None:
            out.append(None)
            continue
        cov = np.linalg.pinv(s[2].T @ s[2]) * track.sigma**2 + spread**2 * np.outer(bends[i], bends[i])
        arc = Arc(edges[i], edges[i + 1], s[3], s[0], s[1], k, gravity, cov, len(pieces[i]))
        out.append(arc if not strict or _fits(arc, track, pieces[i], weights[i]) else None)
    return out


def _pieces_between(track: TrackData, edges: list[float], gravity: Array, held: list[bool]) -> list[NDArray[np.intp]]:
    """The frames of every flight between two edges, without those beside a contact; none where it is held or too short."""
    good = np.isfinite(track.x).all(axis=1) & any(track.shown)  # an angle alone has no flights
    pieces: list[NDArray[np.intp]] = []
    pad = 0.25 / track.rate
    for i in range(len(edges) - 1):
        lo = edges[i] + (pad if i > 0 else -1.0)
        hi = edges[i + 1] - (pad if i < len(edges) - 2 else -1.0)
        inside = np.flatnonzero(good & (track.t > lo) & (track.t < hi))
        pieces.append(inside if len(inside) >= MIN_FRAMES and not held[i] else np.zeros(0, dtype=np.intp))
    return [_trimmed(track, piece, gravity, k == len(pieces) - 1) if len(piece) else piece for k, piece in enumerate(pieces)]


def _fits(arc: Arc, track: TrackData, piece: NDArray[np.intp], weights: Array) -> bool:
    """Whether a flight follows its frames as closely as their noise, and enough of them."""
    used = weights > 0.5
    if used.sum() < MIN_FRAMES:
        return False
    r = (track.x[piece][used] - arc.at(track.t[piece][used])[0])[:, np.array(track.shown)] / track.sigma
    free = r.size - 2 * r.shape[1]
    return bool(float((r**2).sum()) < (2.0 if track.sigma_given else 4.0) ** 2 * free + 12.0)


def meeting_time(before: Arc, after: Arc, direction: Array, guess: float, reach: float) -> tuple[float, float] | None:
    """Return when two flights meet along a direction, near a guess: (time, standard deviation).

    Parameters
    ----------
    before : the earlier flight
    after : the later flight
    direction : (3,) unit vector
    guess : a time near the meeting [s]
    reach : how far from the guess it may be [s]
    """
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
    return t, 1.2 * float(np.hypot(sb, sa) / abs(rate))
