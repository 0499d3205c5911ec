"""A capsule: a cylinder with half spheres at its ends."""

from __future__ import annotations

from math import pi
from typing import ClassVar, Literal

import numpy as np

from yapa.case.base import Length
from yapa.case.shapes.base import Array, Dimensions, Posed, Solid


class Capsule(Posed):
    """A cylinder along z with half spheres at its ends; ``length`` [m] is that of the straight part."""

    name: ClassVar[str] = "capsule"
    sizes: ClassVar[tuple[str, ...]] = ("radius", "length")
    is_round: ClassVar[bool] = True
    rolls: ClassVar[bool] = True

    kind: Literal["capsule"]
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
            tube, ball = pi * r * r * h, 4 / 3 * pi * r**3
            total = tube + ball
            along = (tube * r * r / 2 + ball * 2 / 5 * r * r) / total
            # half balls: centre of each 3/8 r beyond its end of the tube
            ends = 2 / 5 * r * r - (3 / 8 * r) ** 2 + (h / 2 + 3 / 8 * r) ** 2
            across = (tube * (3 * r * r + h * h) / 12 + ball * ends) / total
            return Solid(total, np.zeros(3), np.diag([across, across, along]))
        tube, ball = 2 * pi * r * h, 4 * pi * r * r
        total = tube + ball
        along = (tube * r * r + ball * 2 / 3 * r * r) / total
        ends = 2 / 3 * r * r - (r / 2) ** 2 + (h / 2 + r / 2) ** 2
        across = (tube * (r * r / 2 + h * h / 12) + ball * ends) / total
        return Solid(total, np.zeros(3), np.diag([across, across, along]))

    def dimensions(self) -> Dimensions:
        """Return what contacts read of it."""
        return Dimensions(radius=self.radius, segment=(0.0, 0.0, self.length / 2), bound=self.length / 2 + self.radius,
                          thin=self.radius)

    def reach(self, direction: Array) -> float:
        """Return how far it reaches from its own centre along a direction of its own axes [m].

        Parameters
        ----------
        direction : (3,) unit vector
        """
        return float(self.radius + 0.5 * self.length * abs(float(direction[2])))
