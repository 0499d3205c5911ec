"""Edits of the path of a driven body: its keys, and how hard it may push."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from yapa.case import Case
from yapa.case.quantity_text import number_in
from yapa.case.scene import Keyframe
from yapa.errors import bad_input
from yapa.session.building.placing import tidy, with_body
from yapa.session.edits import Edit


def give_path(name: str) -> Edit:
    """Return the edit that gives a driven body a path: where it is now, and half a metre on along x after a second.

    Parameters
    ----------
    name : name of the body
    """
    def change(case: Case) -> Case:
        body = case.bodies[name]
        x, y, z = body.position
        keys = (Keyframe(time=0.0, position=body.position, orientation=body.orientation),
                Keyframe(time=1.0, position=(x + 0.5, y, z), orientation=body.orientation))
        return with_body(case, name, body.model_copy(update={"keyframes": keys}))

    return Edit(f"path of {name}", change)


def set_push_limit(name: str, text: str) -> Edit:
    """Return the edit that bounds the force with which a driven body pushes; nothing typed: no bound.

    Parameters
    ----------
    name : name of the body
    text : what was typed
    """
    def change(case: Case) -> Case:
        limit = number_in(text, "N", "push limit") if text.strip() else None
        if limit is not None and limit <= 0:
            raise bad_input("push limit", text, "a force above 0 N, or nothing")
        return with_body(case, name, case.bodies[name].model_copy(update={"max_force": limit}))

    return Edit(f"push limit of {name}", change)


def set_key(name: str, index: int, part: str, text: str) -> Edit:
    """Return the edit that sets when or where a driven body is at a key, from what was typed.

    Parameters
    ----------
    name : name of the body
    index : which of its keys, from 0
    part : "t", "x", "y" or "z"
    text : what was typed
    """
    def change(case: Case) -> Case:
        keys = list(case.bodies[name].keyframes)
        value = number_in(text, "s" if part == "t" else "m", f"key {index + 1} of {name}")
        if part == "t":
            keys[index] = keys[index].model_copy(update={"time": value})
        else:
            place = list(keys[index].position)
            place["xyz".index(part)] = value
            keys[index] = keys[index].model_copy(update={"position": tuple(place)})
        return _with_keys(case, name, keys)

    return Edit(f"path of {name}", change)


def set_path(name: str, keys: Sequence[Keyframe]) -> Edit:
    """Return the edit that gives a driven body its keys, in the order of their times.

    Parameters
    ----------
    name : name of the body
    keys : its keys
    """
    return Edit(f"path of {name}", lambda case: _with_keys(case, name, keys))


def add_key(name: str) -> Edit:
    """Return the edit that adds a key to a path, a second after its last, going on as it went.

    Parameters
    ----------
    name : name of the body
    """
    def change(case: Case) -> Case:
        keys = list(case.bodies[name].keyframes)
        last = keys[-1]
        way = np.subtract(last.position, keys[-2].position) if len(keys) > 1 else np.zeros(3)
        there = tuple(tidy(c) for c in np.add(last.position, way))
        return _with_keys(case, name, [*keys, last.model_copy(update={"time": last.time + 1.0, "position": there})])

    return Edit(f"path of {name}", change)


def remove_key(name: str, index: int) -> Edit:
    """Return the edit that takes a key out of a path.

    Parameters
    ----------
    name : name of the body
    index : which of its keys, from 0
    """
    return Edit(f"path of {name}", lambda case: _with_keys(
        case, name, [key for k, key in enumerate(case.bodies[name].keyframes) if k != index]))


def _with_keys(case: Case, name: str, keys: Sequence[Keyframe]) -> Case:
    ordered = tuple(sorted(keys, key=lambda key: key.time))
    return with_body(case, name, case.bodies[name].model_copy(update={"keyframes": ordered, "position": ordered[0].position}))
