"""What every shape has: its pose, surface and margin, and what the engine, the stage and the evidence ask of it.

A kind of shape is a class of its own in a module that ``registry`` lists. It declares its fields and, in its own axes,

    name          how it is called in a case, the value of its field ``kind``
    sizes         fields that are numbers of the case, set and fitted: ``radius``, ``size`` (three numbers)
    solid         volume (or area, of a shell), centre and moments of inertia: what can move has one
    dimensions    what contacts read: a segment and how far it is round about it, half edges or a normal, how far it reaches
    reach         its support function
    polytope      vertices and faces that contacts read, where it has any
    extent        radius, half edges or normal: its size along its axes
    outline       vertices and faces it is drawn, picked and measured by, where its kind has no drawing of its own

and what holds of the kind: ``is_round`` (a point or a segment with a radius), ``is_endless`` (a plane), ``has_corners`` (its
vertices bound it), ``has_flat_ends`` (round, but cut at its ends), ``rolls`` (about its axis, with its radius).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Self

import numpy as np
import numpy.typing as npt
from pydantic import Field, model_validator

from yapa.case.base import Coordinate, Model, Name, Place, Velocity
from yapa.case.bounds import MAX_LENGTH
from yapa.case.shapes.polytope import Polytope

Array = npt.NDArray[np.float64]
Quaternion = tuple[Coordinate, Coordinate, Coordinate, Coordinate]
AXES = "xyz"


@dataclass(frozen=True)
class Solid:
    """Volume (or area of a shell), centre, and moments of inertia about the centre for unit measure."""

    measure: float
    centre: Array
    inertia: Array


@dataclass(frozen=True)
class Dimensions:
    """What contacts read of a shape, in its own axes [m].

    Attributes
    ----------
    radius : how far it is round about its segment
    segment : half of the segment, from its middle to its upper end
    half : half edges
    normal : of a plane
    bound, thin : how far it reaches from its middle, and half of where it is thinnest; None: as its vertices say
    """

    radius: float = 0.0
    segment: tuple[float, float, float] | None = None
    half: tuple[float, float, float] | None = None
    normal: tuple[float, ...] | None = None
    bound: float | None = None
    thin: float | None = None


class Posed(Model):
    """What every shape has: its own pose in the body, its surface, a contact margin and the velocity of its surface.

    ``position`` [m] and ``orientation`` (w, x, y, z) place the shape in the body's axes. Contact begins
    ``contact_margin`` [m] outside the shape. ``surface_velocity`` [m/s] is a velocity of the surface itself in the
    body's axes (a conveyor); only its part along the contact acts.
    """

    name: ClassVar[str] = ""
    sizes: ClassVar[tuple[str, ...]] = ()
    is_round: ClassVar[bool] = False
    is_endless: ClassVar[bool] = False
    has_corners: ClassVar[bool] = False
    has_flat_ends: ClassVar[bool] = False
    rolls: ClassVar[bool] = False

    position: Place = (0.0, 0.0, 0.0)
    orientation: Quaternion = (1.0, 0.0, 0.0, 0.0)
    surface: Name = "default"
    contact_margin: Annotated[float, Field(ge=0, le=MAX_LENGTH, allow_inf_nan=False)] = 0.0
    surface_velocity: Velocity = (0.0, 0.0, 0.0)

    @model_validator(mode="after")
    def _has_orientation(self) -> Posed:
        if sum(c * c for c in self.orientation) < 1e-12:
            raise ValueError("the quaternion (w, x, y, z) must not be zero")
        return self

    def size_numbers(self) -> dict[str, float]:
        """Return its sizes that are numbers of the case: name, with the axis where it has one → value [m]."""
        out: dict[str, float] = {}
        for name in self.sizes:
            value = getattr(self, name)
            out |= {f"{name}.{axis}": v for axis, v in zip(AXES, value, strict=True)} if isinstance(value, tuple) else {name: value}
        return out

    def with_size_numbers(self, numbers: Mapping[str, float]) -> Self:
        """Return the shape with other sizes; what is not among them stays.

        Parameters
        ----------
        numbers : as :meth:`size_numbers` names them
        """
        update: dict[str, Any] = {}
        for name in self.sizes:
            value = getattr(self, name)
            update[name] = (tuple(numbers.get(f"{name}.{axis}", v) for axis, v in zip(AXES, value, strict=True))
                            if isinstance(value, tuple) else numbers.get(name, value))
        return self.model_copy(update=update) if update else self

    @property
    def shown_size(self) -> tuple[float, ...]:
        """The numbers it is drawn by."""
        return tuple(self.size_numbers().values())

    @property
    def has_volume(self) -> bool:
        """Whether it can have a mass."""
        return type(self).solid is not Posed.solid

    @property
    def has_faces(self) -> bool:
        """Whether something may roll on it: it is endless and flat, or bounded by flat faces with corners."""
        return self.is_endless or self.has_corners

    @property
    def is_ball(self) -> bool:
        """Whether it is round about a point."""
        return self.is_round and self.dimensions().segment is None

    def solid(self, shell: bool) -> Solid:
        """Return volume, centre and moments of inertia in its own axes; of a thin shell its area.

        Parameters
        ----------
        shell : whether its mass lies in its surface

        Raises
        ------
        ValueError
            If it has no volume.
        """
        raise ValueError(f"a {self.name} has no volume")

    @property
    def shadow(self) -> float:
        """Area that air meets [m²]: a quarter of the surface of a convex shape, the mean of its shadows."""
        return self.solid(True).measure / 4

    def dimensions(self) -> Dimensions:
        """Return what contacts read of it."""
        raise NotImplementedError

    def reach(self, direction: Array) -> float:
        """Return how far it reaches from its own centre along a direction of its own axes [m].

        Parameters
        ----------
        direction : (3,) unit vector
        """
        raise NotImplementedError

    def extent(self) -> tuple[float, ...]:
        """Return its radius thrice, its half edges or its normal."""
        return (self.dimensions().radius,) * 3

    def polytope(self) -> Polytope | None:
        """Return vertices and faces in its own axes, where it has any; of equal shapes the same."""
        return None

    def outline(self) -> Polytope | None:
        """Return vertices and faces that it is drawn by, where its kind has no drawing of its own."""
        return None
