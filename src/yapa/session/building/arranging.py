"""Several bodies arranged: copies in a row or a grid, scattered, on top of each other, in line, evenly apart, mirrored."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import product

import numpy as np

from yapa.case import Body, Case, get_number, has_number, with_numbers
from yapa.errors import bad_input
from yapa.findings.gaps import gaps_at_start
from yapa.motion import Array
from yapa.session.building.placing import TOUCHING, moved_to, place_of, reach_towards, tidy, with_body
from yapa.session.building.scene_edits import free_name, start_velocity
from yapa.session.building.stock import is_endless
from yapa.session.edits import Edit

UP = np.array([0.0, 0.0, 1.0])
MAX_COPIES = 200
"""bodies that one step adds"""
MAX_PLACES = 400
"""random places that are tried for one copy"""


def copies(name: str, counts: Sequence[int], step: Sequence[float]) -> Edit:
    """Return the edit that adds copies of a body in a row or a grid; the body itself is its first.

    Parameters
    ----------
    name : name of the body
    counts : how many along x, y and z
    step : from one to the next [m]
    """
    def change(case: Case) -> Case:
        if min(counts) < 1 or not 2 <= int(np.prod(counts)) <= MAX_COPIES:
            raise bad_input("copies", " × ".join(str(c) for c in counts), f"whole numbers from 1 on, {MAX_COPIES} bodies at most")
        start = np.array(place_of(case.bodies[name]))
        places = [start + np.array(step) * np.array([i, j, k]) for k, j, i in product(*(range(n) for n in reversed(counts)))]
        return _with_copies(case, name, places[1:])

    return Edit(f"copies of {name}", change)


def scatter(name: str, count: int, low: Sequence[float], high: Sequence[float], seed: int,
            sizes: tuple[float, float] | None = None) -> Edit:
    """Return the edit that adds copies of a body at random places of a box, overlapping nothing.

    Parameters
    ----------
    name : name of the body
    count : how many are added
    low, high : corners of the box [m]
    seed : of the places, and of the sizes
    sizes : the smallest and the largest, as parts of the body's own; None: all are as large
    """
    def change(case: Case) -> Case:
        if not 1 <= count <= MAX_COPIES:
            raise bad_input("copies", str(count), f"a whole number from 1 to {MAX_COPIES}")
        if any(a > b for a, b in zip(low, high, strict=True)):
            raise bad_input("box", f"{tuple(low)} to {tuple(high)}", "corners that rise")
        rng = np.random.default_rng(seed)
        if sizes is not None and not 0 < sizes[0] <= sizes[1]:
            raise bad_input("sizes", f"{sizes[0]:g} to {sizes[1]:g}", "two parts of the body's size above zero that rise")
        for _ in range(count):
            case = _with_copies(case, name, [np.array(low, dtype=float)])
            copy = list(case.bodies)[-1]
            if sizes is not None:
                path = f"bodies.{copy}.{'radius' if has_number(case, f'bodies.{copy}.radius') else 'size'}"
                case = with_numbers(case, {path: tidy(get_number(case, path) * float(rng.uniform(*sizes)))})
            case = _where_free(case, copy, low, high, rng)
        return case

    return Edit(f"scatter {name}", change)


def on_top(names: Sequence[str]) -> Edit:
    """Return the edit that stands each body on the one before it, the first staying where it is.

    Parameters
    ----------
    names : names of the bodies, from the lowest up
    """
    def change(case: Case) -> Case:
        for below, name in zip(names, names[1:], strict=False):
            low, body = case.bodies[below], case.bodies[name]
            x, y, z = place_of(low)
            height = z + reach_towards(low, UP) + reach_towards(body, -UP)
            case = _moved(case, name, np.array([x, y, height]))
        return case

    return Edit(f"stack {', '.join(names)}", change)


def line_up(names: Sequence[str], axis: str) -> Edit:
    """Return the edit that gives bodies the place of the first along an axis.

    Parameters
    ----------
    names : names of the bodies
    axis : "x", "y" or "z"
    """
    def change(case: Case) -> Case:
        k = "xyz".index(axis)
        for name in names[1:]:
            place = np.array(place_of(case.bodies[name]))
            place[k] = place_of(case.bodies[names[0]])[k]
            case = _moved(case, name, place)
        return case

    return Edit(f"line up along {axis}", change)


def distribute(names: Sequence[str], axis: str) -> Edit:
    """Return the edit that sets bodies evenly apart along an axis, the outermost staying where they are.

    Parameters
    ----------
    names : names of the bodies
    axis : "x", "y" or "z"
    """
    def change(case: Case) -> Case:
        k = "xyz".index(axis)
        ordered = sorted(names, key=lambda name: place_of(case.bodies[name])[k])
        ends = place_of(case.bodies[ordered[0]])[k], place_of(case.bodies[ordered[-1]])[k]
        for name, at in zip(ordered, np.linspace(*ends, len(ordered)), strict=True):
            place = np.array(place_of(case.bodies[name]))
            place[k] = at
            case = _moved(case, name, place)
        return case

    return Edit(f"set evenly along {axis}", change)


def mirror(names: Sequence[str], axis: str) -> Edit:
    """Return the edit that mirrors bodies at the plane through the origin across an axis: place, turn, start velocity and spin.

    Parameters
    ----------
    names : names of the bodies
    axis : "x", "y" or "z"
    """
    def change(case: Case) -> Case:
        k = "xyz".index(axis)
        flip, turn = np.ones(3), -np.ones(3)
        flip[k], turn[k] = -1.0, 1.0
        for name in names:
            body = case.bodies[name]
            w, *v = body.orientation
            fields = {"orientation": (w, *(float(c) + 0.0 for c in turn * np.array(v)))}
            if body.motion == "dynamic":
                fields["velocity"] = tuple(float(c) + 0.0 for c in flip * start_velocity(body))
                if isinstance(body.angular_velocity, tuple):
                    fields["angular_velocity"] = tuple(float(c) + 0.0 for c in turn * np.array(body.angular_velocity))
            keys = tuple(key.model_copy(update={
                "position": tuple(float(c) + 0.0 for c in flip * np.array(key.position)),
                "orientation": (key.orientation[0], *(float(c) + 0.0 for c in turn * np.array(key.orientation[1:])))})
                for key in body.keyframes)
            place = tuple(float(c) + 0.0 for c in flip * np.array(body.position))
            turned = body.model_copy(update={**fields, "keyframes": keys, "position": place})
            case = with_body(case, name, turned)
        return case

    return Edit(f"mirror across {axis}", change)


def _moved(case: Case, name: str, place: Array) -> Case:
    return with_body(case, name, moved_to(case.bodies[name], place))


def _where_free(case: Case, copy: str, low: Sequence[float], high: Sequence[float], rng: np.random.Generator) -> Case:
    """The case with a body at a random place of a box where it overlaps nothing; first out of others' reach, known soon."""
    body = case.bodies[copy]
    reach = [(np.array(place_of(other)), _reach(other)) for name, other in case.bodies.items()
             if name != copy and len(other.shapes) == 1 and not is_endless(other)]
    crowded = 0
    for _ in range(MAX_PLACES):
        place = rng.uniform(low, high, 3)
        near = any(np.linalg.norm(place - at) < _reach(body) + far for at, far in reach)
        crowded += near
        if near and crowded < MAX_PLACES // 2:
            continue
        there = with_body(case, copy, moved_to(body, place))
        if min((gap for pair, gap in gaps_at_start(there).items() if copy in pair), default=0.0) >= -TOUCHING:
            return there
    raise bad_input("scatter", f"no free place for {copy} in {tuple(low)} to {tuple(high)} m", "a larger box, or fewer copies")


def _reach(body: Body) -> float:
    """How far a body reaches from its origin at most [m]."""
    return float(np.linalg.norm([max(reach_towards(body, axis), reach_towards(body, -axis)) for axis in np.eye(3)])
                 if body.shapes[0].kind != "sphere" else reach_towards(body, UP))


def _with_copies(case: Case, name: str, places: Sequence[Array]) -> Case:
    bodies = dict(case.bodies)
    for place in places:
        copy = free_name(case.model_copy(update={"bodies": bodies}), name)
        bodies[copy] = moved_to(case.bodies[name], place)
    return case.model_copy(update={"bodies": bodies})
