"""Numbers of a case as people type them, with a unit: ``80 cm``, ``12 deg``, ``0.2``."""

from __future__ import annotations

import math
import re

from yapa.case.arguments.registry import NUMBER
from yapa.case.quantities import QUANTITIES, kind_of, quantity_of
from yapa.case.units import si_unit
from yapa.errors import InputError, bad_input

_TEXT = re.compile(rf"^\s*({NUMBER})\s*(.*?)\s*$")


def plain_number(text: str, where: str) -> float:
    """Return a number as it is typed: with a point or a comma before its decimals, and any minus sign.

    Every field of numbers is read here or by :func:`number_in`, so that no text becomes NaN or infinity.

    Parameters
    ----------
    text : what was typed
    where : what the number is, for messages

    Raises
    ------
    InputError
        If it is no number, or one that is too large to be one.
    """
    word = text.strip().replace(",", ".").replace("−", "-")
    if not re.fullmatch(NUMBER, word):
        raise bad_input(where, repr(text.strip()) if text.strip() else "nothing", "a number")
    return _finite(float(word), text, where)


def _finite(value: float, text: str, where: str) -> float:
    if not math.isfinite(value):
        raise bad_input(where, repr(text.strip()), "a number that is not infinite")
    return value


def number_with_unit(path: str, text: str) -> float:
    """Return a number in SI units.

    Parameters
    ----------
    path : path of the number, which says what its unit may be
    text : a number, with a unit behind it or in SI units without one

    Raises
    ------
    InputError
        If it is no number, or its unit is none of the quantity.
    """
    known = kind_of(path) in QUANTITIES
    return number_in(text, quantity_of(path).unit if known else "", path, any_unit=kind_of(path) == "constants")


def number_in(text: str, wanted: str, where: str, *, any_unit: bool = False) -> float:
    """Return a number in SI units.

    Parameters
    ----------
    text : a number, with a unit behind it or in SI units without one
    wanted : its SI unit
    where : what the number is, for messages
    any_unit : whether a unit of another kind will do

    Raises
    ------
    InputError
        If it is no number, or its unit is none of that kind.
    """
    match = _TEXT.match(text)
    if match is None:
        raise bad_input(where, repr(text.strip()), "a number, with a unit if it is not in SI units")
    if not match[2]:
        return _finite(float(match[1]), text, where)
    try:
        found = si_unit(match[2])
    except InputError:
        found = None
    if found is None or (found.dimension != si_unit(wanted).dimension and not any_unit):
        raise bad_input(where, f"the unit {match[2]!r}", f"one of {wanted or 'numbers without a unit'}")
    value = _finite(float(match[1]) * found.factor, text, where)
    return float(f"{value:.15g}")
