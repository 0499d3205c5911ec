"""What should happen, as a person writes it: several wishes in a line, in any unit, with a usual tolerance where none is given."""

from __future__ import annotations

import re

from yapa.case import Target
from yapa.case.units import SHOWN, si_unit
from yapa.errors import bad_input
from yapa.formats.target_text import parse_target

USUAL = 0.02
"""of a value: its tolerance where none is given"""
LEAST = 1e-3
"""the least usual tolerance"""
_NUMBER = r"[-+−]?\d+(?:[.,]\d+)?(?:[eE][-+]?\d+)?"
_UNIT = r"[^\W\d][^\s±;]*|°|%"
_AMOUNT = re.compile(rf"^\s*({_NUMBER})\s*({_UNIT})?\s*$")
_VALUE = re.compile(rf"^(.*?)(=|at least|at most)\s*({_NUMBER})\s*({_UNIT})?\s*(?:±\s*({_NUMBER})\s*({_UNIT})?)?\s*$")


def parse_wishes(text: str) -> list[Target]:
    """Return the targets in a text: one a line, or with semicolons between.

    Parameters
    ----------
    text : such as ``apex 3 = 30 cm; rest time = 2.1 ± 0.1``

    Raises
    ------
    InputError
        If one cannot be read: what was found, and how it is written.
    """
    return [parse_target(_in_si(part.strip())) for part in re.split(r"[;\n]", text) if part.strip()]


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


def _in_si(wish: str) -> str:
    """A wish with its value and tolerance in SI units, the usual tolerance where none is given."""
    found = _VALUE.match(wish)
    if found is None:
        return wish
    about, word, number, unit, tolerance, unit_of_tolerance = found.groups()
    value = _number(number) * si_unit(unit or "").factor
    if tolerance is not None:
        off = _number(tolerance) * si_unit(unit_of_tolerance or unit or "").factor
        return f"{about}{word} {value!r} ± {off!r}"
    return f"{about}{word} {value!r}" + (f" ± {max(USUAL * abs(value), LEAST)!r}" if word == "=" else "")


def _number(text: str) -> float:
    return float(text.replace(",", ".").replace("−", "-"))
