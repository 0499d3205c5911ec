"""The import form, without a screen: which column is what, in which unit, and what of it is still open."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from yapa.case.importing import Role
from yapa.errors import InputError
from yapa.formats.tracks.any_file import as_file, read_any
from yapa.formats.tracks.column_names import split_name
from yapa.formats.tracks.columns import KINDS, Questions
from yapa.formats.tracks.importer import ImportOverrides, track_of
from yapa.formats.tracks.plain_csv import TrackFile
from yapa.formats.tracks.registry import file_patterns
from yapa.formats.units import UNITS, Kind, find_unit, symbols

__all__ = ["ROLES", "Column", "ImportForm", "ImportOverrides", "Questions", "TrackFile", "read_any", "track_files"]

def track_files() -> str:
    """Return the filter of a dialog that chooses a track."""
    from yapa.formats.tracks import readers as _readers  # noqa: F401  (registers the readers)

    return f"Tracks ({file_patterns()});;All files (*)"
"""What a file dialog offers as tracks."""
ROLES: tuple[Role, ...] = ("time", "frame", "x", "y", "z", "angle", "body")
BASE = {Kind.LENGTH: "m", Kind.TIME: "s", Kind.ANGLE: "rad"}


@dataclass
class Column:
    """A column of the file: its title, what stands in it, the role it is given and the unit of its numbers.

    ``unit`` is None where the file names one that is not known: it must be chosen.
    """

    k: int
    title: str
    examples: tuple[str, ...]
    role: Role | None
    unit: str | None

    def units(self) -> list[str]:
        """Return the units it may have in its role."""
        return symbols(KINDS[self.role]) if self.role in KINDS else []


class ImportForm:
    """What is asked of a file that says too little of itself."""

    def __init__(self, path: Path, questions: Questions) -> None:
        self.path, self.table = path, questions.table
        self._how, self._why = questions.how, questions.why
        self.open_questions = [str(problem) for problem in questions.problems]
        how = self._how
        self.decimal: str | None = None if any("--decimal" in p.expected for p in questions.problems) else how.decimal
        self.rate, self.scale, self.y_down, self.up = how.rate, how.pixel_size, how.y_down, how.up
        rows = self.table.rows[how.first :]
        titles = self.table.rows[how.first - 1] if how.first else []
        width = max((len(row) for row in rows[:200]), default=0)
        roles = {k: role for role, k in how.columns.items() if role in ROLES}
        self.columns: list[Column] = []
        for k in range(width):
            title = titles[k] if k < len(titles) else ""
            role = roles.get(k)
            examples = tuple(row[k] for row in rows[:3] if k < len(row))
            self.columns.append(Column(k, title, examples, role, self._unit_of(title, role)))

    def _unit_of(self, title: str, role: Role | None) -> str | None:
        """The unit that the file gives, the base unit where it gives none, None where it is not known."""
        if role not in KINDS:
            return None
        if role in self._how.units:
            return self._how.units[role]
        named = split_name(title)[1]
        return BASE[KINDS[role]] if named is None else None

    def give(self, k: int, role: Role | None) -> None:
        """Give a column a role; who had it before has none.

        Parameters
        ----------
        k : number of the column
        role : role of the column
        """
        for column in self.columns:
            if column.role == role and column.k != k:
                column.role = None
        column = self.columns[k]
        column.role = role
        if role in KINDS:
            named = split_name(column.title)[1]
            symbol = None if named is None else find_unit(named)
            known = symbol is not None and UNITS[symbol].kind is KINDS[role]
            column.unit = symbol if known else BASE[KINDS[role]] if named is None else None

    def open(self) -> list[str]:
        """Return what is still to be said, in words."""
        roles = {c.role for c in self.columns}
        out = [f"choose the unit of {c.title or f'column {c.k + 1}'}" for c in self.columns if c.role in KINDS and c.unit is None]
        if not roles & {"time", "frame"}:
            out.append("choose the column of times or frame numbers")
        if not roles & {"x", "y", "z", "angle"}:
            out.append("choose the columns of places")
        if "time" not in roles and "frame" in roles and self.rate is None:
            out.append("give the frames a second")
        if any(c.unit == "px" and c.role in KINDS for c in self.columns) and self.scale is None:
            out.append("give the metres a pixel")
        if self.decimal is None:
            out.append("choose the decimal mark")
        return out

    def overrides(self) -> ImportOverrides:
        """Return what the form says of the file."""
        columns: dict[Role, int] = {c.role: c.k for c in self.columns if c.role is not None}
        units: dict[Role, str] = {c.role: c.unit for c in self.columns if c.role in KINDS and c.role is not None and c.unit}
        fields = {"decimal": self.decimal or ".", "rate": self.rate, "pixel_size": self.scale, "y_down": self.y_down, "up": self.up}
        return ImportOverrides(columns, units, True, fields)

    def read(self) -> TrackFile:
        """Return the track as the form says it.

        Raises
        ------
        InputError
            If something is still open, or the numbers cannot be used.
        """
        if words := self.open():
            raise InputError([], "; ".join(words))
        overrides = self.overrides()
        how = overrides.over(self._how.model_copy(update={"columns": {}, "units": {}}))
        return as_file(self.path, track_of(self.table, how, list(self._why)), settled=False)
