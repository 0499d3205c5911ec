"""Numbers as people write them: either decimal mark, with or without marks between thousands, decided for a whole file.

``1.234`` and ``1,234`` alone say nothing: they are a number with three decimals or a thousand and more. What tells them apart is
the rest of the file: a cell with both marks, a mark that stands twice, a group that is not of three digits, a zero before the
mark. Where nothing tells, the mark must be said.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from enum import Enum
from typing import Literal

import numpy as np

Mark = Literal[".", ","]
_EXPONENT = r"(?:[eE][-+]?\d{1,4})?"
_GAP = "[ '\N{NO-BREAK SPACE}\N{NARROW NO-BREAK SPACE}\N{THIN SPACE}\N{RIGHT SINGLE QUOTATION MARK}]"
_WITH = {
    mark: re.compile(rf"[-+]?(?:\d+|\d{{1,3}}(?:{other}\d{{3}})+|\d{{1,3}}(?:{_GAP}\d{{3}})+|(?=[{mark}]\d))"
                     rf"(?:[{mark}]\d*)?{_EXPONENT}")
    for mark, other in ((".", ","), (",", r"\."))
}
_COLUMNS = {
    mark: re.compile(rf"(?:(?:[-+]?(?:\d{{1,3}}(?:{other}\d{{3}})++|\d++|(?=[{mark}]\d))(?:[{mark}]\d*+)?{_EXPONENT})?\n)*+")
    for mark, other in ((".", ","), (",", r"\."))
}
"""Whole columns, one cell a line, without marks that are typed only by hand."""
_DECIMAL_COMMA = re.compile(
    r"^[-+]?(?:,\d+|0\d*,\d*|\d{4,},\d*|\d{1,3},(?:\d{0,2}|\d{4,})|\d+,\d+[eE][-+]?\d{1,4})$", re.MULTILINE)
_PLAIN = re.compile(rf"[-+]?(?:\d+\.?\d*|\.\d+){_EXPONENT}")
_EITHER = re.compile(r"[-+]?(?:\d[\d.,]*|[.,]\d[\d.,]*)(?:[eE][-+]?\d{1,4})?")
GAPS = frozenset(("", "nan", "na", "n/a", "null", "none", "-", "--", "–", "—", "?", "#n/a"))
"""Cells that say: nothing was measured here."""


class Evidence(Enum):
    """What a cell says of the decimal mark of its file."""

    POINT = "."
    COMMA = ","
    AMBIGUOUS = "either"
    NOTHING = "nothing"


def _cleaned(cell: str) -> str:
    return cell.strip().strip("'").replace("\N{MINUS SIGN}", "-")


def number(cell: str, decimal: Mark = ".") -> float:
    """Return a cell's number, NaN for none.

    Parameters
    ----------
    cell : text of the cell
    decimal : the decimal mark
    """
    text = _cleaned(cell)
    if _PLAIN.fullmatch(text) and (decimal == "." or "." not in text):
        return float(text)
    if not _WITH[decimal].fullmatch(text):
        return float("nan")
    text = re.sub(_GAP, "", text)
    return float(text.replace(",", "") if decimal == "." else text.replace(".", "").replace(",", "."))


def numbers_of(cells: list[str], decimal: Mark = ".") -> np.ndarray:
    """Return the numbers of a column of cells, NaN for none: as :func:`number`, at once where all are numbers or empty.

    Parameters
    ----------
    cells : cells of the table
    decimal : the decimal mark
    """
    text = "\n".join(cells) + "\n"
    if _COLUMNS[decimal].fullmatch(text):
        text = text.replace(",", "") if decimal == "." else text.replace(".", "").replace(",", ".")
        return np.array([float(cell) if cell else np.nan for cell in text.split("\n")[:-1]], dtype=float)
    return np.array([number(cell, decimal) for cell in cells], dtype=float)


def is_number(cell: str) -> bool:
    """Return whether a cell is a number with either decimal mark.

    Parameters
    ----------
    cell : text of the cell
    """
    text = _cleaned(cell)
    return bool(_PLAIN.fullmatch(text) or _WITH["."].fullmatch(text) or _WITH[","].fullmatch(text)) if text else False


def evidence_of(cell: str) -> Evidence:
    """Return what a cell says of the decimal mark.

    Parameters
    ----------
    cell : text of the cell
    """
    text = _cleaned(cell)
    points, commas = text.count("."), text.count(",")
    if (not points and not commas) or not _EITHER.fullmatch(text):
        return Evidence.NOTHING
    digits = re.split("[eE]", text.lstrip("+-"))[0]
    if points and commas:
        return Evidence.POINT if digits.rfind(".") > digits.rfind(",") else Evidence.COMMA
    mark, other = (Evidence.POINT, Evidence.COMMA) if points else (Evidence.COMMA, Evidence.POINT)
    head, *groups = digits.split(mark.value)
    if len(groups) > 1:
        return other  # it stands between thousands
    if len(groups[0]) != 3 or not head or head.startswith("0") or len(head) > 3 or "e" in text.lower():
        return mark
    return Evidence.AMBIGUOUS if mark is Evidence.COMMA else Evidence.NOTHING


def find_decimal(cells: Iterable[str]) -> tuple[Mark | None, set[Evidence]]:
    """Return the decimal mark of a file from its cells of numbers, None where they contradict each other or do not tell it.

    A point with three digits behind it is a decimal mark unless something says otherwise; a comma is not.

    Parameters
    ----------
    cells : cells of the table
    """
    marked = [cell for cell in cells if "," in cell or "." in cell]
    text = "\n".join(marked)
    if "." in text or re.search(r",\d*,", text):
        seen = {evidence_of(cell) for cell in marked}
    else:  # commas alone: one decisive cell is enough
        seen = {Evidence.COMMA} if _DECIMAL_COMMA.search(text) else {evidence_of(cell) for cell in marked}
    point, comma = Evidence.POINT in seen, Evidence.COMMA in seen
    if point and comma:
        return None, seen
    if comma:
        return ",", seen
    if point or Evidence.AMBIGUOUS not in seen:
        return ".", seen
    return None, seen
