"""A plane: a half-space, or a sheet."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import model_validator

from yapa.case.base import Place
from yapa.case.rotations import normalised
from yapa.case.shapes.base import Array, Dimensions, Posed

THICK = 1e3
"""m: half of how thick it counts as"""


class Plane(Posed):
    """A plane through the position of its body, with a normal in the body's axes.

    ``side``: "half_space" (a half-space), "one_sided" (it acts only on what is on the side its
    normal points to, and lets pass what comes from behind) or "two_sided" (a thin sheet).
    """

    name: ClassVar[str] = "plane"
    is_endless: ClassVar[bool] = True

    kind: Literal["plane"]
    normal: Place = (0.0, 0.0, 1.0)
    side: Literal["half_space", "one_sided", "two_sided"] = "half_space"

    @model_validator(mode="after")
    def _has_direction(self) -> Plane:
        if sum(c * c for c in self.normal) < 1e-12:
            raise ValueError("the normal must have a direction, found a zero vector")
        return self

    @property
    def shown_size(self) -> tuple[float, ...]:
        """Its normal."""
        return normalised(self.normal)

    def dimensions(self) -> Dimensions:
        """Return what contacts read of it."""
        return Dimensions(normal=normalised(self.normal), bound=0.0, thin=THICK)

    def reach(self, direction: Array) -> float:
        """Return infinity.

        Parameters
        ----------
        direction : (3,) unit vector
        """
        return float("inf")

    def extent(self) -> tuple[float, ...]:
        """Return its normal."""
        return normalised(self.normal)
