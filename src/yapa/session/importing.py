"""The import form, without a screen: which column is what, in which unit, whose track it is, and what of it is still open."""

from __future__ import annotations

import math
from collections.abc import Sequence
from copy import copy
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from yapa.case import Case, Track
from yapa.case.body_size import support
from yapa.case.importing import ImportSettings, Role
from yapa.errors import InputError, InputIssue, bad_input
from yapa.formats.tracks.any_file import as_file, read_any
from yapa.formats.tracks.column_names import split_name
from yapa.formats.tracks.columns import KINDS, Questions
from yapa.formats.tracks.importer import ImportOverrides, inspect_file, track_of
from yapa.formats.tracks.plain_csv import TrackFile
from yapa.formats.tracks.registry import file_patterns
from yapa.formats.tracks.table import Table
from yapa.formats.units import UNITS, Kind, find_unit, symbols
from yapa.motion import Array
from yapa.tracking.track_data import TrackData, track_data

__all__ = ["ROLES", "Brought", "Column", "ImportForm", "ImportOverrides", "Questions", "TrackData", "TrackFile", "read_any",
           "track_data", "track_files"]

def track_files() -> str:
    """Return the filter of a dialog that chooses a track."""
    from yapa.formats.tracks import readers as _readers  # noqa: F401  (registers the readers)

    return f"Tracks ({file_patterns()});;All files (*)"
"""What a file dialog offers as tracks."""
WIDE = 100.0
"""m: a track without a named unit that spans more is hardly in metres"""
PREVIEW_ROWS = 4000
"""of a table that are read for a preview"""
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


@dataclass(frozen=True)
class Brought:
    """One track of a file: the body it is of, its name in the file ("" where it names none), and what was read."""

    body: str
    name: str
    read: TrackFile


class ImportForm:
    """What is asked of a file of measurements.

    Parameters
    ----------
    path : the file
    questions : what only a person can say of it; None: nothing

    Attributes
    ----------
    columns : every column, with its role and unit
    decimal, rate, scale, y_down, up : how its numbers are read; None where that is not known
    whose : name of a body in the file ("" where it names none) → name of the body of the case; "" leaves it out
    time_offset, lift : added to its times [s] and heights [m]
    sigma, sigma_angle : noise of its places [m] and of its angle [rad]; None: read off it
    as_take : whether it is another take of what is there
    """

    def __init__(self, path: Path, questions: Questions) -> None:
        self._begin(path, questions.table, questions.how, questions.why, questions.problems)

    @classmethod
    def of_file(cls, path: Path) -> ImportForm:
        """Return the form of a file as it would be read, with what is open of it.

        Parameters
        ----------
        path : the file

        Raises
        ------
        InputError
            If it is no table.
        """
        table, found = inspect_file(path)
        form = cls.__new__(cls)
        try:
            how, why, problems = ImportOverrides().settle(table, found), list(found.why), []
        except Questions as questions:
            how, why, problems = questions.how, questions.why, questions.problems
        form._begin(path, table, how, why, problems)
        return form

    def _begin(self, path: Path, table: Table, how: ImportSettings, why: list[str], problems: list[InputIssue]) -> None:
        self.path, self.table = path, table
        self._named: dict[int, list[str]] = {}
        self._how, self._why = how, why
        self.open_questions = [issue_in_words(problem, path) for problem in problems]
        self.whose: dict[str, str] = {}
        self.time_offset, self.lift = 0.0, 0.0
        self.sigma: float | None = None
        self.sigma_angle: float | None = None
        self.as_take = False
        self.decimal: str | None = None if any("--decimal" in p.expected for p in problems) else how.decimal
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

    @property
    def in_pixels(self) -> bool:
        """Whether places are in pixels."""
        return any(c.unit == "px" and c.role in KINDS for c in self.columns)

    @property
    def has_clock(self) -> bool:
        """Whether a column tells times or frames, and another a place: then it is a track, else perhaps a table of trials."""
        roles = {c.role for c in self.columns}
        return bool(roles & {"time", "frame"}) and bool(roles & {"x", "y", "z", "angle"})

    def bodies(self) -> list[str]:
        """Return names of the bodies in the file; one empty name where it names none."""
        k = next((c.k for c in self.columns if c.role == "body"), None)
        if k is None:
            return [""]
        if k not in self._named:
            rows = self.table.rows[self._how.first :]
            self._named[k] = sorted({row[k].strip() for row in rows if len(row) > k and row[k].strip()})
        return self._named[k] or [""]

    def snapshot(self) -> ImportForm:
        """Return the form as it is now: what is said later does not reach it."""
        taken = copy(self)
        taken.columns = [replace(column) for column in self.columns]
        taken.whose = dict(self.whose)
        return taken

    def set_scale(self, a: tuple[float, float], b: tuple[float, float], metres: float) -> None:
        """Take two places of the picture to be so far apart.

        Parameters
        ----------
        a, b : places as they are shown now [m, or pixels while no scale is known]
        metres : how far apart they are [m]

        Raises
        ------
        InputError
            If they are the same place, or the distance is none.
        """
        apart = math.dist(a, b)
        if apart <= 0 or metres <= 0:
            raise bad_input("scale", f"{apart:g} between the two places, {metres:g} m", "two places apart, and how far in metres")
        self.scale = (self.scale or 1.0) * metres / apart

    def set_floor(self, height: float, floor: float) -> None:
        """Lift the track, so that what is shown at a height lies on the floor.

        Parameters
        ----------
        height : of the floor as it is shown now [m]
        floor : its height in the case [m]
        """
        self.lift += floor - height

    def preview(self) -> list[TrackData]:
        """Return the tracks as far as they can be read now; pixels without a scale count as metres.

        Raises
        ------
        InputError
            If nothing can be read yet.
        """
        scale, rate, self.scale, self.rate = self.scale, self.rate, self.scale or 1.0, self.rate or 1.0
        try:
            words = [w for w in self.open() if "whose" not in w]
            if words:
                raise InputError([], "; ".join(words))
            read = [(name, self._read(name, PREVIEW_ROWS)) for name in self.bodies()]
        finally:
            self.scale, self.rate = scale, rate
        every = [track_data(self._track(name or "preview", name or "preview", found)) for name, found in read]
        return [replace(data, t=data.t + self.time_offset, x=data.x + np.array([0.0, 0.0, self.lift])) for data in every]

    def _track(self, name: str, body: str, read: TrackFile) -> Track:
        return Track(name=name[:60], body=body, samples=read.samples, import_settings=read.how, sigma=self.sigma,
                     sigma_angle=self.sigma_angle, time_offset=self.time_offset, translation=(0.0, 0.0, self.lift))

    def tracks(self) -> list[Track]:
        """Return the tracks that are brought, as the form says them.

        Raises
        ------
        InputError
            If something is still open, or the numbers cannot be used.
        """
        return [self._track(f"{self.path.stem} {b.name}".strip(), b.body, b.read) for b in self.brought()]

    def brought(self) -> list[Brought]:
        """Return what is brought, of every body that is not left out.

        Raises
        ------
        InputError
            If something is still open, or the numbers cannot be used.
        """
        if words := self.open():
            raise InputError([], "; ".join(words))
        return [Brought(self.whose[name], name, self._read(name)) for name in self.bodies() if self.whose.get(name)]

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
        if self.whose and not any(self.whose.values()):
            out.append("choose whose track it is")
        return out

    def doubt(self, tracks: Sequence[TrackData]) -> str:
        """Return what makes one doubt how the numbers are read; nothing where nothing does.

        Parameters
        ----------
        tracks : as they are read now
        """
        named = any(split_name(c.title)[1] for c in self.columns if c.role in ("x", "y", "z"))
        spans = [float(np.nanmax(np.ptp(d.x[np.isfinite(d.x).all(axis=1)], axis=0), initial=0.0)) for d in tracks]
        if named or self.in_pixels or max(spans, default=0.0) < WIDE:
            return ""
        return f"the places span {max(spans):.4g} m: are they pixels or millimetres? Choose their unit"

    def overrides(self) -> ImportOverrides:
        """Return what the form says of the file."""
        columns: dict[Role, int] = {c.role: c.k for c in self.columns if c.role is not None}
        units: dict[Role, str] = {c.role: c.unit for c in self.columns if c.role in KINDS and c.role is not None and c.unit}
        fields = {"decimal": self.decimal or ".", "rate": self.rate, "pixel_size": self.scale, "y_down": self.y_down, "up": self.up}
        return ImportOverrides(columns, units, True, fields)

    def _read(self, body: str, most: int | None = None) -> TrackFile:
        first, rows = self._how.first, self.table.rows
        step = 1 if most is None else -(-len(rows) // most)
        table = self.table if step == 1 else replace(
            self.table, rows=[*rows[:first], *rows[first::step]], lines=[*self.table.lines[:first], *self.table.lines[first::step]])
        overrides = self.overrides()
        how = overrides.over(self._how.model_copy(update={"columns": {}, "units": {}, "body": body or None}))
        return as_file(self.path, track_of(table, how, list(self._why)), settled=False)


def issue_in_words(problem: InputIssue, path: Path) -> str:
    """Return what is not clear of a file, without the options of the command line.

    Parameters
    ----------
    problem : what was found, and where
    path : the file
    """
    where = problem.where.removeprefix(str(path)).strip(", ")
    return f"{where}: {problem.found}" if where else problem.found


def touching_height(case: Case, body: str) -> float:
    """Return how high the origin of a body is where it touches the first endless face of a case [m]; a level one at zero where
    there is none.

    Parameters
    ----------
    case : the case
    body : name of the body
    """
    floor = next((b.position[2] for b in case.bodies.values() if b.shapes[0].kind == "plane" and b.placed_under is None), 0.0)
    return float(floor + support(case.bodies[body], np.array([0.0, 0.0, -1.0])))


def dots_of(tracks: list[TrackData]) -> list[tuple[str, Array]]:
    """Return the places of tracks as they are seen from the front: name → along x (or time, where x is not measured) and height.

    Parameters
    ----------
    tracks : as read
    """
    out = []
    for data in tracks:
        across = data.x[:, 0] if data.shown[0] else data.t
        places = np.column_stack([across, data.x[:, 2]])
        out.append((data.name, places[np.isfinite(places).all(axis=1)]))
    return out
