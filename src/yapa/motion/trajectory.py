"""The curve of one body: a cubic Hermite spline through its samples and contacts.

Between its samples and contacts a motion is a cubic Hermite curve (place and velocity at every knot; at a
contact the velocity before and after), which is exact in free flight without drag and within
1e-11 m of the simulation with it, at 240 samples a second.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from yapa.motion.arrays import Array

STAYS = 1e-9
"""m: what a body that rests may creep"""


@dataclass(frozen=True)
class Trajectory:
    """The knots of one body's motion: time, place, velocity arriving and leaving, turn and spin."""

    t: Array
    x: Array
    velocity_before: Array
    velocity_after: Array
    angle: Array
    omega_before: Array
    omega_after: Array

    def _cell(self, times: Array) -> tuple[NDArray[np.intp], Array, Array]:
        i = np.minimum(np.maximum(self.t.searchsorted(times, side="right") - 1, 0), len(self.t) - 2)
        start = self.t[i]
        h = self.t[i + 1] - start
        s = np.divide(times - start, h, out=np.zeros_like(h), where=h > 0)
        return i, np.minimum(np.maximum(s, 0.0), 1.0)[:, None], h[:, None]

    def position(self, times: Array) -> Array:
        """Return places [m] at times [s], shape (T, 3); held constant outside.

        Parameters
        ----------
        times : (T,) times [s]
        """
        i, s, h = self._cell(np.asarray(times, dtype=float))
        return _hermite(self.x[i], self.velocity_after[i], self.x[i + 1], self.velocity_before[i + 1], s, h)

    def position_and_velocity(self, times: Array) -> tuple[Array, Array]:
        """Return what :meth:`position` and :meth:`velocity` do, at once.

        Parameters
        ----------
        times : (T,) times [s]
        """
        i, s, h = self._cell(np.asarray(times, dtype=float))
        x0, v0, x1, v1 = self.x[i], self.velocity_after[i], self.x[i + 1], self.velocity_before[i + 1]
        return _hermite(x0, v0, x1, v1, s, h), _hermite_rate(x0, v0, x1, v1, s, h)

    def rests_between(self, start: float, end: float) -> bool:
        """Return whether the body stays where it is between two times, as far as its knots show.

        Parameters
        ----------
        start, end : [s]
        """
        a, b = int(self.t.searchsorted(start)), int(self.t.searchsorted(end, side="right"))
        return b - a > 1 and bool((np.ptp(self.x[a:b], axis=0) < STAYS).all())

    def velocity(self, times: Array) -> Array:
        """Return velocities [m/s] at times, shape (T, 3); just after a contact at its time.

        Parameters
        ----------
        times : (T,) times [s]
        """
        i, s, h = self._cell(np.asarray(times, dtype=float))
        return _hermite_rate(self.x[i], self.velocity_after[i], self.x[i + 1], self.velocity_before[i + 1], s, h)

    def rotation(self, times: Array) -> Array:
        """Return turn [rad], the time integral of the angular velocity, shape (T, 3).

        Parameters
        ----------
        times : (T,) times [s]
        """
        i, s, h = self._cell(np.asarray(times, dtype=float))
        return _hermite(self.angle[i], self.omega_after[i], self.angle[i + 1], self.omega_before[i + 1], s, h)

    def angular_velocity(self, times: Array) -> Array:
        """Return angular velocity [rad/s], shape (T, 3).

        Parameters
        ----------
        times : (T,) times [s]
        """
        i, s, h = self._cell(np.asarray(times, dtype=float))
        return _hermite_rate(self.angle[i], self.omega_after[i], self.angle[i + 1], self.omega_before[i + 1], s, h)

    def until(self, end: float) -> Trajectory:
        """Return the curve up to a time, with a knot there.

        Parameters
        ----------
        end : a time after its first knot [s]
        """
        n = int(self.t.searchsorted(end, side="left"))
        if n >= len(self.t):
            return self
        at = np.array([end])
        v, w = self.velocity(at), self.angular_velocity(at)
        return Trajectory(np.append(self.t[:n], end), np.vstack([self.x[:n], self.position(at)]),
                          np.vstack([self.velocity_before[:n], v]), np.vstack([self.velocity_after[:n], v]),
                          np.vstack([self.angle[:n], self.rotation(at)]),
                          np.vstack([self.omega_before[:n], w]), np.vstack([self.omega_after[:n], w]))

    def knots_between(self, start: float, end: float) -> Array:
        """Return knot times in [start, end], both ends included.

        Parameters
        ----------
        start : [s]
        end : [s]
        """
        inner = self.t[(self.t > start) & (self.t < end)]
        return np.concatenate([[start], inner, [end]])

    def maximum_along(self, along: Array, start: float, end: float) -> tuple[float, float]:
        """Return greatest place along a direction in [start, end]: (value, time), exact between knots.

        Parameters
        ----------
        along : (3,) direction
        start : [s]
        end : [s]
        """
        knots = self.knots_between(start, end)
        heights = self.position(knots) @ along
        best = int(np.argmax(heights))
        value, when = float(heights[best]), float(knots[best])
        first = max(int(self.t.searchsorted(start, side="right")) - 1, 0)
        last = int(self.t.searchsorted(end))
        times, tops = self._local_maxima(along, slice(first, max(last, first + 1)))
        inside = (times >= start) & (times <= end)
        if inside.any():
            k = int(np.argmax(np.where(inside, tops, -np.inf)))
            if tops[k] > value:
                value, when = float(tops[k]), float(times[k])
        return value, when

    def _local_maxima(self, along: Array, cells: slice) -> tuple[Array, Array]:
        """Times and places along a direction of the tops inside cells (each between two knots), at most one in each."""
        t0, x0 = self.t[:-1][cells], self.x[:-1][cells] @ along
        h = self.t[1:][cells] - t0
        c, d = (self.velocity_after[:-1][cells] @ along) * h, (self.velocity_before[1:][cells] @ along) * h
        up = self.x[1:][cells] @ along - x0
        a, b = c + d - 2 * up, 3 * up - 2 * c - d  # x0 + s (c + s (b + s a)); its slope falls through zero at s
        root = np.sqrt(np.maximum(b * b - 3 * a * c, 0.0))
        with np.errstate(divide="ignore", invalid="ignore"):
            s = np.where(b <= 0, c / (root - b), -(b + root) / (3 * a))
        found = np.isfinite(s) & (s > 0) & (s < 1) & (root > 0)
        s = s[found]
        return t0[found] + s * h[found], x0[found] + s * (c[found] + s * (b[found] + s * a[found]))


def _hermite(x0: Array, v0: Array, x1: Array, v1: Array, s: Array, h: Array) -> Array:
    d = x1 - x0
    return x0 + s * (h * v0 + s * (3 * d - h * (2 * v0 + v1) + s * (h * (v0 + v1) - 2 * d)))


def _hermite_rate(x0: Array, v0: Array, x1: Array, v1: Array, s: Array, h: Array) -> Array:
    safe = np.where(h > 0, h, 1.0)
    d = (x1 - x0) / safe
    return np.where(h > 0, v0 + s * (2 * (3 * d - 2 * v0 - v1) + s * 3 * (v0 + v1 - 2 * d)), v0)
