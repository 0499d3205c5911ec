"""The form of a table of trials, without a screen: which column sets which number, which was measured, in which unit."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from yapa.case import Case, has_number, label_of, numbers, quantity_of
from yapa.case.expressions import parse_expression
from yapa.case.outcome_specs import spec_of
from yapa.case.trial_table import Measured, TrialTable
from yapa.case.validation import in_words
from yapa.errors import YapaError, bad_input
from yapa.fitting.tables.trial_rows import columns_of_table
from yapa.formats.trials import TrialFile, read_trials
from yapa.outcomes import CATALOGUE
from yapa.session.edits import Edit

NOT_USED, SETS, MEASURED = "not used", "sets", "was measured"
USES = (NOT_USED, SETS, MEASURED)
INDEXED_TO = 3
"""numbered outcomes that are offered: the first so many"""
USUAL_SETTINGS = (("position.z", ("height", "drop", "fall", "start")), ("velocity.x", ("speed", "launch", "push")),
                  ("tilt", ("slope", "tilt", "angle")), ("mass", ("mass", "weight")))
"""part of a body → words of a column that may set it"""
USUAL_OUTCOMES = (("apex 1", ("rebound", "bounce", "apex", "rise")), ("travel", ("travel", "range", "distance")),
                  ("rest time", ("rest", "stop")), ("slide distance", ("slide",)))
"""outcome → words of a column that may have measured it"""


@dataclass
class TableColumn:
    """One column: what it is used for, of which number or outcome, and by which arithmetic of columns."""

    name: str
    unit: str
    examples: tuple[str, ...]
    use: str = NOT_USED
    what: str = ""
    arithmetic: str = ""


@dataclass
class TableForm:
    """A table of trials beside a case.

    Attributes
    ----------
    path : the file
    read : what it holds
    case : whose trials they are
    columns : every column with its use
    """

    path: Path
    read: TrialFile
    case: Case
    columns: list[TableColumn] = field(default_factory=list)

    @classmethod
    def of_file(cls, path: Path, case: Case) -> TableForm:
        """Return the form of a file, with what its names suggest.

        Parameters
        ----------
        path : the file
        case : whose trials they are

        Raises
        ------
        InputError
            If it is no table with names of columns.
        """
        form = cls(path, read_trials(path), case)
        for name, cells in form.read.columns.items():
            examples = tuple(str(c) for c in cells[:2])
            form.columns.append(TableColumn(name, form.read.units.get(name, ""), examples, arithmetic=_quoted(name)))
        form._suggest()
        return form

    def settings(self) -> list[str]:
        """Return the paths of the numbers that a column can set: those that are not to be found."""
        free = {u.path for u in self.case.unknowns if not u.fixed}
        return [path for path in numbers(self.case) if path not in free]

    def outcomes(self) -> list[str]:
        """Return the outcomes that a column can have measured."""
        out = []
        for name, kind in CATALOGUE.items():
            out += [f"{name} {k}" for k in range(1, INDEXED_TO + 1)] if kind.indexed else [name] if not kind.spec.required else []
        return out

    def _suggest(self) -> None:
        """What the names of columns say of them."""
        body = next(iter(self.case.dynamic_bodies()), None)
        for column in self.columns:
            name = column.name.lower()
            told = next((outcome for outcome, words in USUAL_OUTCOMES if any(word in name for word in words)), None)
            part = next((part for part, words in USUAL_SETTINGS if any(word in name for word in words)), None)
            path = f"bodies.{body}.{part}"
            if told is not None:
                column.use, column.what = MEASURED, told
            elif part is not None and has_number(self.case, path) and path in self.settings():
                column.use, column.what = SETS, path

    def open(self) -> list[str]:
        """Return what is still to be said, in words."""
        out = []
        if not any(c.use == MEASURED for c in self.columns):
            out.append("choose the column that was measured, and what it measured")
        for column in self.columns:
            if column.use != NOT_USED and not column.what:
                out.append(f"choose what {column.name} {column.use if column.use == SETS else 'measured'}")
        return out

    def _used(self, use: str) -> Iterator[TableColumn]:
        yield from (c for c in self.columns if c.use == use)

    def table(self) -> TrialTable:
        """Return the table, as the form says it.

        Raises
        ------
        InputError
            If something is open, or cannot be used.
        """
        if words := self.open():
            raise bad_input(self.path.name, "a form that is not filled", "; ".join(words))
        twice = [c.what for c in self._used(SETS)]
        if len(set(twice)) < len(twice):
            raise bad_input(self.path.name, f"two columns that set {label_of(max(twice, key=twice.count))}", "one for each number")
        with in_words(self.path.name):
            return TrialTable(
                columns=self.read.columns, units={c.name: c.unit for c in self.columns if c.unit},
                settings={c.what: c.arithmetic for c in self._used(SETS)},
                measured=tuple(Measured(outcome=c.what, value=c.arithmetic) for c in self._used(MEASURED)))

    def edit(self) -> Edit:
        """Return the edit that brings the table in; a number that a row sets is locked.

        Raises
        ------
        InputError
            If something is open, or cannot be used.
        """
        table = self.table()

        def change(case: Case) -> Case:
            unknowns = tuple(u for u in case.unknowns if u.path not in table.settings)
            return case.model_copy(update={"table": table, "unknowns": unknowns})

        return Edit(f"bring {self.path.stem}", change)

    def dots(self) -> tuple[str, str, list[tuple[float, float]]]:
        """Return the first measured column against the first setting [SI]: what both are, and the points; none where it cannot be.

        The number of the row stands in for a setting where there is none.
        """
        measured, setting = next(self._used(MEASURED), None), next(self._used(SETS), None)
        try:
            columns = columns_of_table(self.case.model_copy(update={"table": self.table()}))
            y = np.zeros(0)
            if measured is not None:
                y = columns.values(parse_expression(measured.arithmetic), spec_of(measured.what).unit, measured.name)
            x = np.arange(1.0, len(y) + 1)
            if setting is not None:
                x = columns.values(parse_expression(setting.arithmetic), quantity_of(setting.what).unit, setting.name)
        except (YapaError, KeyError):
            return "", "", []
        points = [(float(a), float(b)) for a, b in zip(x, y, strict=True) if np.isfinite(a) and np.isfinite(b)]
        return (label_of(setting.what) if setting is not None else "row"), measured.what if measured is not None else "", points


def _quoted(name: str) -> str:
    """A column's name as it stands in arithmetic."""
    return name if name.isidentifier() else f'"{name}"'


def remove_table() -> Edit:
    """Return the case without its table of trials."""
    return Edit("remove the table", lambda case: case.model_copy(update={"table": None, "takes": tuple(
        t for t in (take.model_copy(update={"rows": ()}) for take in case.takes) if t.tracks or t.targets)}))


def table_words(table: TrialTable) -> str:
    """Return in one line what a table holds: ``18 rows · apex 1 by height``.

    Parameters
    ----------
    table : of trials
    """
    told = ", ".join(m.outcome for m in table.measured)
    by = ", ".join(label_of(path).partition(" · ")[0] for path in table.settings)
    return f"{table.rows} rows · {told}" + (f" by {by}" if by else "")
