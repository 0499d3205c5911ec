"""Amounts as a person types them, in any unit, and how well one is to be met where that is not said."""

from __future__ import annotations

import re

from yapa.case.quantity_text import plain_number
from yapa.case.units import SHOWN, si_unit
from yapa.errors import bad_input

USUAL = 0.02
"""of a value: its tolerance where none is given"""
LEAST = 1e-3
"""the least usual tolerance"""
_NUMBER = r"[-+−]?\d+(?:[.,]\d+)?(?:[eE][-+]?\d+)?"
_UNIT = r"[^\W\d][^\s±;]*|°|%"
_AMOUNT = re.compile(rf"^\s*({_NUMBER})\s*({_UNIT})?\s*$")


def amount_of(text: str, unit: str) -> float:
    """Return an amount as it is typed in SI units; without a unit it is in the one that people are shown (angles in degrees).

    Parameters
    ----------
    text : such as ``0.42``, ``42 cm``
    unit : SI unit of what is meant

    Raises
    ------
    InputError
        If it is no number, or its unit is of something else.
    """
    found = _AMOUNT.match(text)
    if found is None:
        raise bad_input("value", repr(text), f"a number{f' in {unit}' if unit else ''}, or with a unit of its own")
    number, symbol = found.groups()
    if symbol is None:
        return _number(number) * (1.0 / SHOWN[unit][0] if unit in SHOWN else 1.0)
    given = si_unit(symbol)
    if given.dimension != si_unit(unit).dimension:
        raise bad_input("value", repr(text), f"a unit of {unit or 'no dimension'}")
    return _number(number) * given.factor


def usual_tolerance(value: float) -> float:
    """Return the tolerance of a value where none is given.

    Parameters
    ----------
    value : that is wanted [SI]
    """
    return max(USUAL * abs(value), LEAST)


def _number(text: str) -> float:
    return plain_number(text, "value")
