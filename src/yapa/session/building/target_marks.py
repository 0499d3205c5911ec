"""Where targets are on the stage: rings of tolerance around places, and boxes of zones; and what a ring that is pulled changes."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from yapa.case import Case, Target
from yapa.motion import Array
from yapa.session.building.placing import place_of
from yapa.session.edits import Edit

AXES = ("x", "y", "z")
LANDINGS = ("landing x", "landing y")


@dataclass(frozen=True)
class Ring:
    """A place that a body is wanted at, and how far off still counts.

    Attributes
    ----------
    place : (3,) [m]
    radius : how far off still counts [m]
    rows : of the targets it stands for
    part : what of them the radius is: "value" or "tolerance"
    words : what is wanted there
    flat : whether it lies on the level, as of a landing
    """

    place: Array
    radius: float
    rows: tuple[int, ...]
    part: str
    words: str
    flat: bool = False


@dataclass(frozen=True)
class Zone:
    """A box that something is wanted in: its corners [m], and the row of its target."""

    low: Array
    high: Array
    row: int
    words: str


def rings_of(case: Case) -> list[Ring]:
    """Return the rings of a case: passages, landings, places at a time or at the end.

    Parameters
    ----------
    case : the case
    """
    return [*_passages(case), *_places(case, AXES), *_places(case, LANDINGS)]


def _passages(case: Case) -> Iterator[Ring]:
    for row, target in enumerate(case.targets):
        if target.outcome == "miss" and target.point is not None and target.condition == "at most" and target.value > 0:
            words = f"{target.body or ''} passes within {target.value:.3g} m"
            yield Ring(np.array(target.point), target.value, (row,), "value", words)


def _places(case: Case, outcomes: tuple[str, ...]) -> Iterator[Ring]:
    """Targets of single coordinates that belong together: of one body, at one time or of one landing."""
    landing = outcomes is LANDINGS
    together: dict[tuple[object, ...], list[int]] = {}
    for row, target in enumerate(case.targets):
        if target.outcome in outcomes and target.condition == "equal":
            together.setdefault((target.body, target.time, target.index), []).append(row)
    for (body, time, index), rows in together.items():
        name = str(body) if body is not None else next(iter(case.dynamic_bodies()), "")
        if name not in case.bodies or len({case.targets[row].outcome for row in rows}) < 2:
            continue
        place = np.array(place_of(case.bodies[name]))
        if landing:
            place[2] = 0.0
        for row in rows:
            place[AXES.index(case.targets[row].outcome[-1])] = case.targets[row].value
        tolerance = max(case.targets[row].tolerance for row in rows)
        what = f"lands here ({index})" if landing else "ends here" if time is None else f"here at {time:.4g} s"
        yield Ring(place, tolerance, tuple(rows), "tolerance", f"{name} {what} ± {tolerance:.3g} m", landing)


def zones_of(case: Case) -> list[Zone]:
    """Return the boxes that bodies are wanted in.

    Parameters
    ----------
    case : the case
    """
    return [Zone(np.array(target.region[0]), np.array(target.region[1]), row, f"{target.body or ''} {target.outcome}".strip())
            for row, target in enumerate(case.targets) if target.region is not None]


def widen(ring: Ring, radius: float) -> Edit:
    """Return the edit that changes how far off still counts.

    Parameters
    ----------
    ring : the ring
    radius : its new radius [m]
    """
    def change(case: Case) -> Case:
        changed = {"value": radius, "tolerance": radius} if ring.part == "value" else {"tolerance": radius}
        targets = tuple(t.model_copy(update=changed) if row in ring.rows else t for row, t in enumerate(case.targets))
        return case.model_copy(update={"targets": targets})

    return Edit(f"tolerance of {ring.words.split(' within')[0].split(' ±')[0]}", change)


def end_inside(name: str, low: Array, high: Array) -> Target:
    """Return the wish that a whole body ends inside a box.

    Parameters
    ----------
    name : name of the body
    low, high : (3,) corners of the box [m]
    """
    a, b = np.minimum(low, high), np.maximum(low, high)
    corners = tuple(tuple(round(float(c), 6) for c in corner) for corner in (a, b))
    tolerance = max(round(0.01 * float((b - a).max()), 6), 1e-6)
    return Target.model_validate({"outcome": "wholly inside", "body": name, "region": corners, "condition": "at least",
                                  "value": 0.0, "tolerance": tolerance})
