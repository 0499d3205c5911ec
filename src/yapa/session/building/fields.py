"""Numbers as a person reads and types them: in degrees, with any unit, the same for several bodies, or changed by an amount."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence

from yapa.case import Case, get_number, has_number, label_of, quantity_of
from yapa.case.arguments.registry import NUMBER
from yapa.case.quantity_text import number_with_unit
from yapa.case.units import SHOWN, si_unit
from yapa.errors import bad_input

_MORE = re.compile(rf"^\s*\+\s*({NUMBER}\s*\S*)\s*$")
_TIMES = re.compile(rf"^\s*[×x*]\s*({NUMBER})\s*$")
USUAL: Mapping[str, str] = {}
"""no unit but the usual ones"""
MIXED = "mixed"
"""what a field shows where several bodies differ"""


def unit_shown(path: str, liked: Mapping[str, str] = USUAL) -> str:
    """Return the unit in which a number is shown.

    Parameters
    ----------
    path : path of the number
    liked : SI unit → the unit that a person likes in its place
    """
    return _shown(quantity_of(path).unit, liked)[1]


def _shown(unit: str, liked: Mapping[str, str]) -> tuple[float, str]:
    """How many of the shown unit an SI unit is, and its symbol."""
    symbol = liked.get(unit, SHOWN[unit][1] if unit in SHOWN else unit)
    return (1.0 if symbol == unit else SHOWN[unit][0] if symbol == "°" else 1.0 / si_unit(symbol).factor), symbol


def text_of(case: Case, paths: Sequence[str], liked: Mapping[str, str] = USUAL) -> str:
    """Return what a field shows: the number in the shown unit, or that several differ.

    Parameters
    ----------
    case : the case
    paths : of one number, or the same of several bodies
    liked : SI unit → the unit that a person likes in its place
    """
    values = {get_number(case, path) for path in paths if has_number(case, path)}
    if len(values) != 1:
        return MIXED if values else ""
    value = values.pop() * _shown(quantity_of(paths[0]).unit, liked)[0]
    text = f"{value:.6g}"
    return f"{value:.3g}" if "e" in text else text


def values_from(case: Case, paths: Sequence[str], text: str, liked: Mapping[str, str] = USUAL) -> dict[str, float]:
    """Return what was typed as numbers in SI units: "0.2", "12 cm", "+2 cm" and "×1.1" change each.

    Parameters
    ----------
    case : the case
    paths : of one number, or the same of several bodies
    text : what was typed; without a unit it is in the one that is shown
    liked : SI unit → the unit that a person likes in its place

    Raises
    ------
    InputError
        If it is no number, or its unit is none of the quantity.
    """
    present = {path: get_number(case, path) for path in paths if has_number(case, path)}
    if match := _TIMES.match(text):
        return {path: float(match[1]) * value for path, value in present.items()}
    if match := _MORE.match(text):
        return {path: value + _number(path, match[1], liked) for path, value in present.items()}
    if text.strip() == MIXED:
        return {}
    return {path: _number(path, text, liked) for path in present}


def _number(path: str, text: str, liked: Mapping[str, str]) -> float:
    """A number as it is typed: without a unit in the one that is shown."""
    unit = quantity_of(path).unit
    symbol = _shown(unit, liked)[1]
    if symbol != unit and re.fullmatch(rf"\s*{NUMBER}\s*", text):
        return number_with_unit(path, f"{text.strip()} {'deg' if symbol == '°' else symbol}")
    if not text.strip():
        raise bad_input(label_of(path), "nothing", "a number, with a unit if it is another than the one shown")
    return number_with_unit(path, text)
