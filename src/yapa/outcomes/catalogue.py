"""Every outcome by name: what it means, its unit, and the function that reads it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from yapa.motion import Motion
from yapa.outcomes.bounces import apex, bounces, landing, number_of_bounces
from yapa.outcomes.reading import Reading
from yapa.outcomes.rest import rest_time
from yapa.outcomes.travel import peak_speed, roll_distance, slide_distance, travel


@dataclass(frozen=True)
class Outcome:
    """An entry of the catalogue."""

    name: str
    unit: str
    indexed: bool
    meaning: str
    read: Callable[[Motion, str, int | None], Reading]


CATALOGUE: dict[str, Outcome] = {
    o.name: o
    for o in (
        Outcome("apex", "m", True, "how high it rises after bounce k, above its place at that bounce", apex),
        Outcome("rest time", "s", False, "when it has come to rest", rest_time),
        Outcome("bounces", "", False, "how many contacts send it up by at least 5 mm", number_of_bounces),
        Outcome("travel", "m", False, "how far from its start it is at the end, horizontally", travel),
        Outcome("landing", "m", True, "how far from its start landing k is, horizontally", landing),
        Outcome("peak speed", "m/s", False, "its greatest speed", peak_speed),
        Outcome("slide distance", "m", False, "path length in contact while slipping", slide_distance),
        Outcome("roll distance", "m", False, "path length in contact without slipping", roll_distance),
    )
}


def read(motion: Motion, name: str, body: str, index: int | None = None) -> Reading:
    """Read one outcome off a motion."""
    return CATALOGUE[name].read(motion, body, index)


def measure(motion: Motion, body: str, only: tuple[str, ...] | None = None) -> dict[str, Reading]:
    """Every outcome of a body (or only those named), apexes and landings one by one."""
    out: dict[str, Reading] = {}
    count = len(bounces(motion, body))
    for outcome in CATALOGUE.values():
        if only is not None and outcome.name not in only:
            continue
        if outcome.indexed:
            for k in range(1, min(count, 12) + 1):
                out[f"{outcome.name} {k}"] = outcome.read(motion, body, k)
        else:
            out[outcome.name] = outcome.read(motion, body, None)
    return out
