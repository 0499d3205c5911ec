"""A point: ``miss of (0.8, 0, 0.6)``."""

from __future__ import annotations

from yapa.case.arguments.registry import PLACE, Argument, argument, place_of, place_text
from yapa.case.base import Place


@argument
class Point(Argument):
    """A point [m]."""

    name = "point"
    words = "a point"
    placeholder = "of (x, y, z)"
    keyword = "of"
    pattern = rf"of\s+{PLACE}"
    kind = Place

    def parse(self, text: str) -> tuple[float, float, float]:
        """Return the point [m].

        Parameters
        ----------
        text : the text
        """
        return place_of(text)

    def format(self, value: tuple[float, float, float]) -> str:
        """Return ``of (0.8, 0, 0.6)``.

        Parameters
        ----------
        value : its value
        """
        return "of " + place_text(value)
