"""A box."""

from __future__ import annotations

from functools import lru_cache
from typing import ClassVar, Literal

import numpy as np

from yapa.case.base import Length
from yapa.case.shapes.base import Array, Dimensions, Posed, Solid
from yapa.case.shapes.polytope import Polytope, polytope_of_box


class Box(Posed):
    """A box with full edge lengths [m] along the body's own x, y, z."""

    name: ClassVar[str] = "box"
    sizes: ClassVar[tuple[str, ...]] = ("size",)
    has_corners: ClassVar[bool] = True

    kind: Literal["box"]
    size: tuple[Length, Length, Length]

    def solid(self, shell: bool) -> Solid:
        """Return volume, centre and moments of inertia in its own axes; of a thin shell its area.

        Parameters
        ----------
        shell : whether its mass lies in its surface
        """
        a, b, c = (e / 2 for e in self.size)
        if not shell:
            return Solid(8 * a * b * c, np.zeros(3), np.diag([b * b + c * c, a * a + c * c, a * a + b * b]) / 3)
        half, areas = (a, b, c), (b * c, a * c, a * b)
        second = [sum(area / sum(areas) * half[k] ** 2 * (1.0 if k == axis else 1 / 3) for axis, area in enumerate(areas))
                  for k in range(3)]
        return Solid(8 * sum(areas), np.zeros(3), np.diag([sum(second) - v for v in second]))

    def dimensions(self) -> Dimensions:
        """Return what contacts read of it."""
        a, b, c = self.size
        return Dimensions(half=(a / 2, b / 2, c / 2), bound=float(np.linalg.norm(self.size)) / 2, thin=min(self.size) / 2)

    def reach(self, direction: Array) -> float:
        """Return how far it reaches from its own centre along a direction of its own axes [m].

        Parameters
        ----------
        direction : (3,) unit vector
        """
        return float(np.abs(direction) @ (0.5 * np.array(self.size)))

    def extent(self) -> tuple[float, ...]:
        """Return its half edges."""
        return tuple(e / 2 for e in self.size)

    def polytope(self) -> Polytope:
        """Return its corners and faces."""
        return _of(self.size)


@lru_cache(maxsize=4096)
def _of(size: tuple[float, float, float]) -> Polytope:
    return polytope_of_box(np.array(size) / 2)
