"""Friction and spin from how a rolling shape's speed along its support changes at each bounce.

With c = κ/(1 + κ), κ = I/(m r²), the speed along the support d at bounce k changes by

    Δv_k = -sign(s_k) min(c |s_k|, μ J_k),     s_k = v_k - r w_k,     J_k = approach + rebound,
    w_{k+1} = w_k - Δv_k / (κ r),

with v_k, Δv_k and J_k read off the flights around the bounce and only μ and the first spin w_1 unknown. Both are laid on a grid;
every cell has a pattern of sliding and gripping bounces, and of each pattern the best cell is kept and mended by one step of
least squares, since within a pattern Δv is linear in μ and w_1. The patterns are then tried in the order of their misfit:
a local search cannot see one from another.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yapa.fitting.initial.seen import Guess, ObservedTrack
from yapa.motion import Array

MAX_PATTERNS = 4
"""patterns that are offered"""
MIN_STD = 1.5e-3
"""m/s: no speed read off a flight is believed to be better than this."""


@dataclass(frozen=True)
class Pattern:
    """Friction and first spin of one pattern of sliding bounces, with half the squared misfit of the speeds."""

    slides: tuple[bool, ...]
    friction: float
    spin: float
    price: float


@dataclass(frozen=True)
class _Bounces:
    v: Array
    dv: Array
    J: Array
    std: Array
    radius: float
    kappa: float

    def changes(self, mu: Array, w: Array) -> tuple[Array, Array]:
        """Modelled Δv, shape (cells, bounces), and whether each slides."""
        c = self.kappa / (1 + self.kappa)
        out, slid = np.empty((len(mu), len(self.v))), np.empty((len(mu), len(self.v)), bool)
        w = w.copy()
        for k in range(len(self.v)):
            slip = self.v[k] - self.radius * w
            grip = c * np.abs(slip)
            slid[:, k] = grip > mu * self.J[k]
            out[:, k] = -np.sign(slip) * np.minimum(grip, mu * self.J[k])
            w = w - out[:, k] / (self.kappa * self.radius)
        return out, slid

    def price(self, changes: Array) -> Array:
        """Half the squared misfit, each bounce clipped at 6 σ."""
        return np.asarray(0.5 * np.minimum(((changes - self.dv) / self.std) ** 2, 36.0).sum(axis=1))


def spin_axis(seen: ObservedTrack) -> tuple[Array, Array] | None:
    """Return direction of travel along the support and the axis that rolls along it; None without bounces on a support.

    Parameters
    ----------
    seen : the track reconstructed as a motion
    """
    if seen.support is None or seen.motion.body(seen.body).kind != "sphere":
        return None
    n = seen.support.normal
    times = np.array([c.time for c in seen.motion.contacts if c.partner == seen.support_body])
    if not len(times):
        return None
    v = seen.motion.trajectory(seen.body).velocity(times)
    across = v - np.outer(v @ n, n)
    d = across[int(np.argmax(np.linalg.norm(across, axis=1)))]
    if np.linalg.norm(d) < 1e-9:
        return None
    k = int(np.argmax(np.abs(d)))
    if abs(d[k]) < 0.999 * np.linalg.norm(d):  # not along one axis of the scene: the spin is not one unknown
        return None
    d = np.eye(3)[k] - n[k] * n
    d /= np.linalg.norm(d)
    return d, np.cross(n, d)


def patterns_of(guess: Guess, seen: ObservedTrack) -> list[Pattern]:
    """Return friction and spin of up to four patterns, best first; nothing where either is not to be found or not at stake.

    Parameters
    ----------
    guess : starting values so far
    seen : the track reconstructed as a motion
    """
    problem = guess.problem
    axes = spin_axis(seen)
    if axes is None or seen.support_body is None:
        return []
    read = _read(seen, axes[0])
    if read is None:
        return []
    axis = int(np.argmax(np.abs(axes[1])))
    path = f"bodies.{seen.body}.angular_velocity.{'xyz'[axis]}"
    spin = next((u for u in problem.unknowns if u.path == path), None)
    frictions = guess.pair_range(seen.body, seen.support_body, "friction")
    if spin is not None and seen.data.angle is None:
        w = np.linspace(spin.low, spin.high, 321)
    else:
        own = problem.case.bodies[seen.body].angular_velocity
        w = np.array([guess.values.get(path, own[axis] if isinstance(own, tuple) else 0.0)])
    law = problem.program.law_between(problem.case.bodies[seen.body].shapes[0].surface,
                                      problem.case.bodies[seen.support_body].shapes[0].surface)
    mu = np.array([law["friction"]])
    if frictions is not None:
        mu = np.unique(np.concatenate([np.linspace(frictions[0], min(frictions[1], 0.6), 121), np.linspace(0.6, frictions[1], 12)]))
        mu = mu[(mu >= frictions[0]) & (mu <= frictions[1])]
    if len(mu) * len(w) < 2:
        return []
    sign = float(np.sign(axes[1][axis]))
    M, W = (a.ravel() for a in np.meshgrid(mu, w * sign))
    return _best(read, M, W, sign, (mu[0], mu[-1]))


def _read(seen: ObservedTrack, d: Array) -> _Bounces | None:
    path, account = seen.motion.trajectory(seen.body), seen.motion.body(seen.body)
    rows = []
    for c in seen.motion.contacts:
        if c.partner != seen.support_body or not c.rebound > 0:
            continue
        k = int(np.argmin(np.abs(path.t - c.time)))
        rows.append((float(path.velocity_before[k] @ d), float((path.velocity_after[k] - path.velocity_before[k]) @ d),
                     c.approach + c.rebound,
                     max(1.4 * c.speed_std, MIN_STD)))
    if not rows:
        return None
    v, dv, J, std = np.array(rows).T
    kappa = 0.4 if account.inertia is None or not account.mass else account.inertia[0] / (account.mass * account.bounding_radius**2)
    return _Bounces(v, dv, J, std, account.bounding_radius, float(kappa))


def _best(read: _Bounces, mu: Array, w: Array, sign: float, ends: tuple[float, float]) -> list[Pattern]:
    changes, slid = read.changes(mu, w)
    price = read.price(changes)
    codes = slid @ (1 << np.arange(slid.shape[1]))
    out = []
    for code in np.unique(codes):
        inside = np.flatnonzero(codes == code)
        best = inside[int(np.argmin(price[inside]))]
        m, s, p = float(mu[best]), float(w[best]), float(price[best])
        if not slid[best].any():  # friction says nothing here: well inside the plateau
            flat = mu[inside[price[inside] < p + 0.5]]
            m = float(flat.min() + 0.6 * (flat.max() - flat.min()))
        else:
            s = _spin_near_rolling(read, w[inside[(price[inside] < p + 0.5) & (np.abs(mu[inside] - m) < 1e-9)]], s)
        for _ in range(2):
            m, s, p = _mended(read, m, s, p, slid[best], ends)
        out.append(Pattern(tuple(slid[best].tolist()), m, sign * s, p))
    return sorted(out, key=lambda q: q.price)[:MAX_PATTERNS]


def _spin_near_rolling(read: _Bounces, alike: Array, s: float) -> float:
    """Of spins that the bounces do not tell apart, one near the rolling end, from where a descent sees the pattern's end."""
    rolling = float(read.v[0]) / read.radius
    near = float(alike[int(np.argmin(np.abs(alike - rolling)))])
    far = float(alike[int(np.argmax(np.abs(alike - rolling)))])
    return near + 0.1 * (far - near) if np.ptp(alike) > 0.1 * abs(s) else s


def _mended(read: _Bounces, m: float, s: float, p: float, pattern: np.ndarray, ends: tuple[float, float]
            ) -> tuple[float, float, float]:
    """One step of least squares within a pattern; the old values where that leaves it or does not help."""
    here = read.changes(np.array([m, m + 1e-6, m]), np.array([s, s, s + 1e-4]))[0] / read.std
    J = np.column_stack([(here[1] - here[0]) / 1e-6, (here[2] - here[0]) / 1e-4])
    step = np.linalg.lstsq(J, read.dv / read.std - here[0], rcond=1e-8)[0]
    for share in (1.0, 0.5, 0.2):
        a, b = float(np.clip(m + share * step[0], *ends)), s + share * float(step[1])
        changes, slid = read.changes(np.array([a]), np.array([b]))
        q = float(read.price(changes)[0])
        if np.array_equal(slid[0], pattern) and q <= p:
            return a, b, q
    return m, s, p
