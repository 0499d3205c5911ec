"""What kinds of numbers a case has: unit, usual range, scale, bounds, and what they mean in words."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from yapa.case.bounds import (
    MAX_COEFFICIENT,
    MAX_DENSITY,
    MAX_DURATION,
    MAX_GRAVITY,
    MAX_LENGTH,
    MAX_MASS,
    MAX_NOISE,
    MAX_POSITION,
    MAX_SCALE,
    MAX_SPEED,
    MAX_SPIN,
    MAX_TILT,
    MIN_DENSITY,
    MIN_LENGTH,
    MIN_MASS,
    MIN_NOISE,
    MIN_SCALE,
)

AXES = ("x", "y", "z")
NOISES = ("sigma", "sigma_angle")


@dataclass(frozen=True)
class Quantity:
    """What a kind of number is: unit, usual range for an unknown, scale, meaning, and the bounds it may never leave."""

    label: str
    unit: str
    low: float
    high: float
    scale: str
    least: float
    most: float
    meaning: str


_COEFFICIENT, _TIME = (0.0, MAX_COEFFICIENT), (-MAX_DURATION, MAX_DURATION)
_LENGTH, _MASS = (MIN_LENGTH, MAX_LENGTH), (MIN_MASS, MAX_MASS)
_PLACE, _SPEED, _SPIN = (-MAX_POSITION, MAX_POSITION), (-MAX_SPEED, MAX_SPEED), (-MAX_SPIN, MAX_SPIN)
QUANTITIES: dict[str, Quantity] = {
    "restitution": Quantity("restitution", "", 0.0, 1.0, "linear", *_COEFFICIENT, "how much normal speed a contact gives back"),
    "friction": Quantity("friction", "", 0.0, 1.5, "linear", *_COEFFICIENT, "how hard a contact resists sliding"),
    "dynamic_friction": Quantity(
        "dynamic friction", "", 0.0, 1.5, "linear", *_COEFFICIENT, "friction while sliding, where it differs from static"
    ),
    "rolling_resistance": Quantity(
        "rolling resistance", "", 0.0, 0.1, "linear", *_COEFFICIENT, "how strongly a contact slows rolling"
    ),
    "spinning_resistance": Quantity(
        "spinning resistance", "", 0.0, 0.1, "linear", *_COEFFICIENT, "how strongly a contact slows spinning on the spot"
    ),
    "drag_coefficient": Quantity(
        "drag coefficient", "", 0.0, 2.0, "linear", *_COEFFICIENT, "how strongly air brakes fast motion"
    ),
    "linear_damping": Quantity("linear damping", "1/s", 0.0, 5.0, "linear", *_COEFFICIENT, "share of speed lost each second"),
    "angular_damping": Quantity("angular damping", "1/s", 0.0, 5.0, "linear", *_COEFFICIENT, "share of spin lost each second"),
    "mass": Quantity("mass", "kg", 0.001, 1000.0, "log", *_MASS, "inertia: decides collisions and drag, not falls"),
    "density": Quantity("density", "kg/m³", 1.0, 10000.0, "log", MIN_DENSITY, MAX_DENSITY, "mass per volume"),
    "gravity_multiplier": Quantity(
        "gravity multiplier", "", 0.0, 3.0, "linear", -MAX_COEFFICIENT, MAX_COEFFICIENT, "scales gravity for this body"
    ),
    "position": Quantity("start", "m", -10.0, 10.0, "linear", *_PLACE, "where the motion starts"),
    "tilt": Quantity("tilt", "rad", -0.5, 0.5, "linear", -MAX_TILT, MAX_TILT, "how it is turned at the start, about this axis"),
    "velocity": Quantity("launch", "m/s", -20.0, 20.0, "linear", *_SPEED, "how fast it starts, along this axis"),
    "spin": Quantity("spin", "rad/s", -200.0, 200.0, "linear", *_SPIN, "how fast it turns at the start"),
    "speed": Quantity("launch speed", "m/s", -20.0, 20.0, "linear", *_SPEED, "how fast it starts along its direction"),
    "radius": Quantity("radius", "m", 0.001, 1.0, "log", *_LENGTH, "size of the sphere"),
    "length": Quantity("length", "m", 0.001, 10.0, "log", *_LENGTH, "length of the straight part"),
    "size": Quantity("size", "m", 0.001, 10.0, "log", *_LENGTH, "edge length of the box"),
    "offset": Quantity("time offset", "s", -0.5, 0.5, "linear", *_TIME, "added to the times of a track"),
    "shift": Quantity("shift of a track", "m", -0.1, 0.1, "linear", *_PLACE, "added to the places of a track"),
    "sigma": Quantity("noise of a track", "m", 1e-5, 0.1, "log", MIN_NOISE, MAX_NOISE, "how far its places scatter"),
    "sigma_angle": Quantity("noise of an angle", "rad", 1e-4, 1.0, "log", MIN_NOISE, MAX_NOISE, "how far its angles scatter"),
    "scale": Quantity("scale of a track", "", 0.8, 1.25, "log", MIN_SCALE, MAX_SCALE, "multiplies the places of a track"),
    "gravity": Quantity("gravity", "m/s²", 0.0, 30.0, "linear", -MAX_GRAVITY, MAX_GRAVITY, "pull along -z"),
    "air density": Quantity("air density", "kg/m³", 0.0, 2.0, "linear", 0.0, MAX_DENSITY, "scales drag"),
    "wind": Quantity("wind", "m/s", -10.0, 10.0, "linear", *_SPEED, "moves the air that drags"),
}


def kind_of(path: str) -> str:
    """The quantity a path speaks of: ``bodies.orange.velocity.x`` → ``velocity``."""
    parts = path.split(".")
    if path == "air.density":
        return "air density"
    return parts[-2] if parts[-1] in AXES else parts[-1]


@lru_cache(maxsize=4096)
def quantity_of(path: str) -> Quantity:
    """Unit, range and meaning of the number at a path."""
    return QUANTITIES[kind_of(path)]


def label_of(path: str) -> str:
    """``restitution · rind on pad``, ``launch, along x · orange``."""
    parts = path.split(".")
    quantity = quantity_of(path)
    name = quantity.label + (f", along {parts[-1]}" if parts[-1] in AXES else "")
    if kind_of(path) in ("spin", "tilt"):
        name = f"{quantity.label}, about {parts[-1]}"
    if parts[0] == "pairs":
        return f"{name} · {parts[1].replace('+', ' on ')}"
    return f"{name} · {parts[1]}" if parts[0] in ("bodies", "surfaces", "tracks") else name
