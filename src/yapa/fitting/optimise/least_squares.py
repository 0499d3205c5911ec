"""What a least-squares optimiser needs of a problem."""

from __future__ import annotations

from typing import Protocol

from yapa.motion import Array


class LeastSquares(Protocol):
    """Residuals of a vector: entries in the unit box first, then ``offsets`` that enter linearly and have no bounds."""

    offsets: int
    coarse: bool
    """Whether differences are taken across the teeth of a stepped profile."""

    @property
    def size(self) -> int:
        """Entries of a vector."""
        ...

    def residuals(self, p: Array, horizon: float | None = None) -> Array:
        """Return the residuals [σ], (R,).

        Parameters
        ----------
        p : (P,) vector
        horizon : time [s] beyond which residuals are zero
        """
        ...

    def slopes_of_zeros(self, rows: int, horizon: float | None = None) -> Array:
        """Return the derivatives of the residuals by the offsets, (R, offsets).

        Parameters
        ----------
        rows : how many residuals there are
        horizon : time [s] beyond which residuals are zero
        """
        ...
