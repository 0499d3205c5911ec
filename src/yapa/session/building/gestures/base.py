"""What a gesture knows: the body as it was when it was taken, where the pointer took it, and how places are rounded."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from yapa.case import Body, Case
from yapa.motion import Array
from yapa.session.building.picking import Hit
from yapa.session.building.placing import place_of
from yapa.session.building.rays import Ray


@dataclass(frozen=True)
class Snapping:
    """What a place, a length and an angle are rounded to, and what the keys that are held ask for.

    Attributes
    ----------
    step : of the grid [m]; 0: none
    angle : of turns [rad]; 0: none
    in_picture : a body moves in the plane of the picture, whatever is under the pointer
    about_centre : a size changes about the centre, in place of the face across
    """

    step: float = 0.0
    angle: float = 0.0
    in_picture: bool = False
    about_centre: bool = False


def nothing_under(_ray: Ray) -> list[Hit]:
    """Return what a pointer is over where nothing is.

    Parameters
    ----------
    _ray : where the pointer looks
    """
    return []


@dataclass(frozen=True)
class Held:
    """A body under the hand.

    Attributes
    ----------
    case : as it was when the body was taken
    name : of the body
    grabbed : (3,) where the pointer took it [m]
    face : on which it stands at the start; None where it hangs in the air
    axis : (3,) along which a grip moves, or about which it turns
    part : which of a body's sizes, as in its path
    time : of the play head [s]
    under : what else the pointer is over
    """

    case: Case
    name: str
    grabbed: Array
    face: Hit | None = None
    axis: Array = field(default_factory=lambda: np.array([0.0, 0.0, 1.0]))
    part: str = ""
    time: float = 0.0
    under: Callable[[Ray], list[Hit]] = nothing_under

    @property
    def body(self) -> Body:
        """The body as it was."""
        return self.case.bodies[self.name]

    @property
    def place(self) -> Array:
        """Where it starts [m]."""
        return np.array(place_of(self.body))


def rounded(value: float, step: float) -> float:
    """Return a number rounded to a step; as it is where there is none.

    Parameters
    ----------
    value : the number
    step : its step, or 0
    """
    return round(value / step) * step if step else value
