"""What a quantity does: ``time until when speed stays below 5 %``, ``time until when height above 0.4 m``."""

from __future__ import annotations

import re
from typing import Annotated, Any, NamedTuple

from pydantic import StringConstraints

from yapa.case.arguments.registry import NUMBER, Argument, argument, number_text
from yapa.case.units import si_unit
from yapa.errors import InputError

QUANTITIES = {"speed": "m/s", "height": "m", "x": "m", "y": "m", "z": "m", "spin": "rad/s", "tilt": "rad", "energy": "J"}
"""what may cross a level, with its SI unit"""
_TEXT = (rf"when\s+(?:{'|'.join(QUANTITIES)})\s+(?:stays\s+)?(?:above|below)\s+{NUMBER}"
         r"(?:\s*(?:%|°|(?!at\b|within\b|happens\b|never\b|weight\b)[a-zA-Z][a-zA-Z/²]*))?")


class Crossing(NamedTuple):
    """A quantity, whether it is to be above the level, whether it is to stay there, and the level in SI units or of its
    greatest."""

    quantity: str
    above: bool
    stays: bool
    level: float
    is_share: bool


def crossing_of(text: str) -> Crossing:
    """Return what a text such as ``speed stays below 5 %`` says.

    Parameters
    ----------
    text : the text

    Raises
    ------
    ValueError
        If it cannot be read, or its unit is another one's.
    """
    match = re.fullmatch(rf"\s*(\w+)\s+(stays\s+)?(above|below)\s+({NUMBER})\s*(\S*)\s*", text)
    if match is None or match[1] not in QUANTITIES:
        raise ValueError(f"{text!r} is none of {', '.join(QUANTITIES)} above or below a level, such as 'speed stays below 5 %'")
    quantity, unit = match[1], match[5]
    level = float(match[4])
    if unit == "%":
        return Crossing(quantity, match[3] == "above", bool(match[2]), 0.01 * level, True)
    try:
        found, wanted = si_unit(unit or QUANTITIES[quantity]), si_unit(QUANTITIES[quantity])
    except InputError:
        found = None
    if found is None or found.dimension != wanted.dimension:
        raise ValueError(f"{unit!r} is no unit of {quantity}; it is in {QUANTITIES[quantity]}")
    return Crossing(quantity, match[3] == "above", bool(match[2]), level * found.factor, False)


@argument
class CrossingText(Argument):
    """What a quantity does, in words."""

    name = "crossing"
    words = "what a quantity does, such as when speed below 0.1 m/s"
    placeholder = "when QUANTITY [stays] above|below LEVEL"
    keyword = "when"
    pattern = _TEXT
    kind = Annotated[str, StringConstraints(min_length=1, max_length=120, strip_whitespace=True)]

    def parse(self, text: str) -> str:
        """Return what follows ``when``, with its level in SI units or percent.

        Parameters
        ----------
        text : the text
        """
        found = crossing_of(text.partition("when")[2])
        unit = QUANTITIES[found.quantity]
        level = f"{number_text(100 * found.level)} %" if found.is_share else f"{number_text(found.level)} {unit}"
        return f"{found.quantity} {'stays ' if found.stays else ''}{'above' if found.above else 'below'} {level}"

    def format(self, value: str) -> str:
        """Return ``when speed stays below 5 %``.

        Parameters
        ----------
        value : its value
        """
        return f"when {value}"

    def check(self, value: Any) -> Any:
        """Return a text that can be read.

        Parameters
        ----------
        value : its text

        Raises
        ------
        ValueError
            If it cannot be read.
        """
        text = super().check(value)
        crossing_of(text)
        return text
