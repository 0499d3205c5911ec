"""A side of a body: ``side angle of side +z``."""

from __future__ import annotations

from typing import Literal

from yapa.case.arguments.registry import Argument, argument


@argument
class Side(Argument):
    """A side of a body, by its own axis at the start: +x, -x, +y, -y, +z or -z."""

    name = "side"
    words = "a side, such as side +z"
    placeholder = "side +z"
    keyword = "side"
    pattern = r"side\s+[+-][xyz]"
    kind = Literal["+x", "-x", "+y", "-y", "+z", "-z"]

    def parse(self, text: str) -> str:
        """Return the side.

        Parameters
        ----------
        text : the text
        """
        return text.split()[-1]

    def format(self, value: str) -> str:
        """Return ``side +z``.

        Parameters
        ----------
        value : its value
        """
        return f"side {value}"
