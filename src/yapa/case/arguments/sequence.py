"""Bodies in an order: ``contact order through floor, wall, post``."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from yapa.case.arguments.registry import Argument, argument
from yapa.case.base import Name


@argument
class Sequence(Argument):
    """Bodies that are met one after the other."""

    name = "sequence"
    words = "bodies in their order, such as through floor, wall"
    placeholder = "through BODY, BODY"
    keyword = "through"
    pattern = r"through\s+(?:(?!\s(?:{stop})\s).)+?(?=\s+(?:{stop})\s|\s*$)"
    kind = Annotated[tuple[Name, ...], Field(min_length=2, max_length=20)]

    def parse(self, text: str) -> tuple[str, ...]:
        """Return the names of the bodies.

        Parameters
        ----------
        text : the text
        """
        return tuple(part.strip() for part in text.partition("through")[2].split(","))

    def format(self, value: tuple[str, ...]) -> str:
        """Return ``through floor, wall``.

        Parameters
        ----------
        value : its value
        """
        return "through " + ", ".join(value)
