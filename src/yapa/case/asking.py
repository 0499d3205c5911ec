"""What can be asked of a motion: the names of the outcomes, their units, and what each needs to be told."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Asking:
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
    Asking("apex", "m", "how high it rises after bounce k, above its place at that bounce", ("index",)),
    Asking("apex ratio", "", "rise after bounce k over that after the bounce before it", ("index",)),
    Asking("rest time", "s", "when it has come to rest"),
    Asking("bounces", "", "how many contacts send it up by at least 5 mm", whole=True),
    Asking("bounce time", "s", "when bounce k happens", ("index",)),
    Asking("flight time", "s", "how long it is in the air between contact k and the next", ("index",)),
    Asking("travel", "m", "how far from its start it is at the end, horizontally"),
    Asking("landing", "m", "how far from its start landing k is, horizontally", ("index",)),
    Asking("landing x", "m", "where along x landing k is", ("index",)),
    Asking("landing y", "m", "where along y landing k is", ("index",)),
    Asking("peak speed", "m/s", "its greatest speed"),
    Asking("peak height", "m", "the greatest height of its centre"),
    Asking("peak spin", "rad/s", "its fastest turning"),
    Asking("slide distance", "m", "path length in contact while slipping"),
    Asking("slide time", "s", "how long it slips in contact"),
    Asking("roll distance", "m", "path length in contact without slipping"),
    Asking("slide to roll", "s", "how long it slides on its support before it rolls"),
    Asking("contact time", "s", "when contact k happens", ("index",), ("partner",)),
    Asking("contacts", "", "how many contacts there are", (), ("partner",), whole=True),
    Asking("impact speed", "m/s", "approach speed at contact k", ("index",), ("partner",)),
    Asking("rebound speed", "m/s", "separation speed after contact k", ("index",), ("partner",)),
    Asking("impact energy", "J", "energy of the approach at contact k, of the body's mass alone", ("index",), ("partner",)),
    Asking("kept restitution", "", "rebound over approach speed at contact k", ("index",), ("partner",)),
    Asking("impact angle", "rad", "angle between the path and the surface at contact k", ("index",), ("partner",)),
    Asking("contact slip", "m/s", "slip of the surfaces just before contact k", ("index",), ("partner",)),
    Asking("hit", "s", "when it first touches a body", ("partner",)),
    Asking("miss", "m", "how near its centre comes to a point, or to another body's centre", (), ("point", "partner")),
    Asking("passage time", "s", "when it is nearest to a point", ("point",)),
    Asking("passage speed", "m/s", "its speed where it is nearest to a point", ("point",)),
    Asking("waypoints", "m", "the greatest miss of points passed in this order", ("points",)),
    Asking("x", "m", "where it is along x, at a time or at the end", (), ("at",)),
    Asking("y", "m", "where it is along y, at a time or at the end", (), ("at",)),
    Asking("z", "m", "how high it is, at a time or at the end", (), ("at",)),
    Asking("speed", "m/s", "its speed at a time or at the end", (), ("at",)),
    Asking("spin", "rad/s", "how fast it turns at a time or at the end", (), ("at",)),
    Asking("turn", "rad", "how far it has turned about y, at a time or at the end", (), ("at",)),
    Asking("tilt", "rad", "angle of its own upright axis from that at the start, at a time or at the end", (), ("at",)),
    Asking("topple", "rad", "tilt at the end beyond 45 degrees", ()),
    Asking("inside", "m", "how deep its centre is inside a zone at the end", ("zone",)),
    Asking("stays inside", "m", "the least depth of its centre inside a zone, over the whole motion", ("zone",)),
    Asking("overlap", "m", "how deep it goes into another body at worst; below zero the nearest gap", (), ("partner",)),
    Asking("energy kept", "", "energy at the end over that at the start, heights from its lowest place"),
)
ASKING = {asking.name: asking for asking in _ALL}


def outcome_and_index(name: str) -> tuple[str, int | None]:
    """The outcome that a measured name stands for, and its number: ``apex 2`` is the apex after bounce 2."""
    outcome = name.rstrip("0123456789 ")
    return outcome, int(name[len(outcome) :]) if len(name) > len(outcome) else None


def asking_of(name: str) -> Asking:
    """What is known of the outcome that a measured name stands for."""
    return ASKING[outcome_and_index(name)[0]]


CONDITIONS = ("equal", "within", "at least", "at most", "happens", "never")
UNITS = {
    "m": {"m": 1.0, "cm": 0.01, "mm": 0.001}, "s": {"s": 1.0, "ms": 0.001}, "m/s": {"m/s": 1.0, "cm/s": 0.01, "mm/s": 0.001},
    "rad": {"rad": 1.0, "deg": 0.017453292519943295, "°": 0.017453292519943295},
    "rad/s": {"rad/s": 1.0, "deg/s": 0.017453292519943295, "rpm": 0.10471975511965977}, "J": {"J": 1.0, "mJ": 0.001}, "": {},
}
"""Units in which a number may be given, by its SI unit."""
