"""Which column is what: read from names, units and the numbers themselves, always shown, never silent.

What cannot be told is a question, not a guess: a unit that is not known, a name that is not known while an axis is missing, two
columns for one role, a decimal mark that nothing tells. :class:`Questions` carries them with the table, so that a form can ask;
as an error it says which option answers.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Set
from dataclasses import dataclass, field
from itertools import chain
from typing import Literal

import numpy as np

from yapa.case.importing import ImportSettings, Role
from yapa.errors import InputError, InputIssue
from yapa.formats.tracks.column_names import is_no_position, role_of, split_name
from yapa.formats.tracks.decimals import Evidence, Mark, find_decimal, is_number, number
from yapa.formats.tracks.table import Table
from yapa.formats.units import UNITS, Kind, find_unit, symbols

KINDS: dict[Role, Kind] = {"time": Kind.TIME, "x": Kind.LENGTH, "y": Kind.LENGTH, "z": Kind.LENGTH, "angle": Kind.ANGLE}
AXES: tuple[Role, ...] = ("x", "y", "z")


class Questions(InputError):
    """How a file would be read, and what only a person can say of it."""

    def __init__(self, problems: list[InputIssue], table: Table, how: ImportSettings, why: list[str]) -> None:
        super().__init__(problems)
        self.table, self.how, self.why = table, how, why


@dataclass
class Guess:
    """How a table would be read: the reading, its reasons in words, and what only a person can say."""

    how: ImportSettings
    why: list[str]
    questions: dict[str, list[InputIssue]] = field(default_factory=dict)
    """By what answers them: ``columns``, ``decimal``, or the role whose unit is not clear."""
    named: dict[int, str] = field(default_factory=dict)
    """The unit that the header names for a column, as it stands there."""

    def unit_of(self, k: int, role: Role) -> str | None:
        """Return the unit that the header gives a column in a role, None where it names none that fits.

        Parameters
        ----------
        k : number of the column
        role : role of the column
        """
        symbol = find_unit(self.named[k]) if k in self.named else None
        return symbol if symbol is not None and KINDS.get(role) is UNITS[symbol].kind else None

    def open_questions(self, fields: set[str], columns: Mapping[Role, int], units: Set[str], where: str) -> list[InputIssue]:
        """Return those that the fields, columns and units said so far do not answer, and those that they raise.

        Parameters
        ----------
        fields : settings that were said
        columns : number of the column of each role that was said
        units : units that were said, by role
        where : what the text or file is called in messages
        """
        out = [] if columns or "planar" in fields else list(self.questions.get("columns", ()))
        out += [] if "decimal" in fields else self.questions.get("decimal", [])
        for role, problems in self.questions.items():
            if role in KINDS and role not in units and role not in columns:
                out += problems
        for role, k in columns.items():
            if role in KINDS and role not in units and k in self.named and self.unit_of(k, role) is None:
                out.append(unknown_unit(where, k, self.named[k], role))
        return out


def unknown_unit(where: str, k: int, named: str, role: Role) -> InputIssue:
    """Return a unit that a header names and nobody knows, or that is none of what the column measures.

    Parameters
    ----------
    where : what the text or file is called in messages
    k : number of the column
    named : unit as the header has it
    role : role of the column
    """
    kind = KINDS[role]
    other = "" if find_unit(named) is None else f", which is none of {kind}"
    return InputIssue(f"{where}, column {k + 1}", f"the unit {named!r}{other}",
                   f"one of {', '.join(symbols(kind))}; say it with --unit {role}=…")


def find_first(table: Table) -> int:
    """Return the first row of numbers: from it on, rows have as many numbers as most.

    Parameters
    ----------
    table : rows of cells
    """
    counts = [sum(is_number(cell) for cell in row) for row in table.rows[:2000]]
    usual = int(np.median([c for c in counts if c > 0] or [0]))
    for i, c in enumerate(counts):
        if c >= max(2, usual - 1) and (i + 1 >= len(counts) or counts[i + 1] >= max(2, usual - 1)):
            return i
    return 0


def decimal_of(table: Table, first: int) -> tuple[Mark | None, set[Evidence]]:
    """Return the decimal mark of a table's numbers.

    Parameters
    ----------
    table : rows of cells
    first : first row of numbers
    """
    if not any("," in cell or cell.count(".") > 1 for row in table.rows[first:] for cell in row):
        return ".", set()
    return find_decimal(chain.from_iterable(table.rows[first:]))


def guess(table: Table) -> Guess:
    """Return how a table would be read.

    Parameters
    ----------
    table : rows of cells
    """
    first = find_first(table)
    where = table.where
    mark, seen = decimal_of(table, first)
    decimal: Mark = mark or "."
    why = list(table.notes)
    questions: dict[str, list[InputIssue]] = {}
    if decimal == ",":
        why.append("decimal commas")
    if mark is None:
        both = Evidence.POINT in seen and Evidence.COMMA in seen
        found = "numbers with decimal points and with decimal commas" if both else "commas that may part thousands or decimals"
        questions["decimal"] = [InputIssue(where, found, "one decimal mark; say it with --decimal . or --decimal ,")]
    header = _Header.of(table, first)
    if header is not None:
        columns, units = header.columns, header.units
        why.append("columns by their names: " + ", ".join(f"{role} is column {k + 1}" for role, k in columns.items()))
        questions |= header.questions(where)
        why += header.left_out()
    else:
        columns, units = _by_numbers(table, first, decimal), {}
        why.append("no header; columns by their numbers: " + ", ".join(f"{role} is column {k + 1}" for role, k in columns.items()))
    rate, scale = _from_comments(table)
    _units_of_words(table, first, columns, units, questions)
    up: Literal["y", "z"] = "y" if "y" in columns and "z" not in columns else "z"
    if up == "y":
        why.append("no z: y is taken to stand upright")
    pixels = any(units.get(role) == "px" for role in AXES)
    if pixels:
        why.append("pixels, growing downwards" + ("" if scale else "; they need a scale in metres a pixel"))
    unit_words = ", ".join(f"{role} in {unit}" for role, unit in units.items())
    why.append(f"units: {unit_words}" if units else "no units given: metres, seconds and radians are taken")
    if "time" not in columns and "frame" in columns:
        why.append(f"frame numbers at {rate:g} a second" if rate else "frame numbers; they need a rate")
    if "body" in columns:
        names = sorted({row[columns["body"]] for row in table.rows[first:] if len(row) > columns["body"]})
        why.append(f"several bodies: {', '.join(names[:8])}" if len(names) > 1 else f"one body: {names[0] if names else '-'}")
    how = ImportSettings(
        sheet=table.sheet, delimiter=table.delimiter, decimal=decimal, first=first, columns=columns, units=units, rate=rate,
        pixel_size=scale, y_down=pixels, up=up)
    named = {} if header is None else {c.k: c.unit for c in header.all if c.unit is not None}
    return Guess(how, why, questions, named)


@dataclass
class _Column:
    """One column under its header."""

    k: int
    title: str
    name: str
    unit: str | None
    numeric: bool
    rising: bool

    @property
    def symbol(self) -> str | None:
        return None if self.unit is None else find_unit(self.unit)

    @property
    def kind(self) -> Kind | None:
        return None if self.symbol is None else UNITS[self.symbol].kind


@dataclass
class _Header:
    """What the words above the numbers say."""

    all: list[_Column]
    columns: dict[Role, int]
    units: dict[Role, str]
    twice: list[tuple[Role, _Column, _Column]]
    odd_row: list[str]

    @classmethod
    def of(cls, table: Table, first: int) -> _Header | None:
        """The header above the first row of numbers; None where no row there names columns."""
        best: _Header | None = None
        for at in range(first - 1, max(-1, first - 4), -1):
            header = cls._read(table, first, at)
            if header is not None and (best is None or len(header.columns) > len(best.columns)):
                best = header
        return best

    @classmethod
    def _read(cls, table: Table, first: int, at: int) -> _Header | None:
        row = table.rows[at]
        width = int(np.median([len(r) for r in table.rows[first : first + 50]] or [0]))
        words = [cell for cell in row if cell.strip() and not is_number(cell)]
        if (len(words) < 2 and not (width == len(row) and words)) or any(is_number(cell) for cell in row if cell.strip()):
            return None
        below = table.rows[first - 1] if at < first - 1 else None
        known = below is not None and any(find_unit(cell) for cell in below)
        columns: dict[Role, int] = {}
        units: dict[Role, str] = {}
        every: list[_Column] = []
        twice: list[tuple[Role, _Column, _Column]] = []
        for k, title in enumerate(row):
            if not title.strip():
                continue
            name, unit = split_name(title)
            if below is not None and known and unit is None and k < len(below) and below[k].strip(" []()-"):
                unit = below[k].strip(" []()")
            every.append(_Column(k, title.strip(), name, unit, *_content(table, first, k)))
        for column in every:
            role = role_of(column.name)
            if role is None or (role not in ("body",) and not column.numeric):
                continue
            if role in columns:
                twice.append((role, next(c for c in every if c.k == columns[role]), column))
                continue
            columns[role] = column.k
        if "time" not in columns:  # a clock under a name that is not known, told by its unit
            clocks = [c for c in every if c.kind is Kind.TIME and role_of(c.name) is None and c.numeric]
            if len(clocks) == 1 and clocks[0].rising:
                columns["time"] = clocks[0].k
        by_place = {c.k: c for c in every}
        for role, k in columns.items():
            symbol = by_place[k].symbol
            if symbol is not None and KINDS.get(role) is UNITS[symbol].kind:
                units[role] = symbol
        odd = [cell for cell in below if cell.strip()] if below is not None and not known and len(below) >= len(row) else []
        return cls(every, columns, units, twice, odd)

    def _spare(self) -> list[_Column]:
        used = set(self.columns.values())
        return [c for c in self.all if c.k not in used]

    def _unclear(self) -> list[_Column]:
        """Columns of numbers that may be a position or the clock, for all their names say."""
        return [c for c in self._spare() if c.numeric and role_of(c.name) is None and not is_no_position(c.name)
                and not (c.unit is not None and c.kind is not Kind.LENGTH and (c.symbol is not None or "/" in c.unit))]

    def left_out(self) -> list[str]:
        """In words, the columns that are not used."""
        spare = [c.title for c in self._spare()]
        return [f"left out: {', '.join(spare[:12])}{' …' if len(spare) > 12 else ''}"] if spare else []

    def questions(self, where: str) -> dict[str, list[InputIssue]]:
        """What only a person can say of these columns."""
        issues: dict[str, list[InputIssue]] = {}
        by_place = {c.k: c for c in self.all}
        for role, k in self.columns.items():
            column, kind = by_place[k], KINDS.get(role)
            if kind is None or column.unit is None or column.kind is kind:
                continue
            issues[role] = [unknown_unit(where, k, column.unit, role)]
        columns = [
            InputIssue(f"{where}, column {b.k + 1} ({b.title})", f"a second column for {role}, beside {a.title!r}",
                    f"one of them; say which with --column {role}=NUMBER")
            for role, a, b in self.twice]
        unclear = self._unclear()
        if unclear and not set(AXES) <= set(self.columns):
            missing = [role for role in AXES if role not in self.columns]
            columns += [
                InputIssue(f"{where}, column {c.k + 1} ({c.title})", "numbers under a name that is not known",
                           f"which column is what; say it with --column {missing[0]}={c.k + 1}, or --planar if it is no position")
                for c in unclear]
        if "time" not in self.columns and "frame" not in self.columns:
            columns.append(InputIssue(where, "no column of times or frames",
                                      "one that rises from row to row; say which with --column time=NUMBER"))
        if self.odd_row and not self.units:
            columns.append(InputIssue(where, f"a row between names and numbers: {', '.join(self.odd_row[:4])}",
                                      "names, units or numbers; say the columns with --column and the units with --unit"))
        if columns:
            issues["columns"] = columns
        return issues


def _content(table: Table, first: int, k: int) -> tuple[bool, bool]:
    """Whether a column holds numbers, and whether they only rise."""
    cells = [row[k] for row in table.rows[first : first + 400] if k < len(row) and row[k].strip()]
    values = [v for v in (number(cell) if not np.isnan(number(cell)) else number(cell, ",") for cell in cells) if not np.isnan(v)]
    numeric = len(values) * 2 > len(cells) and bool(values)
    return numeric, numeric and len(values) > 2 and bool((np.diff(values) > 0).all())


_STATED_IN_WORDS = re.compile(
    r"\b(time|t|x|y|z|angle|length|position|distance|coordinate|place)s?\s*(?:are\s+)?(?:given\s+)?(?:in|:|=|units?:?)\s*"
    r"([^\W\d_]+|°|″)", re.IGNORECASE)


def _units_of_words(
    table: Table, first: int, columns: dict[Role, int], units: dict[Role, str], questions: dict[str, list[InputIssue]]
) -> None:
    """Units that a comment or a line above the numbers gives, for columns whose header gives none."""
    rows = [" ".join(row) for row in table.rows[:first]]
    lines = [*table.comments, *(line for line in rows if len(line) < 400)]
    spots: dict[str, tuple[Role, ...]] = {
        "length": AXES, "position": AXES, "distance": AXES, "coordinate": AXES, "place": AXES, "t": ("time",)}
    for line in lines:
        for name, unit in _STATED_IN_WORDS.findall(line):
            symbol = find_unit(unit)
            for role in spots.get(name.lower(), (name.lower(),)):
                if role in columns and role not in units and symbol is not None and KINDS.get(role) is UNITS[symbol].kind:
                    units[role] = symbol
                elif role in columns and role not in units and symbol is None and name.lower() in spots and name.lower() != "t":
                    questions.setdefault(role, []).append(InputIssue(
                        table.where, f"{name} in {unit!r}", f"a unit that is known; say it with --unit {role}=…"))
        for listed in re.findall(r"\bunits?\s*[:=]\s*([^;|]+)", line, re.IGNORECASE):
            for word in re.findall(r"[^\W\d_]+|°|″", listed):
                symbol = find_unit(word)
                if symbol is None and role_of(word.lower()) is not None:
                    continue
                if symbol is None:
                    for role in columns:
                        if role in KINDS and role not in units:
                            questions.setdefault(role, []).append(InputIssue(
                                table.where, f"the unit {word!r}", f"one that is known; say it with --unit {role}=…"))
                    continue
                for role in columns:
                    if role not in units and KINDS.get(role) is UNITS[symbol].kind:
                        units[role] = symbol


def _by_numbers(table: Table, first: int, decimal: Mark) -> dict[Role, int]:
    """The first column that only rises is time (or frames), those after it x, y, z, or x, z where there are two."""
    rows = table.rows[first : first + 500]
    width = min(len(row) for row in rows)
    numbers = np.array([[number(cell, decimal) for cell in row[:width]] for row in rows])
    for k in range(width):
        column = numbers[:, k]
        seen = column[np.isfinite(column)]
        if len(seen) > 2 and (np.diff(seen) > 0).all():
            steps = np.diff(seen)
            frames = bool((steps == 1).all() and seen[0] in (0.0, 1.0))
            rest = [j for j in range(width) if j != k and np.isfinite(numbers[:, j]).any()]
            names: tuple[Role, ...] = ("x", "y", "z", "angle") if len(rest) > 2 else (("x", "z") if len(rest) == 2 else ("z",))
            return {"frame" if frames else "time": k, **dict(zip(names, rest, strict=False))}
    return {}


def _from_comments(table: Table) -> tuple[float | None, float | None]:
    """A frame rate and a scale that a comment or a line above the numbers gives."""
    text = "\n".join(table.comments + [" ".join(row)[:400] for row in table.rows[:20]]).lower()
    rate = re.search(
        r"(?:fps|frame\s*rate|frames?\s*(?:per|/|a)\s*s(?:econd)?|hz)\D{0,4}([\d.]+)|([\d.]+)\s*(?:fps|hz|frames?\s*(?:per|/|a)\s*s)",
        text,
    )
    scale = re.search(r"(?:scale|m\s*/\s*px|metres?\s*(?:per|a)\s*pixel|m\s*per\s*px)\D{0,6}([\d.]+(?:e-?\d+)?)", text)
    value = next((g for g in rate.groups() if g), None) if rate else None
    return _between(value, 1e-3, 1e7), _between(scale[1] if scale else None, 1e-9, 1e6)


def _between(text: str | None, least: float, most: float) -> float | None:
    """A number within bounds, None where the text is none."""
    if text is None or not re.fullmatch(r"\d{0,9}\.?\d{1,12}(?:e-?\d{1,2})?\.?", text):
        return None
    value = float(text.rstrip("."))
    return value if least <= value <= most else None
