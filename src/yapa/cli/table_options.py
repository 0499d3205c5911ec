"""Options of a table of trials and of curves, shared by the commands that fit."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import wraps
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from yapa.cli.streams import notice

if TYPE_CHECKING:
    from yapa.case import Case


@dataclass(frozen=True)
class TrialOptions:
    """What a command says of a table of trials."""

    file: Path | None
    columns: tuple[str, ...]
    measured: tuple[str, ...]
    constants: tuple[str, ...]
    free_per: tuple[str, ...]
    logged: tuple[str, ...] = ()

    def added_to(self, case: Case) -> Case:
        """Return the case with the table, where there is one.

        Parameters
        ----------
        case : the case

        Raises
        ------
        UsageError
            If options do not go together.
        """
        from yapa.api import curve_in_words, table_in_words

        for text in self.logged:
            case = curve_in_words(case, text)
        if self.file is None:
            if self.columns or self.measured or self.constants or self.free_per:
                raise click.UsageError("--column, --measured, --constant and --free-per go with --table FILE")
            return case
        if not self.measured:
            raise click.UsageError("--table needs --measured 'OUTCOME=COLUMN UNIT', such as 'landing x 1=distance mm'")
        whole: Case
        whole, notices = table_in_words(case, self.file, self.columns, self.measured, self.constants, self.free_per)
        for text in notices:
            notice(text)
        return whole


def table_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """Return a command with the options of a table of trials; it gets them as one ``trials``.

    Parameters
    ----------
    command : the command
    """
    @wraps(command)
    def with_options(table: Path | None, columns: tuple[str, ...], measured: tuple[str, ...], constants: tuple[str, ...],
                     free_per: tuple[str, ...], logged: tuple[str, ...], **rest: Any) -> Any:
        return command(trials=TrialOptions(table, columns, measured, constants, free_per, logged), **rest)

    made: Callable[..., Any] = with_options
    for option in reversed((
        click.option("--table", type=click.Path(path_type=Path), help="a table of trials, one row a trial, with names of columns"),
        click.option("--column", "columns", multiple=True, metavar="PATH=ARITHMETIC",
                     help="what the rows set, such as 'bodies.ball.position.z=height cm'; repeatable"),
        click.option("--measured", multiple=True, metavar="OUTCOME=ARITHMETIC",
                     help="what was measured, such as 'landing x 1=distance mm ± 2 mm'; repeatable"),
        click.option("--constant", "constants", multiple=True, metavar="NAME=LOW..HIGH UNIT",
                     help="a free constant for arithmetic, such as 'reaction_time=0..3 s'; repeatable"),
        click.option("--logged", multiple=True, metavar="BODY QUANTITY=FILE: TIME, VALUE",
                     help="what was logged against time, such as 'orange speed=log.csv: t ms, v km/h'; repeatable"),
        click.option("--free-per", multiple=True, metavar="COLUMN: PATHS",
                     help="unknowns that every value of a column has for itself (row: every row); repeatable"))):
        made = option(made)
    return made
