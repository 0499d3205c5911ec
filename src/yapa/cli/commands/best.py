"""`yapa best`: the numbers that make an outcome largest or smallest."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from yapa.cli.arguments import json_option, load_named, outside_option, overwrite_option, threads_option, with_targets
from yapa.cli.completing import complete_outcome
from yapa.cli.numbers import free_option, set_option, with_free, with_set
from yapa.cli.progress import watched
from yapa.cli.streams import claim, save_to, say, write_json
from yapa.cli.tables import value_table


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--outcome", shell_complete=complete_outcome, required=True, metavar="OUTCOME",
              help="what is to be largest, such as 'landing 1', or arithmetic of outcomes")
@click.option("--least", is_flag=True, help="smallest instead of largest")
@click.option("--target", "targets", multiple=True, help="a wanted outcome to be kept; repeatable")
@free_option
@threads_option
@json_option
@click.option("--save", "save_path", type=click.Path(path_type=Path), help="save the case with these numbers")
@set_option
@outside_option
@overwrite_option
def best(case: Path, outcome: str, least: bool, targets: tuple[str, ...], freed: tuple[str, ...], threads: int | None,
         json_path: Path | None,
         save_path: Path | None, settings: tuple[str, ...], allow_outside: bool, overwrite: bool) -> None:
    """Find the numbers that make an outcome largest or smallest within the ranges of the unknowns."""
    from yapa import api

    claim([case], json_path, save_path)
    loaded = with_free(with_targets(with_set(load_named(case, allow_outside), settings), targets), freed)
    with watched("searching") as watch:
        found = api.best(loaded, outcome, largest=not least, cancel=watch.cancel, threads=threads)
    if json_path:
        write_json(json_path, found.as_dict())
    if save_path:
        save_to(save_path, api.with_numbers(loaded, found.values), case, overwrite)
    value_table(found.values)
    say(found.words)
    for note in found.notes:
        say(note)
    sys.exit(watch.exit_code(found.stopped))
