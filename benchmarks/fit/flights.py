"""A thrown sphere by a general solver, apart from the engine: drag, exact impacts, Coulomb friction with spin.

x' = v, v' = g - k |v| v; at an impact with the floor the normal speed turns to e times itself and, with slip s = v_x - R w,

    j = min(2/7 |s|, mu (1 + e) |v_n|)  against the slip,      w changes by 5 j / (2 R).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.integrate import solve_ivp

G, AIR, R, MASS = 9.80665, 1.2041, 0.038, 0.18
AREA = np.pi * R * R
START = (0.0, 1.2)


@dataclass(frozen=True)
class Throw:
    """The six numbers of a throw."""

    restitution: float
    friction: float
    vx: float
    vz: float
    spin: float
    drag: float
    growth: float = 0.0
    """Restitution falls by this share for every m/s above 1 m/s: only where the model is to be wrong."""
    radius: float = R
    floor: float = 0.0


@dataclass(frozen=True)
class Flown:
    """Places at the asked times, and for every impact its time, slip over grip limit, and approach speed."""

    x: np.ndarray
    z: np.ndarray
    hits: list[tuple[float, float, float]]

    @property
    def slides(self) -> list[bool]:
        """Of every impact, whether it slid."""
        return [ratio > 1 for _, ratio, _ in self.hits]


def fly(throw: Throw, times: np.ndarray, most: int = 40) -> Flown:
    """Fly and bounce to the last time."""
    k = 0.5 * AIR * throw.drag * AREA / MASS
    level = throw.floor + throw.radius

    def rate(_t, y):
        speed = np.hypot(y[2], y[3])
        return [y[2], y[3], -k * speed * y[2], -G - k * speed * y[3]]

    def touch(_t, y):
        return y[1] - level

    touch.terminal, touch.direction = True, -1
    end = float(times[-1])
    t, w, out, hits = 0.0, throw.spin, np.full((len(times), 2), np.nan), []
    y = np.array([*START, throw.vx, throw.vz])
    while t < end and len(hits) < most:
        s = solve_ivp(rate, (t, end), y, method="DOP853", rtol=1e-10, atol=1e-11, events=touch, dense_output=True)
        inside = (t <= times) & (s.t[-1] >= times)
        if inside.any():
            out[inside] = s.sol(times[inside])[:2].T
        t, y = float(s.t[-1]), s.y[:, -1].copy()
        if not len(s.t_events[0]):
            break
        e = throw.restitution * (1 - throw.growth * max(0.0, -y[3] - 1.0))
        slip, jn = y[2] - throw.radius * w, -(1 + e) * y[3]
        hits.append((t, 2 / 7 * abs(slip) / (throw.friction * jn), -y[3]))
        jt = -np.sign(slip) * min(2 / 7 * abs(slip), throw.friction * jn)
        w -= jt * 5 / (2 * throw.radius)
        y = np.array([y[0], level, y[2] + jt, -e * y[3]])
    return Flown(out[:, 0], out[:, 1], hits)


def drawn(rng: np.random.Generator, hard: bool) -> tuple[Throw, float]:
    """A throw and its clip [s] with 3 – 8 bounces, all well above the speed at which bouncing ends.

    A hard one has at least one sliding and one gripping contact.
    """
    while True:
        sign = rng.choice([-1.0, 1.0])
        if hard:
            throw = Throw(
                rng.uniform(0.5, 0.85),
                rng.uniform(0.05, 0.35),
                sign * rng.uniform(1.0, 4.8),
                rng.uniform(-1.0, 2.5),
                rng.uniform(-140.0, 140.0),
                rng.uniform(0.0, 0.8),
            )
        else:
            throw = Throw(
                rng.uniform(0.5, 0.85),
                rng.uniform(0.2, 0.7),
                sign * rng.uniform(0.3, 1.5),
                rng.uniform(-1.0, 2.0),
                rng.uniform(-25.0, 25.0),
                rng.uniform(0.0, 0.8),
            )
        end = rng.uniform(1.4, 2.2)
        flown = fly(throw, np.array([0.0, end]))
        if not 3 <= len(flown.hits) <= 8 or flown.hits[-1][2] < 0.6 or end - flown.hits[-1][0] < 0.08:
            continue
        if hard and len(set(flown.slides)) < 2:
            continue
        if any(0.97 < ratio < 1.03 for _, ratio, _ in flown.hits):
            continue  # on the edge of grip nothing tells the two apart
        return throw, end
