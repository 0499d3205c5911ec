"""Every outcome by name: what is asked, and the function that reads it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import cast

from yapa.case.evidence import Target
from yapa.case.outcome_specs import OUTCOME_SPECS, OutcomeSpec
from yapa.motion import Motion
from yapa.outcomes import containment, energies, passages, poses, spans
from yapa.outcomes.asked import Asked
from yapa.outcomes.bounces import (
    apex,
    apex_ratio,
    bounce_time,
    bounces,
    landing,
    landing_x,
    landing_y,
    number_of_bounces,
)
from yapa.outcomes.contacts import (
    contact_slip,
    contact_time,
    contacts,
    flight_time,
    heard,
    hit,
    impact_angle,
    impact_energy,
    impact_speed,
    kept_restitution,
    rebound_speed,
)
from yapa.outcomes.overlaps import overlap
from yapa.outcomes.rest import rest_time
from yapa.outcomes.travel import peak_speed, roll_distance, slide_distance, travel
from yapa.outcomes.value import OutcomeValue

Read = Callable[[Motion, str, Asked], OutcomeValue]


@dataclass(frozen=True)
class Outcome:
    """An entry of the catalogue."""

    asking: OutcomeSpec
    read: Read

    @property
    def name(self) -> str:
        """Its name."""
        return self.asking.name

    @property
    def unit(self) -> str:
        """Its SI unit."""
        return self.asking.unit

    @property
    def meaning(self) -> str:
        """What it means, in a line."""
        return self.asking.meaning

    @property
    def indexed(self) -> bool:
        """Whether it is one of several."""
        return "index" in self.asking.needs


def _by_index(function: Callable[[Motion, str, int | None], OutcomeValue]) -> Read:
    return lambda motion, body, asked: function(motion, body, asked.index)


_FUNCTIONS: dict[str, Read] = {
    "apex": _by_index(apex), "apex ratio": _by_index(apex_ratio), "rest time": _by_index(rest_time),
    "bounces": _by_index(number_of_bounces), "bounce time": _by_index(bounce_time), "flight time": flight_time,
    "travel": _by_index(travel), "landing": _by_index(landing), "landing x": _by_index(landing_x),
    "landing y": _by_index(landing_y), "peak speed": _by_index(peak_speed), "peak height": poses.peak_height,
    "peak spin": poses.peak_spin, "slide distance": _by_index(slide_distance), "slide time": spans.slide_time,
    "roll distance": _by_index(roll_distance), "slide to roll": spans.slide_to_roll, "contact time": contact_time,
    "contacts": contacts, "impact speed": impact_speed, "rebound speed": rebound_speed, "impact energy": impact_energy,
    "kept restitution": kept_restitution, "impact angle": impact_angle, "contact slip": contact_slip, "hit": hit,
    "miss": passages.miss, "passage time": passages.passage_time, "passage speed": passages.passage_speed,
    "waypoints": passages.waypoints, "x": poses.x, "y": poses.y, "z": poses.z, "speed": poses.speed, "spin": poses.spin,
    "turn": poses.turn, "tilt": poses.tilt, "topple": poses.topple, "inside": containment.inside,
    "stays inside": containment.stays_inside, "overlap": overlap, "energy kept": energies.energy_kept,
}
CATALOGUE: dict[str, Outcome] = {name: Outcome(asking, _FUNCTIONS[name]) for name, asking in OUTCOME_SPECS.items()}

SHORT = ("apex", "rest time", "bounces", "travel", "landing", "peak speed", "slide distance", "roll distance")
"""What a first look shows."""


_COUNTS = {"bounces", "contacts"}
_AT_TIMES = {"x", "y", "z", "speed", "spin", "turn", "tilt", "topple", "travel", "inside", "energy kept"}


def _told(motion: Motion, body: str, name: str, asked: Asked) -> OutcomeValue:
    """An outcome, or that the track does not resolve it."""
    reading = CATALOGUE[name].read(motion, body, asked)
    if not motion.unresolved:
        return reading
    at = motion.end if asked.at is None else asked.at
    lost = any(a < at <= b for a, b in motion.unresolved) and name in _AT_TIMES
    if lost or name in _COUNTS or (reading.value is None and CATALOGUE[name].indexed) or name in ("stays inside", "rest time"):
        first = motion.unresolved[0][0]
        return OutcomeValue(None, None, f"not resolved: from {first:.3f} s contacts come too fast for the frames", reading.guide,
                       reading.shortfall)
    return reading


def read(motion: Motion, name: str, body: str, index: int | None = None, asked: Asked | None = None) -> OutcomeValue:
    """Read one outcome off a motion."""
    return _told(motion, body, name, asked) if asked is not None else _of_index(motion, body, name, index)


def _of_index(motion: Motion, body: str, name: str, index: int | None = None) -> OutcomeValue:
    """An outcome that is told nothing but a number, read once a motion."""
    key = (f"{name} {index}", body)
    if key not in motion.memo:
        motion.memo[key] = _told(motion, body, name, Asked(index))
    return cast("OutcomeValue", motion.memo[key])


def read_target(motion: Motion, body: str, target: Target) -> OutcomeValue:
    """Read the outcome a target asks for."""
    return _told(motion, body, target.outcome, Asked.of(target))


def measure(motion: Motion, body: str, only: tuple[str, ...] | None = SHORT) -> dict[str, OutcomeValue]:
    """Outcomes of a body that need to be told nothing but an index: a first look, those named, or (None) all of them."""
    out: dict[str, OutcomeValue] = {}
    count, hits = len(bounces(motion, body)), len(heard(motion, body, None))
    for outcome in CATALOGUE.values():
        if only is not None and outcome.name not in only:
            continue
        if set(outcome.asking.needs) - {"index"} or outcome.name == "miss":
            continue
        if outcome.indexed:
            many = hits if outcome.name in _OF_CONTACTS else count
            for k in range(1, min(many, 12) + 1):
                out[f"{outcome.name} {k}"] = _of_index(motion, body, outcome.name, k)
        else:
            out[outcome.name] = _of_index(motion, body, outcome.name)
    return out


_OF_CONTACTS = {
    "contact time", "impact speed", "rebound speed", "impact energy", "kept restitution", "impact angle", "contact slip",
    "flight time",
}
