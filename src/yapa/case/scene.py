"""The scene: shapes, surfaces, bodies, fields, the pairing rule and the solver profile.

All lengths in m, masses in kg, times in s, angles in rad. Right-handed axes, z up.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any, Literal, Union

from pydantic import Field, SerializerFunctionWrapHandler, model_serializer, model_validator

from yapa.case.base import (
    Angle,
    Coefficient,
    Gravity,
    Length,
    Mass,
    Model,
    Name,
    NonNegative,
    Place,
    Positive,
    Speed,
    Spin,
    Velocity,
)
from yapa.case.bounds import INERTIA_SLACK, MAX_COEFFICIENT, MAX_DENSITY, MIN_DENSITY
from yapa.case.shapes.base import Posed as Posed
from yapa.case.shapes.base import Quaternion
from yapa.case.shapes.box import Box as Box
from yapa.case.shapes.capsule import Capsule as Capsule
from yapa.case.shapes.cylinder import Cylinder as Cylinder
from yapa.case.shapes.hull import Hull as Hull
from yapa.case.shapes.plane import Plane as Plane
from yapa.case.shapes.registry import KINDS
from yapa.case.shapes.sphere import Sphere as Sphere

STANDARD_GRAVITY = 9.80665
"""m/s² (CGPM 1901)."""
STANDARD_AIR_DENSITY = 1.2041
"""kg/m³, dry air at 20 °C and 101.325 kPa."""


if TYPE_CHECKING:
    AnyShape = Sphere | Box | Capsule | Cylinder | Hull | Plane
else:
    AnyShape = Union[KINDS]  # noqa: UP007  (made of the registry)
Shape = Annotated[AnyShape, Field(discriminator="kind")]


class Surface(Model):
    """What a shape is covered with. Two surfaces meet by the pairing rule.

    Above ``reference_speed`` [m/s] restitution falls as (v / reference_speed) ** -restitution_falloff;
    of two surfaces the larger falloff acts, with its reference speed.
    """

    restitution: Coefficient = 0.5
    friction: Coefficient = 0.5
    dynamic_friction: Coefficient | None = None
    rolling_resistance: Coefficient = 0.0
    spinning_resistance: Coefficient = 0.0
    restitution_falloff: Coefficient = 0.0
    reference_speed: Positive = 1.0


class Pair(Model):
    """Values of a named pair of surfaces; they win over the pairing rule."""

    surfaces: tuple[Name, Name]
    restitution: Coefficient | None = None
    friction: Coefficient | None = None
    dynamic_friction: Coefficient | None = None
    rolling_resistance: Coefficient | None = None
    spinning_resistance: Coefficient | None = None

    @property
    def key(self) -> str:
        """The pair's name in paths: both surfaces joined by a plus sign."""
        return "+".join(self.surfaces)


Rule = Literal["mean", "geometric mean", "product", "smaller", "larger"]


class Pairing(Model):
    """How two surfaces' values make one, per quantity."""

    restitution: Rule = "mean"
    friction: Rule = "mean"
    rolling_resistance: Rule = "mean"
    spinning_resistance: Rule = "mean"


class Direction(Model):
    """A launch given as direction × speed, world axes."""

    direction: Place
    speed: Speed

    @model_validator(mode="after")
    def _has_direction(self) -> Direction:
        if sum(c * c for c in self.direction) < 1e-12:
            raise ValueError("the direction must not be a zero vector")
        return self


class LaunchAngles(Model):
    """A launch given as speed, elevation and azimuth.

    ``elevation`` [rad] is above the xy plane, ``azimuth`` [rad] about +z, from +x on; ``axes`` are those of the world, or those of
    the
    body as it is turned at the start.
    """

    speed: Speed
    elevation: Angle = 0.0
    azimuth: Angle = 0.0
    axes: Literal["world", "body"] = "world"


class NaturalRoll(Model):
    """A spin tied to the velocity: n × v / r on the named support, n the outward normal of its plane, or of its upper face."""

    rolling_on: Name


class Keyframe(Model):
    """Where a kinematic body is at a time [s]; between keys it goes straight and turns evenly."""

    time: NonNegative
    position: Place
    orientation: Quaternion = (1.0, 0.0, 0.0, 0.0)


Lock = Literal["x", "y", "z", "rotation_x", "rotation_y", "rotation_z"]


class Body(Model):
    """A rigid body.

    ``position`` and ``velocity`` are those of its origin and of its centre of mass. ``mass`` is given,
    or ``density`` [kg/m³] times the volume of its shapes; ``inertia`` are moments [kg m²] about its own
    axes at the centre of mass, by default those of the solid shapes, with ``hollow`` those of thin shells.
    Along and about its ``locked_axes`` (world) a body does not move. A kinematic body follows its ``keyframes`` exactly;
    with a ``max_force`` [N] it exerts at most that force, has its own mass, and lags when it is exceeded.

    Bodies of ``group``s that the case excludes from collision pass through each other.

    ``placed_under`` may be set on a static plane: its position is then ignored and it lies under
    the start of the body named, touching it.
    """

    motion: Literal["dynamic", "static", "kinematic"] = "dynamic"
    shapes: Annotated[tuple[Shape, ...], Field(min_length=1)]
    mass: Mass = 1.0
    density: Annotated[float, Field(ge=MIN_DENSITY, le=MAX_DENSITY, allow_inf_nan=False)] | None = None
    inertia: tuple[Positive, Positive, Positive] | None = None
    hollow: bool = False
    position: Place = (0.0, 0.0, 0.0)
    orientation: Quaternion = (1.0, 0.0, 0.0, 0.0)
    velocity: Velocity | Direction | LaunchAngles = (0.0, 0.0, 0.0)
    angular_velocity: Spin | NaturalRoll = (0.0, 0.0, 0.0)
    linear_damping: Coefficient = 0.0
    angular_damping: Coefficient = 0.0
    drag_coefficient: Coefficient = 0.0
    gravity_multiplier: Annotated[float, Field(ge=-MAX_COEFFICIENT, le=MAX_COEFFICIENT, allow_inf_nan=False)] = 1.0
    locked_axes: tuple[Lock, ...] = ()
    keyframes: tuple[Keyframe, ...] = ()
    max_force: Positive | None = None
    group: Name = "all"
    placed_under: Name | None = None

    @model_validator(mode="after")
    def _consistent(self) -> Body:
        """Run for every body of a case at each of its edits: most bodies are free of what the second half is about."""
        w, x, y, z = self.orientation
        if w * w + x * x + y * y + z * z < 1e-12:
            raise ValueError("the orientation quaternion (w, x, y, z) must not be zero")
        forced = self.max_force is not None
        for shape in self.shapes:
            if shape.has_volume and not shape.is_endless:
                continue
            if self.motion == "dynamic" and shape.is_endless:
                raise ValueError('a plane has no end and cannot move; set "motion" to "static"')
            if forced and shape.is_endless:
                raise ValueError("a plane has no mass and cannot be pushed with limited force")
            if self.motion == "dynamic" or forced:
                raise ValueError(f'a {shape.name} has no volume, so no mass, and forces cannot move it; set "motion" to "static"')
        if self.placed_under is not None and (self.motion != "static" or self.shapes[0].kind != "plane"):
            raise ValueError('"placed_under" is for static planes only')
        if self.density is not None and "mass" in self.model_fields_set:
            raise ValueError("both mass and density; give one of them")
        if self.inertia is not None:
            small, middle, large = sorted(self.inertia)
            if large - small - middle > INERTIA_SLACK * large:
                raise ValueError(f"moments of inertia no body has: {large:g} is more than {small:g} and {middle:g} together")
        if self.motion == "kinematic":
            self._check_keyframes()
        elif self.keyframes or forced:
            raise ValueError('"keyframes" and "max_force" are for kinematic bodies only')
        return self

    def _check_keyframes(self) -> None:
        if not self.keyframes:
            raise ValueError("a kinematic body needs at least one keyframe")
        for a, b in zip(self.keyframes, self.keyframes[1:], strict=False):
            if b.time <= a.time:
                raise ValueError(f"keyframes must rise in time, found {b.time:g} s after {a.time:g} s")
        if any(sum(c * c for c in key.orientation) < 1e-12 for key in self.keyframes):
            raise ValueError("the orientation quaternion (w, x, y, z) of a keyframe must not be zero")

    def given(self) -> dict[str, Any]:
        """Return the fields that were given; of mass and density one, as it is written."""
        fields = super().given()
        if self.density is not None:
            fields.pop("mass", None)
        return fields

    @model_serializer(mode="wrap")
    def _one_of_mass_and_density(self, write: SerializerFunctionWrapHandler) -> dict[str, Any]:
        """Of mass and density only what was given is written, so that what is read back has one of them too."""
        tree: dict[str, Any] = write(self)
        if self.density is not None:
            tree.pop("mass", None)
        return tree


class Camera(Model):
    """A camera that stands still: its place and the point it is aimed at [m], focal length [m], width and height of the frame [m].

    The frame stands upright: its width is level. Aimed straight up or down, its width is along x.
    """

    position: Place
    aim: Place
    focal_length: Length = 0.035
    frame: tuple[Length, Length] = (0.036, 0.024)

    @model_validator(mode="after")
    def _looks_somewhere(self) -> Camera:
        if self.position == self.aim:
            raise ValueError("a camera is aimed at another point than its own place")
        return self


class Air(Model):
    """The medium: density [kg/m³] and wind [m/s]."""

    density: Annotated[float, Field(ge=0, le=MAX_DENSITY, allow_inf_nan=False)] = STANDARD_AIR_DENSITY
    wind: Velocity = (0.0, 0.0, 0.0)


class Fields(Model):
    """Gravity [m/s²], pulling along -z, and the air."""

    gravity: Gravity = STANDARD_GRAVITY
    air: Air = Air()
