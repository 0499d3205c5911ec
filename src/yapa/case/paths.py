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
from dataclasses import dataclass

import numpy as np
from scipy.spatial.transform import Rotation

from yapa.case.evidence import Track
from yapa.case.model import Case
from yapa.case.scene import Body, Box, Capsule, Cylinder, Direction, NaturalRoll, Pair, Rule, Sphere, Surface
from yapa.errors import bad_input

AXES = ("x", "y", "z")
SURFACE_QUANTITIES = ("restitution", "friction", "dynamic_friction", "rolling_resistance", "spinning_resistance")
NOISES = ("sigma", "sigma_angle")
BODY_SCALARS = ("mass", "linear_damping", "angular_damping", "drag_coefficient", "gravity_multiplier")


@dataclass(frozen=True)
class Quantity:
    """What a kind of number is: unit, usual range for an unknown, scale, allowed interval, meaning."""

    label: str
    unit: str
    low: float
    high: float
    scale: str
    least: float | None
    meaning: str


QUANTITIES: dict[str, Quantity] = {
    "restitution": Quantity("restitution", "", 0.0, 1.0, "linear", 0.0, "how much normal speed a contact gives back"),
    "friction": Quantity("friction", "", 0.0, 1.5, "linear", 0.0, "how hard a contact resists sliding"),
    "dynamic_friction": Quantity(
        "dynamic friction", "", 0.0, 1.5, "linear", 0.0, "friction while sliding, where it differs from static"
    ),
    "rolling_resistance": Quantity(
        "rolling resistance", "", 0.0, 0.1, "linear", 0.0, "how strongly a contact slows rolling"
    ),
    "spinning_resistance": Quantity(
        "spinning resistance", "", 0.0, 0.1, "linear", 0.0, "how strongly a contact slows spinning on the spot"
    ),
    "drag_coefficient": Quantity(
        "drag coefficient", "", 0.0, 2.0, "linear", 0.0, "how strongly air brakes fast motion"
    ),
    "linear_damping": Quantity("linear damping", "1/s", 0.0, 5.0, "linear", 0.0, "share of speed lost each second"),
    "angular_damping": Quantity("angular damping", "1/s", 0.0, 5.0, "linear", 0.0, "share of spin lost each second"),
    "mass": Quantity("mass", "kg", 0.001, 1000.0, "log", 1e-9, "inertia: decides collisions and drag, not falls"),
    "density": Quantity("density", "kg/m³", 1.0, 10000.0, "log", 1e-9, "mass per volume"),
    "gravity_multiplier": Quantity("gravity multiplier", "", 0.0, 3.0, "linear", None, "scales gravity for this body"),
    "position": Quantity("start", "m", -10.0, 10.0, "linear", None, "where the motion starts"),
    "tilt": Quantity("tilt", "rad", -0.5, 0.5, "linear", None, "how it is turned at the start, about this axis"),
    "velocity": Quantity("launch", "m/s", -20.0, 20.0, "linear", None, "how fast it starts, along this axis"),
    "spin": Quantity("spin", "rad/s", -200.0, 200.0, "linear", None, "how fast it turns at the start"),
    "speed": Quantity("launch speed", "m/s", -20.0, 20.0, "linear", None, "how fast it starts along its direction"),
    "radius": Quantity("radius", "m", 0.001, 1.0, "log", 1e-6, "size of the sphere"),
    "length": Quantity("length", "m", 0.001, 10.0, "log", 1e-6, "length of the straight part"),
    "size": Quantity("size", "m", 0.001, 10.0, "log", 1e-6, "edge length of the box"),
    "offset": Quantity("time offset", "s", -0.5, 0.5, "linear", None, "added to the times of a track"),
    "shift": Quantity("shift of a track", "m", -0.1, 0.1, "linear", None, "added to the places of a track"),
    "sigma": Quantity("noise of a track", "m", 1e-5, 0.1, "log", 1e-9, "how far its places scatter"),
    "sigma_angle": Quantity("noise of an angle", "rad", 1e-4, 1.0, "log", 1e-9, "how far its angles scatter"),
    "scale": Quantity("scale of a track", "", 0.8, 1.25, "log", 1e-6, "multiplies the places of a track"),
    "gravity": Quantity("gravity", "m/s²", 0.0, 30.0, "linear", None, "pull along -z"),
    "air density": Quantity("air density", "kg/m³", 0.0, 2.0, "linear", 0.0, "scales drag"),
    "wind": Quantity("wind", "m/s", -10.0, 10.0, "linear", None, "moves the air that drags"),
}


def kind_of(path: str) -> str:
    """The quantity a path speaks of: ``bodies.orange.velocity.x`` → ``velocity``."""
    parts = path.split(".")
    if path == "air.density":
        return "air density"
    return parts[-2] if parts[-1] in AXES else parts[-1]


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


def combine(rule: Rule, a: float, b: float) -> float:
    """One value from two surfaces' values."""
    if rule == "mean":
        return 0.5 * (a + b)
    if rule == "geometric mean":
        return float((a * b) ** 0.5)
    if rule == "product":
        return a * b
    return min(a, b) if rule == "smaller" else max(a, b)


def surface_value(surface: Surface, quantity: str) -> float:
    """A surface's number, dynamic friction falling back on static."""
    value = getattr(surface, quantity)
    return float(surface.friction if value is None else value)


def tilt_of(orientation: tuple[float, ...]) -> tuple[float, float, float]:
    """An orientation (w, x, y, z) as a rotation vector [rad]: the axis times the angle."""
    x, y, z = Rotation.from_quat(orientation, scalar_first=True).as_rotvec().round(12).tolist()
    return x, y, z


def orientation_of(tilt: Sequence[float]) -> tuple[float, float, float, float]:
    """The orientation (w, x, y, z) of a rotation vector [rad]."""
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


def numbers(case: Case) -> dict[str, float]:
    """Every number of the case that can be edited or freed, by path."""
    out: dict[str, float] = {"gravity": case.fields.gravity, "air.density": case.fields.air.density}
    out.update({f"air.wind.{axis}": v for axis, v in zip(AXES, case.fields.air.wind, strict=True)})
    for name, surface in case.surfaces.items():
        for quantity in SURFACE_QUANTITIES:
            if getattr(surface, quantity) is not None:
                out[f"surfaces.{name}.{quantity}"] = float(getattr(surface, quantity))
    for pair in case.pairs:
        for quantity in SURFACE_QUANTITIES:
            if getattr(pair, quantity) is not None:
                out[f"pairs.{pair.key}.{quantity}"] = float(getattr(pair, quantity))
    for name, body in case.bodies.items():
        out.update(_body_numbers(name, body))
    for track in case.tracks:
        base = f"tracks.{track.name}"
        out[f"{base}.offset"], out[f"{base}.scale"] = track.offset, track.scale
        out.update({f"{base}.shift.{axis}": v for axis, v in zip(AXES, track.shift, strict=True)})
        out.update({f"{base}.{key}": v for key in NOISES if (v := getattr(track, key)) is not None})
    return out


def has_number(case: Case, path: str) -> bool:
    """Whether the case has a number at this path."""
    return path in numbers(case)


def get_number(case: Case, path: str) -> float:
    """Read a number.

    Raises
    ------
    InputError
        If the case has no such number.
    """
    have = numbers(case)
    if path not in have:
        import difflib

        near = difflib.get_close_matches(path, have, n=3)
        raise bad_input("path", repr(path), f"a number of this case, such as {', '.join(near or list(have)[:3])}")
    return have[path]


def with_numbers(case: Case, values: dict[str, float]) -> Case:
    """A new case with these numbers set, validated; what is tied to an unknown among them follows it.

    Raises
    ------
    InputError
        If a path does not exist or a value is out of its bounds.
    """
    have = numbers(case)
    values = {path: value for path, value in with_ties(case, values).items() if value != have.get(path)}
    tree = case.model_dump(mode="json", exclude={"tracks", "trials", "takes", "unknowns"})
    tracks = case.tracks
    for path, value in values.items():
        if path not in have:
            get_number(case, path)
        if path.startswith("tracks."):
            tracks = tuple(_track_with(t, path.split(".")[2:], float(value)) if t.name == path.split(".")[1] else t for t in tracks)
        else:
            _write(tree, path, float(value))
    from yapa.case.store import validate_tree

    fresh = validate_tree(tree, "this edit")
    return case.model_copy(
        update={**{key: getattr(fresh, key) for key in ("fields", "surfaces", "pairs", "bodies")}, "tracks": tracks}
    )


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
