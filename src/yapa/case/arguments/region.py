"""A region of space: ``inside (0, 0, 0) to (1, 1, 1)``."""

from __future__ import annotations

import re
from typing import Any

from yapa.case.arguments.registry import PLACE, Argument, argument, place_of, place_text
from yapa.case.base import Place


@argument
class Region(Argument):
    """A box along x, y, z between two corners [m]."""

    name = "region"
    words = "a region"
    placeholder = "(x, y, z) to (x, y, z)"
    pattern = rf"{PLACE}\s*to\s*{PLACE}"
    kind = tuple[Place, Place]

    def parse(self, text: str) -> tuple[tuple[float, float, float], ...]:
        """Return both corners [m].

        Parameters
        ----------
        text : the text
        """
        return tuple(place_of(place) for place in re.findall(PLACE, text))

    def format(self, value: tuple[tuple[float, float, float], tuple[float, float, float]]) -> str:
        """Return ``(0, 0, 0) to (1, 1, 1)``.

        Parameters
        ----------
        value : its value
        """
        return f"{place_text(value[0])} to {place_text(value[1])}"

    def check(self, value: Any) -> Any:
        """Return both corners, the first with the least coordinates.

        Parameters
        ----------
        value : its value

        Raises
        ------
        ValueError
            If it cannot be.
        """
        corners = super().check(value)
        if any(b <= a for a, b in zip(*corners, strict=True)):
            raise ValueError("the second corner of a region must lie beyond the first along x, y and z")
        return corners
