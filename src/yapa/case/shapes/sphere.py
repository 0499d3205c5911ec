"""A sphere."""

from __future__ import annotations

from math import pi
from typing import ClassVar, Literal

import numpy as np

from yapa.case.base import Length
from yapa.case.shapes.base import Array, Dimensions, Posed, Solid


class Sphere(Posed):
    """A sphere of the given radius [m]."""

    name: ClassVar[str] = "sphere"
    sizes: ClassVar[tuple[str, ...]] = ("radius",)
    is_round: ClassVar[bool] = True
    rolls: ClassVar[bool] = True

    kind: Literal["sphere"]
    radius: Length

    def solid(self, shell: bool) -> Solid:
        """Return volume, centre and moments of inertia in its own axes; of a thin shell its area.

        Parameters
        ----------
        shell : whether its mass lies in its surface
        """
        r = self.radius
        i = (2 / 3 if shell else 2 / 5) * r * r
        return Solid(4 * pi * r * r if shell else 4 / 3 * pi * r**3, np.zeros(3), np.diag([i, i, i]))

    @property
    def shadow(self) -> float:
        """Area that air meets [m²]: its disc."""
        return float(pi * self.radius**2)

    def dimensions(self) -> Dimensions:
        """Return what contacts read of it."""
        return Dimensions(radius=self.radius, bound=self.radius, thin=self.radius)

    def reach(self, direction: Array) -> float:
        """Return its radius.

        Parameters
        ----------
        direction : (3,) unit vector
        """
        return self.radius
