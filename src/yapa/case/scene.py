"""The scene: shapes, surfaces, bodies, fields, the pairing rule and the solver profile.

All lengths in m, masses in kg, times in s, angles in rad. Right-handed axes, z up.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from yapa.case.base import Model, Name, NonNegative, Positive, Real, Vec3

STANDARD_GRAVITY = 9.80665
"""m/s² (CGPM 1901)."""
STANDARD_AIR_DENSITY = 1.2041
"""kg/m³, dry air at 20 °C and 101.325 kPa."""


class Sphere(Model):
    """A sphere of the given radius [m]."""

    kind: Literal["sphere"]
    radius: Positive
    surface: Name = "default"


class Box(Model):
    """A box with full edge lengths [m] along the body's own x, y, z."""

    kind: Literal["box"]
    size: tuple[Positive, Positive, Positive]
    surface: Name = "default"


class Plane(Model):
    """A half-space: solid below, free on the side its normal points to (world axes).

    The plane passes through the position of its body.
    """

    kind: Literal["plane"]
    normal: Vec3 = (0.0, 0.0, 1.0)
    surface: Name = "default"

    @model_validator(mode="after")
    def _has_direction(self) -> Plane:
        if sum(c * c for c in self.normal) < 1e-12:
            raise ValueError("the normal must have a direction, found a zero vector")
        return self


Shape = Annotated[Sphere | Box | Plane, Field(discriminator="kind")]


class Surface(Model):
    """What a shape is covered with. Two surfaces meet by the pairing rule."""

    restitution: NonNegative = 0.5
    friction: NonNegative = 0.5
    dynamic_friction: NonNegative | None = None
    rolling_resistance: NonNegative = 0.0


class Pair(Model):
    """Values of a named pair of surfaces; they win over the pairing rule."""

    between: tuple[Name, Name]
    restitution: NonNegative | None = None
    friction: NonNegative | None = None
    dynamic_friction: NonNegative | None = None
    rolling_resistance: NonNegative | None = None

    @property
    def key(self) -> str:
        """The pair's name in paths: both surfaces joined by a plus sign."""
        return "+".join(self.between)


Rule = Literal["mean", "geometric mean", "product", "smaller", "larger"]


class Pairing(Model):
    """How two surfaces' values make one, per quantity."""

    restitution: Rule = "mean"
    friction: Rule = "mean"
    rolling_resistance: Rule = "mean"


class Direction(Model):
    """A launch given as direction × speed, world axes."""

    direction: Vec3
    speed: Real

    @model_validator(mode="after")
    def _has_direction(self) -> Direction:
        if sum(c * c for c in self.direction) < 1e-12:
            raise ValueError("the direction must not be a zero vector")
        return self


class NaturalRoll(Model):
    """A spin tied to the velocity: the rolling rate v/r on the named support."""

    rolls_on: Name


class Body(Model):
    """A rigid body.

    ``under`` may be set on a static plane: its position is then ignored and it lies under
    the start of the body named, touching it.
    """

    motion: Literal["dynamic", "static"] = "dynamic"
    shapes: Annotated[tuple[Shape, ...], Field(min_length=1)]
    mass: Positive = 1.0
    shell: bool = False
    position: Vec3 = (0.0, 0.0, 0.0)
    orientation: tuple[Real, Real, Real, Real] = (1.0, 0.0, 0.0, 0.0)
    velocity: Vec3 | Direction = (0.0, 0.0, 0.0)
    spin: Vec3 | NaturalRoll = (0.0, 0.0, 0.0)
    linear_damping: NonNegative = 0.0
    angular_damping: NonNegative = 0.0
    drag_coefficient: NonNegative = 0.0
    gravity_multiplier: Real = 1.0
    under: Name | None = None

    @model_validator(mode="after")
    def _consistent(self) -> Body:
        if sum(c * c for c in self.orientation) < 1e-12:
            raise ValueError("the orientation quaternion (w, x, y, z) must not be zero")
        if self.motion == "dynamic" and any(shape.kind == "plane" for shape in self.shapes):
            raise ValueError('a plane has no end and cannot move; set "motion" to "static"')
        if self.under is not None and (self.motion != "static" or self.shapes[0].kind != "plane"):
            raise ValueError('"under" is for static planes only')
        return self


class Air(Model):
    """The medium: density [kg/m³] and wind [m/s]."""

    density: NonNegative = STANDARD_AIR_DENSITY
    wind: Vec3 = (0.0, 0.0, 0.0)


class Fields(Model):
    """Gravity [m/s²], pulling along -z, and the air."""

    gravity: Real = STANDARD_GRAVITY
    air: Air = Air()


class Precise(Model):
    """Impacts at their own time inside a step, error-controlled flight.

    ``step`` is the longest step [s]; ``cutoff_speed`` [m/s] is where restitution ends
    (it falls smoothly to 0 between twice that speed and that speed).
    """

    kind: Literal["precise"] = "precise"
    step: Annotated[float, Field(gt=0, le=0.1, allow_inf_nan=False)] = 1 / 40
    cutoff_speed: Annotated[float, Field(ge=1e-5, le=1.0, allow_inf_nan=False)] = 1e-3
