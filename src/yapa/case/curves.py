"""Curves: what was logged against time that is no place, such as a speed, a height, a distance from a sensor."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from yapa.case.base import Model, Name, Place
from yapa.case.evidence import Share, Time, Wanted

MIN_SAMPLES = 3
"""of a curve"""
CURVE_UNITS = {"speed": "m/s", "height": "m", "x": "m", "y": "m", "z": "m", "distance": "m", "angle": "rad", "spin": "rad/s",
               "tilt": "rad", "energy": "J"}
"""what may be logged, with its SI unit"""


class Curve(Model):
    """A quantity of one body against time, measured or wanted.

    ``quantity``: speed of its centre, height or place along an axis, distance of its centre from ``point``, angle turned about y
    since the
    start, angular speed, tilt, or energy of its motion and height. ``t`` [s] and ``y`` [SI]; null is a gap. Without ``sigma`` the
    scatter
    is found.
    """

    name: Name
    body: Name
    quantity: Literal["speed", "height", "x", "y", "z", "distance", "angle", "spin", "tilt", "energy"]
    point: Place | None = None
    t: Annotated[tuple[Time, ...], Field(min_length=MIN_SAMPLES, max_length=20_000)]
    y: tuple[Wanted | None, ...]
    sigma: Share | None = None

    @model_validator(mode="after")
    def _consistent(self) -> Curve:
        if len(self.y) != len(self.t):
            raise ValueError(f"{len(self.y)} values beside {len(self.t)} times")
        for row, (a, b) in enumerate(zip(self.t, self.t[1:], strict=False), start=1):
            if b <= a:
                raise ValueError(f"times must increase: sample {row} is at {b} s after {a} s")
        if sum(v is not None for v in self.y) < MIN_SAMPLES:
            raise ValueError(f"a curve needs at least {MIN_SAMPLES} values")
        if (self.quantity == "distance") != (self.point is not None):
            raise ValueError('"point" goes with the quantity "distance", and only with it')
        return self

    @property
    def unit(self) -> str:
        """SI unit of its values."""
        return CURVE_UNITS[self.quantity]
