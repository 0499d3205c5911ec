"""What a person says of a track: shape, support, unknowns and what is fixed."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from yapa.case.base import Vec3
from yapa.case.model import Case
from yapa.case.parameter_path import OLD_QUANTITIES
from yapa.errors import bad_input

BODY = "body"
"""name of the body and of its surface"""
SUPPORT = "support"
"""name of what it lies on and of its surface"""
PAIR_NAMES = ("restitution", "friction", "rolling_resistance")


SCALAR_NAMES = ("drag_coefficient", "linear_damping", "angular_damping", "mass")


VECTOR_NAMES = ("velocity", "angular_velocity", "position")


FIELD_NAMES = ("gravity", "air_density")


DEFAULTS = {"restitution": 0.5, "friction": 0.5, "rolling_resistance": 0.0, "drag_coefficient": 0.0,
            "linear_damping": 0.0, "angular_damping": 0.0, "mass": 1.0}


@dataclass(frozen=True)
class Setup:
    """What a person says of a track.

    Attributes
    ----------
    radius : of a sphere [m]; or
    size : edge lengths of a box [m]
    mass : [kg]
    floor : height of the support [m], or None where a slope is given
    slope : of the support [degrees], rising along +x
    unknown : name → (low, high) or None for the default range; names are those of paths, such as ``velocity.x``
    fixed : name → value, SI units
    sigma, sigma_angle : standard deviation of places [m] and of the angle [rad]; found from the track where left out
    start_at : when the simulation starts, and its launch is [s]; by default at the first row. Frames before it are left out
    body_name, title : of the case

    Notes
    -----
    Names and default ranges stand in ``docs/calibrate.md``.

    Examples
    --------
    >>> Setup(radius=0.037, unknown={"restitution": (0.4, 0.9)}).unknown["restitution"]
    (0.4, 0.9)
    """

    radius: float | None = None
    size: Vec3 | None = None
    mass: float | None = None
    floor: float | None = 0.0
    slope: float | None = None
    unknown: dict[str, tuple[float, float] | None] = field(default_factory=dict)
    fixed: dict[str, float] = field(default_factory=dict)
    sigma: float | None = None
    sigma_angle: float | None = None
    start_at: float | None = None
    body_name: str = BODY
    title: str = "calibration"

    @property
    def reach(self) -> float:
        """How far the thing reaches below its middle as it begins [m]."""
        return self.radius if self.radius is not None else 0.5 * self.size[2] if self.size is not None else 0.0

    def __post_init__(self) -> None:
        object.__setattr__(self, "unknown", {canonical_name(name): bounds for name, bounds in self.unknown.items()})
        object.__setattr__(self, "fixed", {canonical_name(name): value for name, value in self.fixed.items()})


@dataclass(frozen=True)
class Prepared:
    """The case ready to fit, short names of its unknowns, and what was assumed."""

    case: Case
    short: dict[str, str]
    assumed: dict[str, float | str]


def canonical_name(name: str) -> str:
    """Return the name of a number of the body in its present spelling.

    Parameters
    ----------
    name : its name
    """
    quantity, dot, axis = name.partition(".")
    return OLD_QUANTITIES.get(("bodies", quantity), quantity) + dot + axis


def known_names() -> list[str]:
    """Return every name that may be unknown or fixed."""
    vectors = [f"{v}.{a}" for v in VECTOR_NAMES for a in "xyz"]
    return [*PAIR_NAMES, *SCALAR_NAMES, *VECTOR_NAMES, *vectors]


def parse_unknown(text: str) -> tuple[str, tuple[float, float] | None]:
    """Return ``friction`` or ``friction=0.1..0.6``.

    Parameters
    ----------
    text : the text

    Raises
    ------
    InputError
        If the range cannot be read.
    """
    name, _, rest = text.partition("=")
    if not rest:
        return name.strip(), None
    match = re.fullmatch(r"\s*([-+0-9.eE]+?)\s*\.\.\s*([-+0-9.eE]+)\s*", rest)
    try:
        if match is None:
            raise ValueError
        return name.strip(), (float(match[1]), float(match[2]))
    except ValueError:
        raise bad_input(f"unknown {text!r}", f"the range {rest!r}", "NAME or NAME=LOW..HIGH, such as friction=0..1") from None
