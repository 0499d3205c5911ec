"""A table of trials in words: which column sets what, and what was measured.

    PATH=ARITHMETIC               a setting: bodies.ball.position.z=height cm
    OUTCOME=ARITHMETIC [± ARITHMETIC]   a measured outcome: landing x 1=distance mm ± 2 mm
    NAME=LOW..HIGH [UNIT]         a free constant: reaction_time=0..3 s
    COLUMN: PATH, PATH            unknowns that every value of a column has for itself: day: pairs.rind+pad.friction
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from pathlib import Path

from pydantic import ValidationError

from yapa.case.arguments.registry import NUMBER, PLACE, place_of
from yapa.case.constants import Constant
from yapa.case.curves import CURVE_UNITS, Curve
from yapa.case.expressions import parse_expression
from yapa.case.model import Case
from yapa.case.table_columns import TableColumns
from yapa.case.trial_table import Measured, TrialTable
from yapa.case.units import si_unit
from yapa.case.unknowns import Unknown
from yapa.case.validation import checked, input_error
from yapa.errors import bad_input
from yapa.formats.trials import TrialFile, read_trials

_CURVE = re.compile(rf"^\s*(\S.*?)\s+(\w+)(?:\s+of\s+({PLACE}))?\s*=\s*(.+?)\s*:\s*([^,:]+),\s*([^,±]+?)(?:\s*±\s*(.+?))?\s*$")
_RANGE = re.compile(rf"^\s*([A-Za-z_]\w*)\s*=\s*({NUMBER})\s*(?:\.\.|…)\s*({NUMBER})\s*(\S*)\s*$")


def with_table(case: Case, rows: Path | TrialFile, columns: Iterable[str], measured: Iterable[str], constants: Iterable[str] = (),
               free_per: Iterable[str] = ()) -> tuple[Case, list[str]]:
    """Return the case with a table of trials, and notices.

    Parameters
    ----------
    case : the case
    rows : the file, or a table already read
    columns : settings in words
    measured : measured outcomes in words
    constants : free constants in words
    free_per : unknowns of every value of a column, in words

    Raises
    ------
    InputError
        If a text cannot be read, or the table cannot be used with this case.
    """
    file = read_trials(rows) if isinstance(rows, Path) else rows
    named = [_constant(text) for text in constants]
    case = case.model_copy(update={
        "constants": {**case.constants, **{name: constant for name, constant, _ in named}},
        "unknowns": (*(u for u in case.unknowns if u.path not in {own.path for _, _, own in named}),
                     *(own for _, _, own in named))})
    try:
        table = TrialTable.model_validate({
            "columns": file.columns, "units": file.units, "settings": dict(_setting(text) for text in columns),
            "measured": tuple(_measured(text) for text in measured), "free_per": dict(_free_per(text) for text in free_per)})
    except ValidationError as error:
        raise input_error(error, "the table of trials") from None
    return checked(case.model_copy(update={"table": table}), "the table of trials"), file.notices


def with_curve(case: Case, text: str) -> Case:
    """Return the case with a curve from a file.

    Parameters
    ----------
    case : the case
    text : ``BODY QUANTITY [of (x, y, z)]=FILE: TIME, VALUE [± SIGMA]``, arithmetic of the file's columns with units

    Raises
    ------
    InputError
        If the text or the file cannot be read.
    """
    match = _CURVE.match(text)
    if match is None:
        raise bad_input(f"curve {text!r}", "text that is no curve",
                        "BODY QUANTITY=FILE: TIME, VALUE, such as 'orange speed=log.csv: t ms, v km/h'")
    body, quantity, point, name, when, what, sigma = match.groups()
    if quantity not in CURVE_UNITS:
        raise bad_input(f"curve {text!r}", f"the quantity {quantity!r}", f"one of {', '.join(CURVE_UNITS)}")
    file = read_trials(Path(name.strip()), most=20_000)
    table = TrialTable.model_construct(columns=file.columns, units=file.units, settings={"t": when}, file=None, free_per={},
                                       measured=(
        Measured.model_construct(outcome=quantity, value=what, sigma=sigma),))
    columns = TableColumns(table, {})
    for _, expression in table.expressions():
        for column in expression.names:
            if column not in file.columns:
                raise bad_input(f"curve {text!r}", f"the column {column!r}", f"one of {', '.join(file.columns)}")
    t = columns.values(parse_expression(when), "s", "the times")
    y = columns.values(parse_expression(what), CURVE_UNITS[quantity], f"the {quantity}")
    s = None if sigma is None else columns.values(parse_expression(sigma), CURVE_UNITS[quantity], "σ")
    try:
        curve = Curve.model_validate({
            "name": f"{body} {quantity}", "body": body, "quantity": quantity, "point": None if point is None else place_of(point),
            "t": tuple(t.tolist()), "y": tuple(None if v != v else v for v in y.tolist()),
            "sigma": None if s is None else float(s[0])})
    except ValidationError as error:
        raise input_error(error, f"curve {text!r}") from None
    return checked(case.model_copy(update={"curves": (*case.curves, curve)}), f"curve {text!r}")


def _parted(text: str, what: str, example: str) -> tuple[str, str]:
    left, mark, right = text.partition("=")
    if not mark or not left.strip() or not right.strip():
        raise bad_input(f"{what} {text!r}", "text without both sides of =", f"one like '{example}'")
    return left.strip(), right.strip()


def _setting(text: str) -> tuple[str, str]:
    return _parted(text, "column", "bodies.ball.position.z=height cm")


def _measured(text: str) -> Measured:
    outcome, right = _parted(text, "measured", "landing x 1=distance mm")
    value, _, sigma = right.replace("+-", "±").replace("+/-", "±").partition("±")
    return Measured(outcome=outcome, value=value.strip(), sigma=sigma.strip() or None)


def _constant(text: str) -> tuple[str, Constant, Unknown]:
    match = _RANGE.match(text)
    if match is None:
        raise bad_input(f"constant {text!r}", "text that is no constant", "NAME=LOW..HIGH UNIT, such as 'reaction_time=0..3 s'")
    unit = si_unit(match[4])
    low, high = float(match[2]) * unit.factor, float(match[3]) * unit.factor
    if not low < high:
        raise bad_input(f"constant {text!r}", f"the range {match[2]} to {match[3]}", "a range that rises")
    symbol = match[4] if unit.factor == 1.0 else str(unit.dimension)
    near = min(max(0.0, low), high)
    constant = Constant(value=near, neutral=near, unit=symbol)
    return match[1], constant, Unknown(path=f"constants.{match[1]}", low=low, high=high)


def _free_per(text: str) -> tuple[str, tuple[str, ...]]:
    column, mark, right = text.partition(":")
    paths = tuple(path.strip() for path in right.split(",") if path.strip())
    if not mark or not paths:
        raise bad_input(f"free per {text!r}", "text without a column and paths", "COLUMN: PATH, PATH")
    return column.strip(), paths
