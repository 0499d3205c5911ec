"""What should happen, as a person writes it: several wishes in a line, in any unit, with a usual tolerance where none is given."""

from __future__ import annotations

import re

from yapa.case import Target
from yapa.case.units import si_unit
from yapa.formats.target_text import parse_target

USUAL = 0.02
"""of a value: its tolerance where none is given"""
LEAST = 1e-3
"""the least usual tolerance"""
_NUMBER = r"[-+−]?\d+(?:[.,]\d+)?(?:[eE][-+]?\d+)?"
_UNIT = r"[^\W\d][^\s±;]*|°|%"
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
