"""Every number of a case by its path: read it, write it, list it with unit and usual range.

Paths
-----
``gravity``, ``air.density``, ``air.wind.x``, ``surfaces.rind.restitution``,
``pairs.rind+pad.friction``, ``bodies.orange.mass``, ``bodies.orange.velocity.x``,
``bodies.crate.speed`` (a launch given as direction × speed), ``bodies.orange.radius``,
``bodies.crate.size.x``, ``bodies.crate.size`` (over all: it scales the whole body, and is not listed with the others),
``bodies.lane.tilt.y`` (how it is turned at the start: a rotation vector), ``constants.reaction_time``;
``profile.step`` (of the solver, not listed with the others).

These functions work on whatever has the parts of a case; the case itself is made of them.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Protocol, Self, TypeVar

import numpy as np

from yapa.case.body_size import overall_size
from yapa.case.constants import Constant
from yapa.case.evidence import Track
from yapa.case.parameter_path import AXES, ParameterPath, canonical_path, parse_path
from yapa.case.profiles import Profile
from yapa.case.quantities import NOISES, QUANTITIES, quantity_of
from yapa.case.rotations import tilt_of
from yapa.case.scene import Body, Direction, Fields, LaunchAngles, NaturalRoll, Pair, Rule, Surface
from yapa.case.unknowns import Unknown
from yapa.errors import InputError, InputIssue, bad_input

SURFACE_QUANTITIES = ("restitution", "friction", "dynamic_friction", "rolling_resistance", "spinning_resistance")
"""quantities that two surfaces combine"""
BODY_SCALARS = ("mass", "linear_damping", "angular_damping", "drag_coefficient", "gravity_multiplier")
"""scalar quantities of a dynamic body"""


class HasParameters(Protocol):
    """What has numbers: the fields, surfaces, pairs, bodies and tracks of a case, and the unknowns that link some of them."""

    @property
    def fields(self) -> Fields:
        """Gravity and air."""

    @property
    def surfaces(self) -> dict[str, Surface]:
        """Surfaces by name."""

    @property
    def pairs(self) -> tuple[Pair, ...]:
        """Named pairs of surfaces."""

    @property
    def bodies(self) -> dict[str, Body]:
        """Bodies by name."""

    @property
    def profile(self) -> Profile:
        """How the solver steps."""

    @property
    def constants(self) -> dict[str, Constant]:
        """Numbers of one's own."""

    @property
    def tracks(self) -> tuple[Track, ...]:
        """Measured motions."""

    @property
    def unknowns(self) -> tuple[Unknown, ...]:
        """Numbers that a fit may change."""

    def model_copy(self, *, update: Mapping[str, Any] | None = None) -> Self:
        """Return a copy with some parts replaced.

        Parameters
        ----------
        update : parts and their new values
        """


Owner = TypeVar("Owner", bound=HasParameters)


def combine(rule: Rule, a: float, b: float) -> float:
    """Return one value from two surfaces' values.

    Parameters
    ----------
    rule : how the two are combined
    a : value of one surface
    b : value of the other
    """
    if rule == "mean":
        return 0.5 * (a + b)
    if rule == "geometric mean":
        return float((a * b) ** 0.5)
    if rule == "product":
        return a * b
    return min(a, b) if rule == "smaller" else max(a, b)


def find_pair(case: HasParameters, a: str, b: str) -> Pair | None:
    """Return the named pair of two surfaces, in either order.

    Parameters
    ----------
    case : the case
    a : one surface
    b : the other
    """
    for pair in case.pairs:
        if set(pair.surfaces) == {a, b} and (a == b) == (pair.surfaces[0] == pair.surfaces[1]):
            return pair
    return None


def _body_numbers(name: str, body: Body) -> dict[str, float]:
    base = f"bodies.{name}"
    out: dict[str, float] = {}
    shape = body.shapes[0]
    out.update({f"{base}.{name}": value for name, value in shape.size_numbers().items()})
    if body.placed_under is None and not body.keyframes:
        out.update({f"{base}.position.{axis}": v for axis, v in zip(AXES, body.position, strict=True)})
    if not body.keyframes:
        out.update({f"{base}.tilt.{axis}": v for axis, v in zip(AXES, tilt_of(body.orientation), strict=True)})
    if body.density is not None:
        out[f"{base}.density"] = body.density
    elif body.motion == "dynamic" or body.max_force is not None:
        out[f"{base}.mass"] = body.mass
    if body.motion != "dynamic":
        return out
    out.update({f"{base}.{key}": float(getattr(body, key)) for key in BODY_SCALARS if key != "mass"})
    if isinstance(body.velocity, Direction | LaunchAngles):
        out[f"{base}.speed"] = body.velocity.speed
        if isinstance(body.velocity, LaunchAngles):
            out |= {f"{base}.elevation": body.velocity.elevation, f"{base}.azimuth": body.velocity.azimuth}
    else:
        out.update({f"{base}.velocity.{axis}": v for axis, v in zip(AXES, body.velocity, strict=True)})
    if not isinstance(body.angular_velocity, NaturalRoll):
        out.update({f"{base}.angular_velocity.{axis}": v for axis, v in zip(AXES, body.angular_velocity, strict=True)})
    return out


def _field_numbers(case: HasParameters) -> dict[str, float]:
    out = {"gravity": case.fields.gravity, "air.density": case.fields.air.density}
    out.update({f"air.wind.{axis}": v for axis, v in zip(AXES, case.fields.air.wind, strict=True)})
    return out


def _surface_numbers(base: str, owner: Surface | Pair) -> dict[str, float]:
    given = ((quantity, getattr(owner, quantity)) for quantity in SURFACE_QUANTITIES)
    return {f"{base}.{quantity}": float(value) for quantity, value in given if value is not None}


def _track_numbers(track: Track) -> dict[str, float]:
    base = f"tracks.{track.name}"
    out = {f"{base}.time_offset": track.time_offset, f"{base}.scale": track.scale}
    out.update({f"{base}.translation.{axis}": v for axis, v in zip(AXES, track.translation, strict=True)})
    out.update({f"{base}.{key}": v for key in NOISES if (v := getattr(track, key)) is not None})
    return out


def numbers(case: HasParameters) -> dict[str, float]:
    """Return every number of the case that can be edited or freed, by path.

    Parameters
    ----------
    case : the case
    """
    out = _field_numbers(case)
    for name, surface in case.surfaces.items():
        out.update(_surface_numbers(f"surfaces.{name}", surface))
    for pair in case.pairs:
        out.update(_surface_numbers(f"pairs.{pair.key}", pair))
    for name, body in case.bodies.items():
        out.update(_body_numbers(name, body))
    for track in case.tracks:
        out.update(_track_numbers(track))
    out.update({f"constants.{name}": constant.value for name, constant in case.constants.items()})
    return out


def profile_numbers(case: HasParameters) -> dict[str, float]:
    """Return the numbers of the solver profile, by path: they are part of every answer, and no fit can change them.

    Parameters
    ----------
    case : the case
    """
    fields = (name.removeprefix("profile.") for name in QUANTITIES if name.startswith("profile."))
    return {f"profile.{name}": float(getattr(case.profile, name)) for name in fields if hasattr(case.profile, name)}


def _numbers_of_owner(case: HasParameters, path: ParameterPath) -> dict[str, float]:
    """The numbers of what a path belongs to: a body, a surface, a pair, a track, the fields."""
    section, owner = path.section, path.owner
    if section == "bodies" and path.quantity == "size" and not path.axis:
        size = overall_size(case.bodies[owner]) if owner in case.bodies else None
        return {} if size is None else {str(path): size}
    if section == "bodies":
        return _body_numbers(owner, case.bodies[owner]) if owner in case.bodies else {}
    if section == "surfaces":
        return _surface_numbers(f"surfaces.{owner}", case.surfaces[owner]) if owner in case.surfaces else {}
    if section == "pairs":
        return next((_surface_numbers(f"pairs.{owner}", pair) for pair in case.pairs if pair.key == owner), {})
    if section == "tracks":
        return next((_track_numbers(track) for track in case.tracks if track.name == owner), {})
    if section == "profile":
        return profile_numbers(case)
    if section == "constants":
        return {f"constants.{owner}": case.constants[owner].value} if owner in case.constants else {}
    return _field_numbers(case)


def has_number(case: HasParameters, path: str) -> bool:
    """Return whether the case has a number at this path.

    Parameters
    ----------
    case : the case
    path : path of the number
    """
    return canonical_path(path) in _numbers_of_owner(case, parse_path(path))


def get_number(case: HasParameters, path: str) -> float:
    """Return the number at a path.

    Parameters
    ----------
    case : the case
    path : path of the number

    Raises
    ------
    InputError
        If the case has no such number.
    """
    beside, wanted = _numbers_of_owner(case, parse_path(path)), canonical_path(path)
    if wanted not in beside:
        import difflib

        have = numbers(case)
        near = difflib.get_close_matches(path, have, n=3) if len(path) < 200 else []
        raise bad_input("path", repr(path), f"a number of this case, such as {', '.join(near or list(have)[:3])}")
    return beside[wanted]


def out_of_bounds(path: str, *values: float) -> list[str]:
    """Return in words, which of these values a number at this path can never have.

    Parameters
    ----------
    values : path → value, SI units
    path : path of the number
    """
    quantity = quantity_of(path)
    span = f"{quantity.least:g} to {quantity.most:g}{' ' if quantity.unit else ''}{quantity.unit}"
    return [f"{value:g} for {path}, which lies from {span}" for value in values if not quantity.least <= value <= quantity.most]


def check_values(case: HasParameters, values: Mapping[str, float], known: Mapping[str, float] | None = None) -> None:
    """Refuse values that a case file would refuse; ``known`` are numbers that the case is known to have.

    Parameters
    ----------
    case : the case
    values : path → value, SI units
    known : path → value of what is known

    Raises
    ------
    InputError
        With one problem for every path that does not exist and every value out of its bounds.
    """
    problems = []
    for path, value in values.items():
        if not isinstance(value, int | float | np.number):
            raise bad_input(path, repr(value), "a number")
        if known is None or path not in known:
            get_number(case, path)
        quantity = quantity_of(path)
        if not quantity.least <= value <= quantity.most:
            problems.append(InputIssue(path, f"{value:g}", f"a number from {quantity.least:g} to {quantity.most:g}"))
    if problems:
        raise InputError(problems)
