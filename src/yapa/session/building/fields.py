"""Numbers as a person reads and types them: in degrees, with any unit, the same for several bodies, or changed by an amount."""

from __future__ import annotations

import re
from collections.abc import Sequence

from yapa.case import Case, get_number, has_number, label_of, quantity_of
from yapa.case.arguments.registry import NUMBER
from yapa.case.quantity_text import number_with_unit
from yapa.case.units import SHOWN, as_shown
from yapa.errors import bad_input

_MORE = re.compile(rf"^\s*\+\s*({NUMBER}\s*\S*)\s*$")
_TIMES = re.compile(rf"^\s*[×x*]\s*({NUMBER})\s*$")
MIXED = "mixed"
"""what a field shows where several bodies differ"""


def unit_shown(path: str) -> str:
    """Return the unit in which a number is shown.

    Parameters
    ----------
    path : path of the number
    """
    return as_shown(0.0, quantity_of(path).unit)[1]


def text_of(case: Case, paths: Sequence[str]) -> str:
    """Return what a field shows: the number in the shown unit, or that several differ.

    Parameters
    ----------
    case : the case
    paths : of one number, or the same of several bodies
    """
    values = {get_number(case, path) for path in paths if has_number(case, path)}
    if len(values) != 1:
        return MIXED if values else ""
    value, _ = as_shown(values.pop(), quantity_of(paths[0]).unit)
    return f"{value:.6g}"


def values_from(case: Case, paths: Sequence[str], text: str) -> dict[str, float]:
    """Return what was typed as numbers in SI units: "0.2", "12 cm", "+2 cm" and "×1.1" change each.

    Parameters
    ----------
    case : the case
    paths : of one number, or the same of several bodies
    text : what was typed

    Raises
    ------
    InputError
        If it is no number, or its unit is none of the quantity.
    """
    present = {path: get_number(case, path) for path in paths if has_number(case, path)}
    if match := _TIMES.match(text):
        return {path: float(match[1]) * value for path, value in present.items()}
    if match := _MORE.match(text):
        return {path: value + _number(path, match[1]) for path, value in present.items()}
    if text.strip() == MIXED:
        return {}
    return {path: _number(path, text) for path in present}


def _number(path: str, text: str) -> float:
    """A number as it is typed: without a unit in the one that is shown."""
    unit = quantity_of(path).unit
    bare = re.fullmatch(rf"\s*{NUMBER}\s*", text)
    if bare and unit in SHOWN:
        return number_with_unit(path, f"{text.strip()} deg")
    if not text.strip():
        raise bad_input(label_of(path), "nothing", "a number, with a unit if it is another than the one shown")
    return number_with_unit(path, text)
