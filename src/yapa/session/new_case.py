"""New cases: from a track, and from outcomes that are wanted."""

from __future__ import annotations

from yapa.case import Case
from yapa.fitting import Prepared, Setup, prepare
from yapa.fitting.setup.from_targets import from_outcomes

__all__ = ["FINDABLE", "Prepared", "Setup", "empty_scene", "from_outcomes", "prepare"]


def empty_scene() -> Case:
    """Return a case with nothing in it yet."""
    return Case(title="New scene", bodies={})



FINDABLE = {
    "restitution": "how much bounce the contact gives back",
    "friction": "how hard the contact resists sliding",
    "rolling_resistance": "what brings rolling to rest",
    "drag_coefficient": "how strongly air brakes it",
    "linear_damping": "share of speed lost each second",
    "mass": "told only by collisions, or by drag with a known coefficient",
    "angular_velocity": "how fast it turns at the start",
}
"""What can be found from one track, and what each means."""
