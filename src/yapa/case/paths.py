"""Every number of a case by its path: read it, write it, list it with unit and usual range.

Paths
-----
``gravity``, ``air.density``, ``air.wind.x``, ``surfaces.rind.restitution``,
``pairs.rind+pad.friction``, ``bodies.orange.mass``, ``bodies.orange.velocity.x``,
``bodies.crate.speed`` (a launch given as direction × speed), ``bodies.orange.radius``,
``bodies.crate.size.x``, ``bodies.lane.tilt.y`` (how it is turned at the start: a rotation vector).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import atan2, hypot

import numpy as np

from yapa.case.base import Model
from yapa.case.evidence import Track
from yapa.case.model import Case
from yapa.case.quantities import AXES, NOISES, quantity_of
from yapa.case.scene import Body, Box, Capsule, Cylinder, Direction, Fields, NaturalRoll, Pair, Rule, Sphere, Surface
from yapa.errors import InputError, InputIssue, bad_input

SURFACE_QUANTITIES = ("restitution", "friction", "dynamic_friction", "rolling_resistance", "spinning_resistance")
BODY_SCALARS = ("mass", "linear_damping", "angular_damping", "drag_coefficient", "gravity_multiplier")


class Parts(Model):
    """The parts of a case that numbers belong to."""

    fields: Fields = Fields()
    surfaces: dict[str, Surface] = {}
    pairs: tuple[Pair, ...] = ()
    bodies: dict[str, Body] = {}


def combine(rule: Rule, a: float, b: float) -> float:
    """One value from two surfaces' values."""
    if rule == "mean":
        return 0.5 * (a + b)
    if rule == "geometric mean":
        return float((a * b) ** 0.5)
    if rule == "product":
        return a * b
    return min(a, b) if rule == "smaller" else max(a, b)


def tilt_of(orientation: tuple[float, ...]) -> tuple[float, float, float]:
    """An orientation (w, x, y, z) as a rotation vector [rad]: the axis times the angle."""
    if not any(orientation[1:]) and orientation[0] > 0:
        return 0.0, 0.0, 0.0
    w, x, y, z = orientation if orientation[0] >= 0 else tuple(-c for c in orientation)
    sine = hypot(x, y, z)
    scale = 2 * atan2(sine, w) / sine if sine > 0 else 0.0
    return round(scale * x, 12), round(scale * y, 12), round(scale * z, 12)


def orientation_of(tilt: Sequence[float]) -> tuple[float, float, float, float]:
    """The orientation (w, x, y, z) of a rotation vector [rad]."""
    from scipy.spatial.transform import Rotation  # takes longer to import than a case to read

    w, x, y, z = Rotation.from_rotvec(np.array(tilt, dtype=float)).as_quat(scalar_first=True).tolist()
    return w, x, y, z


def find_pair(case: Case, a: str, b: str) -> Pair | None:
    """The named pair of two surfaces, in either order."""
    for pair in case.pairs:
        if set(pair.between) == {a, b} and (a == b) == (pair.between[0] == pair.between[1]):
            return pair
    return None


def _body_numbers(name: str, body: Body) -> dict[str, float]:
    base = f"bodies.{name}"
    out: dict[str, float] = {}
    shape = body.shapes[0]
    if isinstance(shape, Sphere | Capsule | Cylinder):
        out[f"{base}.radius"] = shape.radius
    if isinstance(shape, Capsule | Cylinder):
        out[f"{base}.length"] = shape.length
    if isinstance(shape, Box):
        out.update({f"{base}.size.{axis}": v for axis, v in zip(AXES, shape.size, strict=True)})
    if body.under is None and not body.path:
        out.update({f"{base}.position.{axis}": v for axis, v in zip(AXES, body.position, strict=True)})
    if not body.path:
        out.update({f"{base}.tilt.{axis}": v for axis, v in zip(AXES, tilt_of(body.orientation), strict=True)})
    if body.density is not None:
        out[f"{base}.density"] = body.density
    elif body.motion == "dynamic" or body.push_limit is not None:
        out[f"{base}.mass"] = body.mass
    if body.motion != "dynamic":
        return out
    out.update({f"{base}.{key}": float(getattr(body, key)) for key in BODY_SCALARS if key != "mass"})
    if isinstance(body.velocity, Direction):
        out[f"{base}.speed"] = body.velocity.speed
    else:
        out.update({f"{base}.velocity.{axis}": v for axis, v in zip(AXES, body.velocity, strict=True)})
    if not isinstance(body.spin, NaturalRoll):
        out.update({f"{base}.spin.{axis}": v for axis, v in zip(AXES, body.spin, strict=True)})
    return out


def _field_numbers(case: Case) -> dict[str, float]:
    out = {"gravity": case.fields.gravity, "air.density": case.fields.air.density}
    out.update({f"air.wind.{axis}": v for axis, v in zip(AXES, case.fields.air.wind, strict=True)})
    return out


def _surface_numbers(base: str, owner: Surface | Pair) -> dict[str, float]:
    given = ((quantity, getattr(owner, quantity)) for quantity in SURFACE_QUANTITIES)
    return {f"{base}.{quantity}": float(value) for quantity, value in given if value is not None}


def _track_numbers(track: Track) -> dict[str, float]:
    base = f"tracks.{track.name}"
    out = {f"{base}.offset": track.offset, f"{base}.scale": track.scale}
    out.update({f"{base}.shift.{axis}": v for axis, v in zip(AXES, track.shift, strict=True)})
    out.update({f"{base}.{key}": v for key in NOISES if (v := getattr(track, key)) is not None})
    return out


def numbers(case: Case) -> dict[str, float]:
    """Every number of the case that can be edited or freed, by path."""
    out = _field_numbers(case)
    for name, surface in case.surfaces.items():
        out.update(_surface_numbers(f"surfaces.{name}", surface))
    for pair in case.pairs:
        out.update(_surface_numbers(f"pairs.{pair.key}", pair))
    for name, body in case.bodies.items():
        out.update(_body_numbers(name, body))
    for track in case.tracks:
        out.update(_track_numbers(track))
    return out


def _numbers_beside(case: Case, path: str) -> dict[str, float]:
    """The numbers of what a path belongs to: a body, a surface, a pair, a track, the fields."""
    section, _, rest = path.partition(".")
    owner = rest.partition(".")[0]
    if section == "bodies":
        return _body_numbers(owner, case.bodies[owner]) if owner in case.bodies else {}
    if section == "surfaces":
        return _surface_numbers(f"surfaces.{owner}", case.surfaces[owner]) if owner in case.surfaces else {}
    if section == "pairs":
        return next((_surface_numbers(f"pairs.{owner}", pair) for pair in case.pairs if pair.key == owner), {})
    if section == "tracks":
        return next((_track_numbers(track) for track in case.tracks if track.name == owner), {})
    return _field_numbers(case)


def has_number(case: Case, path: str) -> bool:
    """Whether the case has a number at this path."""
    return path in _numbers_beside(case, path)


def get_number(case: Case, path: str) -> float:
    """Read a number.

    Raises
    ------
    InputError
        If the case has no such number.
    """
    beside = _numbers_beside(case, path)
    if path not in beside:
        import difflib

        have = numbers(case)
        near = difflib.get_close_matches(path, have, n=3) if len(path) < 200 else []
        raise bad_input("path", repr(path), f"a number of this case, such as {', '.join(near or list(have)[:3])}")
    return beside[path]


def out_of_bounds(path: str, *values: float) -> list[str]:
    """In words, which of these values a number at this path can never have."""
    quantity = quantity_of(path)
    span = f"{quantity.least:g} to {quantity.most:g}{' ' if quantity.unit else ''}{quantity.unit}"
    return [f"{value:g} for {path}, which lies from {span}" for value in values if not quantity.least <= value <= quantity.most]


def check_values(case: Case, values: Mapping[str, float], known: Mapping[str, float] | None = None) -> None:
    """Refuse values that a case file would refuse; ``known`` are numbers that the case is known to have.

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


def with_numbers(case: Case, values: Mapping[str, float]) -> Case:
    """A new case with these numbers set, validated; what is tied to an unknown among them follows it.

    Only what the numbers belong to is made anew; everything else is shared with the old case.

    Raises
    ------
    InputError
        If a path does not exist or a value is out of its bounds.
    """
    values = {path: value for path, value in with_ties(case, values).items() if value != get_number(case, path)}
    if not values:
        return case
    check_values(case, values)
    bodies = {path.split(".")[1] for path in values if path.startswith("bodies.")}
    surfaces = {path.split(".")[1] for path in values if path.startswith("surfaces.")}
    parts = Parts.model_construct(
        fields=case.fields, surfaces={name: case.surfaces[name] for name in surfaces}, pairs=case.pairs,
        bodies={name: case.bodies[name] for name in bodies})
    tree = parts.model_dump(mode="json")
    tracks = case.tracks
    for path, value in values.items():
        if path.startswith("tracks."):
            tracks = tuple(_track_with(t, path.split(".")[2:], float(value)) if t.name == path.split(".")[1] else t for t in tracks)
        else:
            _write(tree, path, float(value))
    from yapa.case.store import validate_as

    fresh = validate_as(Parts, tree, "this edit")
    sections = {path.partition(".")[0] for path in values}
    changed: dict[str, object] = {}
    if sections & {"gravity", "air"}:
        changed["fields"] = fresh.fields
    if surfaces:
        changed["surfaces"] = {name: fresh.surfaces.get(name, old) for name, old in case.surfaces.items()}
    if "pairs" in sections:
        changed["pairs"] = fresh.pairs
    if bodies:
        changed["bodies"] = {name: fresh.bodies.get(name, old) for name, old in case.bodies.items()}
    if "tracks" in sections:
        changed["tracks"] = tracks
    return case.model_copy(update=changed)


def with_ties(case: Case, values: Mapping[str, float]) -> dict[str, float]:
    """These values and those of the numbers tied to the unknowns among them."""
    out = dict(values)
    for unknown in case.unknowns:
        if unknown.tied and unknown.path in values:
            out.update(dict.fromkeys(unknown.tied, values[unknown.path]))
    return out


def _track_with(track: Track, what: list[str], value: float) -> Track:
    if what[0] != "shift":
        return track.model_copy(update={what[0]: value})
    shift = tuple(value if axis == what[1] else v for axis, v in zip(AXES, track.shift, strict=True))
    return track.model_copy(update={"shift": shift})


def _write(tree: dict, path: str, value: float) -> None:
    parts = path.split(".")
    if parts[0] == "gravity":
        tree["fields"]["gravity"] = value
    elif parts[0] == "air":
        _put(tree["fields"]["air"], parts[1:], value)
    elif parts[0] == "surfaces":
        tree["surfaces"][parts[1]][parts[2]] = value
    elif parts[0] == "pairs":
        for pair in tree["pairs"]:
            if "+".join(pair["between"]) == parts[1]:
                pair[parts[2]] = value
    else:
        body = tree["bodies"][parts[1]]
        if parts[2] == "speed":
            body["velocity"]["speed"] = value
        elif parts[2] == "tilt":
            tilt = list(tilt_of(tuple(body["orientation"])))
            tilt[AXES.index(parts[3])] = value
            body["orientation"] = list(orientation_of(tilt))
        elif parts[2] in ("radius", "size", "length"):
            _put(body["shapes"][0], parts[2:], value)
        else:
            _put(body, parts[2:], value)


def _put(node: dict, parts: list[str], value: float) -> None:
    if len(parts) == 1:
        node[parts[0]] = value
    else:
        node[parts[0]] = list(node[parts[0]])
        node[parts[0]][AXES.index(parts[1])] = value
