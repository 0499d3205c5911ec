"""What can be asked of a motion: the names of the outcomes, their units, and what each needs to be told."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache


@dataclass(frozen=True)
class OutcomeSpec:
    """An outcome as it is asked for.

    ``needs`` and ``may`` name what must and what can stand with it: index (k), partner (a body), at (a time),
    point, zone, points.
    """

    name: str
    unit: str
    meaning: str
    needs: tuple[str, ...] = ()
    may: tuple[str, ...] = ()
    whole: bool = False
    """A count: whole numbers only."""


_ALL = (
    OutcomeSpec("apex", "m", "how high it rises after bounce k, above its place at that bounce", ("index",)),
    OutcomeSpec("apex ratio", "", "rise after bounce k over that after the bounce before it", ("index",)),
    OutcomeSpec("rest time", "s", "when it has come to rest"),
    OutcomeSpec("bounces", "", "how many contacts send it up by at least 5 mm", whole=True),
    OutcomeSpec("bounce time", "s", "when bounce k happens", ("index",)),
    OutcomeSpec("flight time", "s", "how long it is in the air between contact k and the next", ("index",)),
    OutcomeSpec("travel", "m", "how far from its start it is at the end, horizontally"),
    OutcomeSpec("landing", "m", "how far from its start landing k is, horizontally", ("index",)),
    OutcomeSpec("landing x", "m", "where along x landing k is", ("index",)),
    OutcomeSpec("landing y", "m", "where along y landing k is", ("index",)),
    OutcomeSpec("peak speed", "m/s", "its greatest speed"),
    OutcomeSpec("peak height", "m", "the greatest height of its centre"),
    OutcomeSpec("peak spin", "rad/s", "its fastest turning"),
    OutcomeSpec("slide distance", "m", "path length in contact while slipping"),
    OutcomeSpec("slide time", "s", "how long it slips in contact"),
    OutcomeSpec("roll distance", "m", "path length in contact without slipping"),
    OutcomeSpec("slide to roll", "s", "how long it slides on its support before it rolls"),
    OutcomeSpec("contact time", "s", "when contact k happens", ("index",), ("partner",)),
    OutcomeSpec("contacts", "", "how many contacts there are", (), ("partner",), whole=True),
    OutcomeSpec("impact speed", "m/s", "approach speed at contact k", ("index",), ("partner",)),
    OutcomeSpec("rebound speed", "m/s", "separation speed after contact k", ("index",), ("partner",)),
    OutcomeSpec("impact energy", "J", "energy of the approach at contact k, of the body's mass alone", ("index",), ("partner",)),
    OutcomeSpec("kept restitution", "", "rebound over approach speed at contact k", ("index",), ("partner",)),
    OutcomeSpec("impact angle", "rad", "angle between the path and the surface at contact k", ("index",), ("partner",)),
    OutcomeSpec("contact slip", "m/s", "slip of the surfaces just before contact k", ("index",), ("partner",)),
    OutcomeSpec("hit", "s", "when it first touches a body", ("partner",)),
    OutcomeSpec("miss", "m", "how near its centre comes to a point, or to another body's centre", (), ("point", "partner")),
    OutcomeSpec("passage time", "s", "when it is nearest to a point", ("point",)),
    OutcomeSpec("passage speed", "m/s", "its speed where it is nearest to a point", ("point",)),
    OutcomeSpec("waypoints", "m", "the greatest miss of points passed in this order", ("points",)),
    OutcomeSpec("x", "m", "where it is along x, at a time or at the end", (), ("at",)),
    OutcomeSpec("y", "m", "where it is along y, at a time or at the end", (), ("at",)),
    OutcomeSpec("z", "m", "how high it is, at a time or at the end", (), ("at",)),
    OutcomeSpec("speed", "m/s", "its speed at a time or at the end", (), ("at",)),
    OutcomeSpec("spin", "rad/s", "how fast it turns at a time or at the end", (), ("at",)),
    OutcomeSpec("turn", "rad", "how far it has turned about y, at a time or at the end", (), ("at",)),
    OutcomeSpec("tilt", "rad", "angle of its own upright axis from that at the start, at a time or at the end", (), ("at",)),
    OutcomeSpec("topple", "rad", "tilt at the end beyond 45 degrees", ()),
    OutcomeSpec("inside", "m", "how deep its centre is inside a zone at the end", ("zone",)),
    OutcomeSpec("stays inside", "m", "the least depth of its centre inside a zone, over the whole motion", ("zone",)),
    OutcomeSpec("overlap", "m", "how deep it goes into another body at worst; below zero the nearest gap", (), ("partner",)),
    OutcomeSpec("energy kept", "", "energy at the end over that at the start, heights from its lowest place"),
)
OUTCOME_SPECS = {asking.name: asking for asking in _ALL}


@lru_cache(maxsize=4096)
def outcome_and_index(name: str) -> tuple[str, int | None]:
    """The outcome that a measured name stands for, and its number: ``apex 2`` is the apex after bounce 2."""
    outcome = name.rstrip("0123456789 ")
    return outcome, int(name[len(outcome) :]) if len(name) > len(outcome) else None


def spec_of(name: str) -> OutcomeSpec:
    """What is known of the outcome that a measured name stands for."""
    return OUTCOME_SPECS[outcome_and_index(name)[0]]


CONDITIONS = ("equal", "within", "at least", "at most", "happens", "never")
UNITS = {
    "m": {"m": 1.0, "cm": 0.01, "mm": 0.001}, "s": {"s": 1.0, "ms": 0.001}, "m/s": {"m/s": 1.0, "cm/s": 0.01, "mm/s": 0.001},
    "rad": {"rad": 1.0, "deg": 0.017453292519943295, "°": 0.017453292519943295},
    "rad/s": {"rad/s": 1.0, "deg/s": 0.017453292519943295, "rpm": 0.10471975511965977}, "J": {"J": 1.0, "mJ": 0.001}, "": {},
}
"""Units in which a number may be given, by its SI unit."""
