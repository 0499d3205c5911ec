"""What must not be lost while an outcome is pulled: targets that were met stay met.

A held target is a row that stays between two limits: an equality within its tolerance, a bound on its side. The step of a pull is

    minimise |u - u₀|² + w² |J(u - u_k) - r|²   subject to   low ≤ c_k + C(u - u_k) ≤ high,   0 ≤ u ≤ 1,

a least-squares problem with inequalities: where the held ones leave room the outcome follows, where they do not it gives way. It is
turned into a least-distance problem by a QR factorisation and solved by non-negative least squares (Lawson and Hanson, Solving
Least Squares Problems, 1974, chapter 23).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yapa.case.evidence import Target
from yapa.fitting.problem.target_residuals import constraint_slack
from yapa.motion import Array, Motion

KEPT = 0.9
"""of a tolerance: an equality is held within"""
WEIGHT = 300.0
"""of the pulled outcome beside the change, in units of the box a tolerance"""
NEAR = 0.06
"""tolerances: a limit that is so near is what holds"""


@dataclass(frozen=True)
class HeldTargets:
    """Targets that stay met.

    Attributes
    ----------
    targets : each with its body
    low, high : limits of every row [tolerances]
    owners : for every row, which target it is of
    """

    targets: Sequence[tuple[Target, str]]
    low: Array
    high: Array
    owners: Array

    @classmethod
    def at(cls, motion: Motion, targets: Sequence[tuple[Target, str]]) -> HeldTargets:
        """Return targets held as a motion meets them; what is not quite inside its limit is held where it is.

        Parameters
        ----------
        motion : at the start of the pull
        targets : each with its body
        """
        low, high, owners = [], [], []
        for k, (target, body) in enumerate(targets):
            equal, room = constraint_slack(motion, target, body)
            low += [*np.minimum(-KEPT, equal), *np.minimum(0.0, room)]
            high += [*np.maximum(KEPT, equal), *np.full(len(room), np.inf)]
            owners += [k] * (len(equal) + len(room))
        return cls(targets, np.array(low), np.array(high), np.array(owners, dtype=int))

    def read(self, motion: Motion) -> Array:
        """Return every row of a motion [tolerances].

        Parameters
        ----------
        motion : simulated motion
        """
        rows = [row for target, body in self.targets for part in constraint_slack(motion, target, body) for row in part]
        return np.array(rows, dtype=float)

    def broken(self, rows: Array) -> float:
        """Return by how much the worst row is beyond its limit [tolerances].

        Parameters
        ----------
        rows : as read
        """
        if not len(rows):
            return 0.0
        return float(max(0.0, np.max(self.low - rows), np.max(rows - self.high)))

    def holding(self, rows: Array) -> list[str]:
        """Return names of the targets that stand at a limit.

        Parameters
        ----------
        rows : as read
        """
        tight = (rows - self.low < NEAR) | (self.high - rows < NEAR)
        return [self.targets[k][0].label for k in sorted(set(self.owners[tight].tolist()))]


def held_step(u: Array, home: Array, r: Array, J: Array, rows: Array, C: Array, held: HeldTargets) -> Array | None:
    """Return the next vector under what is held; None where the linearised limits leave none.

    Parameters
    ----------
    u : vector in the unit box
    home : vector that the change is counted from
    r : misses of the pulled outcomes [tolerances]
    J : their Jacobian
    rows, C : rows of what is held, and their Jacobian
    held : their limits
    """
    n = len(u)
    A = np.vstack([WEIGHT * J, np.eye(n)])
    b = np.concatenate([WEIGHT * (J @ (u - home) - r), np.zeros(n)])
    shift = rows - C @ (u - home)
    upper = np.isfinite(held.high)
    G = np.vstack([C, -C[upper], np.eye(n), -np.eye(n)])
    h = np.concatenate([held.low - shift, shift[upper] - held.high[upper], -home, home - 1.0])
    size = np.maximum(np.linalg.norm(G, axis=1), 1e-12)
    x = _inequality_least_squares(A, b, G / size[:, None], h / size)
    return None if x is None else np.clip(home + x, 0.0, 1.0)


def _inequality_least_squares(A: Array, b: Array, G: Array, h: Array) -> Array | None:
    """The x that minimises |A x - b| subject to G x ≥ h; None where there is none. A has full column rank."""
    from scipy.optimize import nnls

    Q, R = np.linalg.qr(A)
    f = Q.T @ b
    inverse = np.linalg.inv(R)
    E = G @ inverse
    s = h - E @ f
    if not (s > 0).any():
        return np.asarray(inverse @ f)
    # least distance: minimise |y| subject to E y ≥ s
    system = np.vstack([E.T, s[None]])
    aim = np.zeros(len(system))
    aim[-1] = 1.0
    try:
        weights, left = nnls(system, aim)
    except RuntimeError:  # its iterations ran out: nothing was found that the limits allow
        return None
    if left < 1e-9:
        return None
    residual = system @ weights - aim
    y = -residual[:-1] / residual[-1]
    return np.asarray(inverse @ (y + f))
