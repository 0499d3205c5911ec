"""Residuals of curves: a quantity of a body against time, simulated less measured, over its σ.

The quantity is read off the motion at the times of the curve; where the run ended before a time, the last value stands, and each
such value
counts by how much of the time is missing.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from yapa.case.bounds import MAX_DURATION
from yapa.case.changed_numbers import with_links
from yapa.case.curves import Curve
from yapa.case.model import Case
from yapa.case.unknowns import Unknown, from_unit_box
from yapa.engine.kernels.layout import run_code
from yapa.engine.simulate import READ_RATE, motion_of, program_for, sample_times
from yapa.errors import bad_input
from yapa.fitting.problem.cancel import Cancel, Cancelled, LimitReached
from yapa.motion import Array, Motion
from yapa.outcomes.kinds.time_until import history

LATE = 100.0
"""σ: what a value counts that lies a whole clip beyond the end of the run"""


class CurvePart:
    """The curves of a case.

    Parameters
    ----------
    case : with curves
    unknowns : what may change
    places : (U,) place in the joint vector of every unknown
    cancel : stops the work where it is set

    Raises
    ------
    InputError
        If a curve begins before the start, or what it is of is not known.
    """

    def __init__(self, case: Case, unknowns: Sequence[Unknown], places: np.ndarray, cancel: Cancel) -> None:
        self.case, self.unknowns, self.places, self.cancel = case, list(unknowns), places, cancel
        self.curves = case.curves
        self.program = program_for(case)
        self.simulations = 0
        self.limit: int | None = None
        for curve in self.curves:
            if curve.t[0] < 0:
                raise bad_input(f"curves.{curve.name}", f"a first sample at {curve.t[0]:g} s",
                                "times from the start of the motion on")
        self.end = min(max(case.duration, *(curve.t[-1] for curve in self.curves)), MAX_DURATION)
        self.times = sample_times(self.end, READ_RATE)
        self.y = [np.array([np.nan if v is None else v for v in curve.y], dtype=float) for curve in self.curves]
        self.used = [np.isfinite(y) for y in self.y]
        self.scales = [curve.sigma or max(0.1 * float(np.nanstd(y)), 1e-3 * float(np.nanmax(np.abs(y))), 1e-9)
                       for curve, y in zip(self.curves, self.y, strict=True)]
        self._last: tuple[bytes, list[Array]] | None = None

    @property
    def count(self) -> int:
        """How many measured values there are."""
        return int(sum(used.sum() for used in self.used))

    def misses(self, x: Array) -> list[Array]:
        """Return simulated less measured of every curve [SI], NaN in gaps.

        Parameters
        ----------
        x : joint vector

        Raises
        ------
        Cancelled
            If stopping was asked for.
        LimitReached
            If the limit on simulations is reached.
        """
        key = x[self.places].tobytes()
        if self._last is not None and self._last[0] == key:
            return self._last[1]
        self.cancel.raise_if_cancelled()
        if self.limit is not None and self.simulations >= self.limit:
            raise LimitReached
        values = {u.path: from_unit_box(u, float(v)) for u, v in zip(self.unknowns, x[self.places], strict=True)}
        raw = self.program.run(with_links(self.case, values), self.times, self.end, self.cancel.flag)
        self.simulations += 1
        if raw.code == run_code.CANCELLED:
            raise Cancelled
        motion = motion_of(self.program, raw)
        found = [curve_of(motion, curve) - y for curve, y in zip(self.curves, self.y, strict=True)]
        self._last = key, found
        return found

    def residuals(self, x: Array) -> Array:
        """Return residuals in σ of every value.

        Parameters
        ----------
        x : joint vector
        """
        return np.concatenate([miss[used] / scale for miss, used,
                               scale in zip(self.misses(x), self.used, self.scales, strict=True)])

    def rescaled(self, x: Array, unknowns: int, values: int) -> bool:
        """Return whether any σ that is found from what is left over has changed; it is set.

        Parameters
        ----------
        x : joint vector
        unknowns : how many were fitted
        values : how many measured values there are in all
        """
        changed = False
        for k, (curve, miss, used) in enumerate(zip(self.curves, self.misses(x), self.used, strict=True)):
            if curve.sigma is not None:
                continue
            free = max(float(used.sum()) * (1 - unknowns / max(values, unknowns + 1)), 1e-9)
            size = max(float(np.sqrt((miss[used] ** 2).sum() / free)), 1e-9 * max(float(np.nanmax(np.abs(self.y[k]))), 1e-9))
            changed |= abs(size - self.scales[k]) > 1e-6 * size
            self.scales[k] = size
        return changed


def curve_of(motion: Motion, curve: Curve) -> Array:
    """Return the quantity of a curve at its times, (N,) [SI].

    Parameters
    ----------
    motion : simulated motion
    curve : what it is of, and when

    Raises
    ------
    InputError
        If the quantity is not known of the body.
    """
    at = np.minimum(np.array(curve.t), motion.end)
    path = motion.trajectory(curve.body)
    if curve.quantity == "distance":
        y = np.linalg.norm(path.position(at) - np.array(curve.point), axis=1)
    elif curve.quantity == "angle":
        y = path.rotation(at)[:, 1]
    elif curve.quantity == "speed":
        y = np.linalg.norm(path.velocity(at), axis=1)
    elif curve.quantity == "spin":
        y = np.linalg.norm(path.angular_velocity(at), axis=1)
    elif curve.quantity in ("height", "x", "y", "z"):
        y = path.position(at)[:, "xyz".index("z" if curve.quantity == "height" else curve.quantity)]
    else:
        t, values = history(motion, curve.body, curve.quantity)
        if values is None:
            raise bad_input(f"curves.{curve.name}", f"the {curve.quantity} of {curve.body}", "a quantity that is known of it")
        y = np.interp(at, t, values)
    late = np.maximum(np.array(curve.t) - motion.end, 0.0)
    return np.asarray(y + late * LATE / max(float(curve.t[-1]), 1e-9))
