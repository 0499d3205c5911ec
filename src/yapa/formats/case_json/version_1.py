"""Upgrading case files of format 1: keys, values and paths that have clearer names since format 2.

The tables say what was renamed, and where: a place is the keys from the root of the document, ``*`` stands for every entry of a
list or
every name. What they do not name is the same in both formats.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from yapa.case.parameter_path import canonical_path

KEYS: dict[str, dict[str, str]] = {
    "": {"apart": "collision_exclusions", "dismissed": "ignored_findings"},
    "bodies/*": {"spin": "angular_velocity", "path": "keyframes", "push_limit": "max_force", "shell": "hollow",
                 "locked": "locked_axes", "under": "placed_under"},
    "bodies/*/angular_velocity": {"rolls_on": "rolling_on"},
    "bodies/*/shapes/*": {"at": "position", "turned": "orientation", "clearance": "contact_margin", "belt": "surface_velocity",
                          "sides": "side"},
    "pairs/*": {"between": "surfaces"},
    "profile": {"cutoff_speed": "restitution_threshold", "cutoff": "restitution_threshold_mode", "touch": "contact_distance",
                "crowd_substeps": "soft_contact_substeps", "damping_acts": "damping_stage", "contacts_found": "contact_detection",
                "impacts": "collision", "repair": "overlap_correction", "rest": "sleep"},
    "profile/overlap_correction": {"share": "factor", "allowed": "allowed_overlap", "speed": "max_speed"},
    "profile/sleep": {"speed": "linear_speed", "spin": "angular_speed", "after": "delay"},
    "tracks/*": {"reading": "import_settings", "offset": "time_offset", "shift": "translation"},
    "tracks/*/import_settings": {"scale": "pixel_size", "shift": "time_offset"},
    "targets/*": {"at": "time", "zone": "region", "points": "waypoints"},
    "takes/*": {"own": "free_per_take"},
    "unknowns/*": {"scale": "transform", "locked": "fixed", "tied": "linked"},
    "trials/*": {"origin": "source", "changed": "summary", "engine": "engine_version", "made": "created"},
}
"""Place → key in format 1 → key in format 2. Outer places come first, with their new names."""
VALUES: dict[str, dict[str, str]] = {
    "bodies/*/shapes/*/side": {"solid below": "half_space", "one side": "one_sided", "both sides": "two_sided"},
    "bodies/*/locked_axes/*": {"turn x": "rotation_x", "turn y": "rotation_y", "turn z": "rotation_z"},
    "profile/damping": {"factor per step": "per_step", "reciprocal": "implicit"},
    "profile/damping_stage": {"before forces": "before_forces", "after forces": "after_forces"},
    "profile/contact_detection": {"before the move": "before_move", "after the move": "after_move"},
    "profile/collision": {"on the grid": "discrete", "timed": "continuous"},
}
"""Place (with the keys of format 2) → value in format 1 → value in format 2."""
PATHS = ("unknowns/*/path", "unknowns/*/linked/*", "takes/*/free_per_take/*")
"""Places of parameter paths."""
KEYED_BY_PATH = ("takes/*/values", "trials/*/values", "trials/*/estimates")
"""Places of objects whose keys are parameter paths."""


def upgrade(tree: dict[str, Any]) -> dict[str, Any]:
    """Return a document of format 1 as one of format 2. The input stays as it is.

    Parameters
    ----------
    tree : the document as plain JSON data; what is not of the expected kind is left for the validator to refuse
    """
    new: dict[str, Any] = _copy(tree)
    for place, names in KEYS.items():
        for node in _at(new, place):
            if isinstance(node, dict):
                _rename(node, names)
    for place, values in VALUES.items():
        _replace(new, place, lambda value, values=values: values.get(value, value))
    for place in PATHS:
        _replace(new, place, canonical_path)
    for place in KEYED_BY_PATH:
        for node in _at(new, place):
            if isinstance(node, dict):
                _rename(node, {path: canonical_path(path) for path in node})
    _replace(new, "ignored_findings/*", upgrade_finding)
    new["version"] = 2
    return new


def upgrade_finding(key: str) -> str:
    """Return the key of a finding, ``kind: about``, with a path in it in its present spelling.

    Parameters
    ----------
    key : what it is kept under
    """
    kind, sign, about = key.partition(": ")
    return kind + sign + canonical_path(about)


def _copy(node: Any) -> Any:
    if isinstance(node, dict):
        return {key: _copy(value) for key, value in node.items()}
    return [_copy(value) for value in node] if isinstance(node, list) and not _is_plain(node) else node


def _is_plain(items: list[Any]) -> bool:
    """Whether a list holds numbers only, as the columns of tracks do: such a list is shared, not copied."""
    return bool(items) and isinstance(items[0], int | float)


def _at(tree: Any, place: str) -> Iterator[Any]:
    """Every node at a place."""
    nodes = [tree]
    for key in place.split("/") if place else []:
        found: list[Any] = []
        for node in nodes:
            if key == "*":
                found += node.values() if isinstance(node, dict) else node if isinstance(node, list) else []
            elif isinstance(node, dict) and key in node:
                found.append(node[key])
        nodes = found
    yield from nodes


def _rename(node: dict[str, Any], names: dict[str, str]) -> None:
    """Rename keys in place and in order; a key whose new name stands there too is left, for the validator to refuse."""
    items = [(names[key] if key in names and names[key] not in node else key, value) for key, value in node.items()]
    node.clear()
    node.update(items)


def _replace(tree: Any, place: str, change: Any) -> None:
    """Change every text at a place."""
    outer, _, last = place.rpartition("/")
    for node in _at(tree, outer):
        keys = range(len(node)) if last == "*" and isinstance(node, list) else [last] if isinstance(node,
                                                                                                    dict) and last in node else []
        for key in keys:
            if isinstance(node[key], str):
                node[key] = change(node[key])
