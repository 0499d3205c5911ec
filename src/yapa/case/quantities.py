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
    MAX_WANTED,
    MIN_DENSITY,
    MIN_LENGTH,
    MIN_MASS,
    MIN_NOISE,
    MIN_SCALE,
    MIN_STEP,
)
from yapa.case.parameter_path import parse_path

NOISES = ("sigma", "sigma_angle")
"""numbers of a track that are standard deviations"""


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
    whole: bool = False
    """Whether it is a whole number."""


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
    "angular_velocity": Quantity("spin", "rad/s", -200.0, 200.0, "linear", *_SPIN, "how fast it turns at the start"),
    "speed": Quantity("launch speed", "m/s", -20.0, 20.0, "linear", *_SPEED, "how fast it starts along its direction"),
    "elevation": Quantity("elevation", "rad", -1.5, 1.5, "linear", -MAX_TILT, MAX_TILT, "how steeply it starts, above the level"),
    "azimuth": Quantity("azimuth", "rad", -3.2, 3.2, "linear", -MAX_TILT, MAX_TILT, "where it starts to, about the upright axis"),
    "radius": Quantity("radius", "m", 0.001, 1.0, "log", *_LENGTH, "size of the sphere"),
    "length": Quantity("length", "m", 0.001, 10.0, "log", *_LENGTH, "length of the straight part"),
    "size": Quantity("size", "m", 0.001, 10.0, "log", *_LENGTH,
                     "edge length of the box; without an axis the longest edge of the whole body, which is scaled by it"),
    "time_offset": Quantity("time offset", "s", -0.5, 0.5, "linear", *_TIME, "added to the times of a track"),
    "translation": Quantity("shift of a track", "m", -0.1, 0.1, "linear", *_PLACE, "added to the places of a track"),
    "sigma": Quantity("noise of a track", "m", 1e-5, 0.1, "log", MIN_NOISE, MAX_NOISE, "how far its places scatter"),
    "sigma_angle": Quantity("noise of an angle", "rad", 1e-4, 1.0, "log", MIN_NOISE, MAX_NOISE, "how far its angles scatter"),
    "scale": Quantity("scale of a track", "", 0.8, 1.25, "log", MIN_SCALE, MAX_SCALE, "multiplies the places of a track"),
    "gravity": Quantity("gravity", "m/s²", 0.0, 30.0, "linear", -MAX_GRAVITY, MAX_GRAVITY, "pull along -z"),
    "air density": Quantity("air density", "kg/m³", 0.0, 2.0, "linear", 0.0, MAX_DENSITY, "scales drag"),
    "constants": Quantity("constant", "", 0.0, 1.0, "linear", -MAX_WANTED, MAX_WANTED, "a number of your own, for arithmetic"),
    "profile.step": Quantity("step", "s", 1e-3, 0.05, "log", MIN_STEP, 0.1, "how long a step of the solver is"),
    "profile.substeps": Quantity("substeps", "", 1, 16, "log", 1, 64, "parts of a step", True),
    "profile.iterations": Quantity("iterations", "", 1, 100, "log", 1, 1000, "sweeps over the contacts in a substep", True),
    "profile.soft_contact_substeps": Quantity("soft contact substeps", "", 4, 32, "log", 4, 64, "parts of a step in a crowd", True),
    "profile.restitution_threshold": Quantity("restitution threshold", "m/s", 1e-3, 1.0, "log", 0.0, 10.0,
                                              "approaches slower than this do not bounce"),
    "profile.contact_distance": Quantity("contact distance", "m", 1e-5, 0.01, "log", 0.0, 0.1,
                                         "contacts nearer than this are solved"),
    "wind": Quantity("wind", "m/s", -10.0, 10.0, "linear", *_SPEED, "moves the air that drags"),
}


def kind_of(path: str) -> str:
    """Return the kind of quantity at a path: ``bodies.orange.velocity.x`` → ``velocity``.

    Parameters
    ----------
    path : path of the number
    """
    return parse_path(path).kind


@lru_cache(maxsize=4096)
def quantity_of(path: str) -> Quantity:
    """Return unit, range and meaning of the number at a path.

    Parameters
    ----------
    path : path of the number
    """
    return QUANTITIES[kind_of(path)]


def label_of(path: str) -> str:
    """Return a path in words: ``restitution · rind on pad``, ``launch, along x · orange``.

    Parameters
    ----------
    path : path of the number
    """
    parts, quantity = parse_path(path), quantity_of(path)
    name = quantity.label + (f", along {parts.axis}" if parts.axis else "")
    if parts.kind in ("angular_velocity", "tilt"):
        name = f"{quantity.label}, about {parts.axis}"
    if parts.section == "profile":
        return f"{name} · solver profile"
    if parts.section == "pairs":
        return f"{name} · {parts.owner.replace('+', ' on ')}"
    return f"{name} · {parts.owner}" if parts.owner else name
