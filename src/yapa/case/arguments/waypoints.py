"""Points in an order: ``waypoints (0, 0, 1), (1, 0, 0)``."""

from __future__ import annotations

import re
from typing import Annotated

from pydantic import Field

from yapa.case.arguments.registry import PLACE, Argument, argument, place_of, place_text
from yapa.case.base import Place

MAX_WAYPOINTS = 20
"""of one target"""


@argument
class Waypoints(Argument):
    """Points [m] that are passed in this order."""

    name = "waypoints"
    words = "waypoints"
    placeholder = "(x, y, z), (x, y, z), …"
    pattern = rf"{PLACE}(?:\s*,\s*{PLACE})*"
    kind = Annotated[tuple[Place, ...], Field(max_length=MAX_WAYPOINTS)]

    def parse(self, text: str) -> tuple[tuple[float, float, float], ...]:
        """Return the points [m].

        Parameters
        ----------
        text : the text
        """
        return tuple(place_of(place) for place in re.findall(PLACE, text))

    def format(self, value: tuple[tuple[float, float, float], ...]) -> str:
        """Return the points with commas between.

        Parameters
        ----------
        value : its value
        """
        return ", ".join(place_text(point) for point in value)
