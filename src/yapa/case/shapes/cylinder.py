"""A cylinder; where it meets another cylinder or a capsule it is a prism."""

from __future__ import annotations

from functools import lru_cache
from math import pi
from typing import ClassVar, Literal

import numpy as np

from yapa.case.base import Length
from yapa.case.shapes.base import Array, Dimensions, Posed, Solid
from yapa.case.shapes.polytope import Polytope, polytope_of_cylinder


class Cylinder(Posed):
    """A cylinder along z of the given radius and length [m]."""

    name: ClassVar[str] = "cylinder"
    sizes: ClassVar[tuple[str, ...]] = ("radius", "length")
    has_flat_ends: ClassVar[bool] = True
    rolls: ClassVar[bool] = True

    kind: Literal["cylinder"]
    radius: Length
    length: Length

    def solid(self, shell: bool) -> Solid:
        """Return volume, centre and moments of inertia in its own axes; of a thin shell its area.

        Parameters
        ----------
        shell : whether its mass lies in its surface
        """
        r, h = self.radius, self.length
        if not shell:
            across = (3 * r * r + h * h) / 12
            return Solid(pi * r * r * h, np.zeros(3), np.diag([across, across, r * r / 2]))
        side, caps = 2 * pi * r * h, 2 * pi * r * r
        total = side + caps
        across = (side * (r * r / 2 + h * h / 12) + caps * (r * r / 4 + h * h / 4)) / total
        return Solid(total, np.zeros(3), np.diag([across, across, (side * r * r + caps * r * r / 2) / total]))

    def dimensions(self) -> Dimensions:
        """Return what contacts read of it."""
        return Dimensions(radius=self.radius, segment=(0.0, 0.0, self.length / 2),
                          bound=float(np.hypot(self.length / 2, self.radius)), thin=min(self.radius, self.length / 2))

    def reach(self, direction: Array) -> float:
        """Return how far it reaches from its own centre along a direction of its own axes [m].

        Parameters
        ----------
        direction : (3,) unit vector
        """
        along = abs(float(direction[2]))
        return float(self.radius * np.sqrt(max(1.0 - along**2, 0.0)) + 0.5 * self.length * along)

    def polytope(self) -> Polytope:
        """Return the prism that stands for it where it meets another cylinder or a capsule."""
        return _of(self.radius, self.length)


@lru_cache(maxsize=512)
def _of(radius: float, length: float) -> Polytope:
    return polytope_of_cylinder(radius, length)
