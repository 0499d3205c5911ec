"""Changing numbers of a case by their paths: the case with other values, and the values of what is tied to an unknown."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from yapa.case.base import Model
from yapa.case.body_size import overall_size, scaled_lengths
from yapa.case.evidence import Track
from yapa.case.parameter_path import AXES, ParameterPath, canonical_path, parse_path
from yapa.case.parameters import HasParameters, Owner, check_values, get_number
from yapa.case.profiles import Profile
from yapa.case.quantities import QUANTITIES
from yapa.case.rotations import orientation_of, tilt_of
from yapa.case.scene import Body, Fields, Pair, Surface
from yapa.case.validation import validate_as


class Parts(Model):
    """The parts of a case that numbers belong to."""

    fields: Fields = Fields()
    surfaces: dict[str, Surface] = {}
    pairs: tuple[Pair, ...] = ()
    bodies: dict[str, Body] = {}


def with_numbers(case: Owner, values: Mapping[str, float]) -> Owner:
    """Return a new case with these numbers set, validated; what is linked to an unknown among them follows it.

    Only what the numbers belong to is made anew; everything else is shared with the old case.

    Parameters
    ----------
    case : the case to start from; it stays as it is
    values : path → value in SI units; paths may be spelt as in any version of the case format

    Returns
    -------
    Case
        The new case; the old one where no value differs.

    Raises
    ------
    InputError
        If a path does not exist or a value is out of its bounds.

    Notes
    -----
    Paths are listed in ``docs/case-format.md``.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> case = with_numbers(load(DATA / "orange-drop.yapa"), {"bodies.orange.mass": 0.2})
    >>> case.bodies["orange"].mass
    0.2
    """
    named = {canonical_path(path): value for path, value in values.items()}
    values = {path: value for path, value in with_links(case, named).items() if value != get_number(case, path)}
    if not values:
        return case
    check_values(case, values)
    split = {parse_path(path): float(value) for path, value in sorted(values.items(), key=lambda item: _is_overall(item[0]))}
    bodies = {path.owner for path in split if path.section == "bodies"}
    surfaces = {path.owner for path in split if path.section == "surfaces"}
    parts = Parts.model_construct(
        fields=case.fields, surfaces={name: case.surfaces[name] for name in surfaces}, pairs=case.pairs,
        bodies={name: case.bodies[name] for name in bodies})
    tree = parts.model_dump(mode="json")
    tracks, constants = case.tracks, case.constants
    for path, value in split.items():
        if path.section == "constants":
            constants = {**constants, path.owner: constants[path.owner].model_copy(update={"value": value})}
        elif path.section == "profile":
            continue
        elif path.section == "tracks":
            tracks = tuple(_track_with(t, path, value) if t.name == path.owner else t for t in tracks)
        else:
            _write(tree, path, value)
    fresh = validate_as(Parts, tree, "this edit")
    sections = {path.section for path in split}
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
    if "constants" in sections:
        changed["constants"] = constants
    if "profile" in sections:
        changed["profile"] = _profile_with(case.profile,
                                           {path.quantity: v for path, v in split.items() if path.section == "profile"})
    return case.model_copy(update=changed)


def with_links(case: HasParameters, values: Mapping[str, float]) -> dict[str, float]:
    """Return these values and those of the numbers linked to the unknowns among them.

    Parameters
    ----------
    case : the case
    values : path → value, SI units
    """
    out = dict(values)
    for unknown in case.unknowns:
        if unknown.linked and unknown.path in values:
            out.update({tie.path: tie.factor * values[unknown.path] + tie.offset for tie in unknown.ties})
    return out


def _profile_with(profile: Profile, values: Mapping[str, float]) -> Profile:
    """A solver profile with other numbers; those that are whole are rounded."""
    whole = {name: round(value) if QUANTITIES[f"profile.{name}"].whole else value for name, value in values.items()}
    return validate_as(type(profile), {**profile.model_dump(mode="json"), **whole}, "this edit")


def _track_with(track: Track, path: ParameterPath, value: float) -> Track:
    if path.quantity != "translation":
        return track.model_copy(update={path.quantity: value})
    moved = tuple(value if axis == path.axis else v for axis, v in zip(AXES, track.translation, strict=True))
    return track.model_copy(update={"translation": moved})


def _write(tree: dict[str, Any], path: ParameterPath, value: float) -> None:
    if path.section == "gravity":
        tree["fields"]["gravity"] = value
    elif path.section == "air":
        _put(tree["fields"]["air"], path, value)
    elif path.section == "surfaces":
        tree["surfaces"][path.owner][path.quantity] = value
    elif path.section == "pairs":
        for pair in tree["pairs"]:
            if "+".join(pair["surfaces"]) == path.owner:
                pair[path.quantity] = value
    else:
        body = tree["bodies"][path.owner]
        if path.quantity in ("speed", "elevation", "azimuth"):
            body["velocity"][path.quantity] = value
        elif path.quantity == "tilt":
            tilt = list(tilt_of(tuple(body["orientation"])))
            tilt[AXES.index(path.axis)] = value
            body["orientation"] = list(orientation_of(tilt))
        elif path.quantity == "size" and not path.axis:
            factor = value / (overall_size(validate_as(Body, body, "this edit")) or value)
            body["shapes"] = [{**shape, **scaled_lengths(shape, factor)} for shape in body["shapes"]]
        else:
            _put(body["shapes"][0] if path.quantity in ("radius", "size", "length") else body, path, value)


def _is_overall(path: str) -> bool:
    """Whether a path is the size of a whole body, which is written after its edges."""
    parts = parse_path(path)
    return parts.quantity == "size" and not parts.axis


def _put(node: dict[str, Any], path: ParameterPath, value: float) -> None:
    if not path.axis:
        node[path.quantity] = value
    else:
        node[path.quantity] = list(node[path.quantity])
        node[path.quantity][AXES.index(path.axis)] = value
