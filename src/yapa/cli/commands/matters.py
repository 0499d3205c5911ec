"""`yapa matters`: which numbers matter for an outcome."""

from __future__ import annotations

from pathlib import Path

import click

from yapa.cli.arguments import json_option, load_named, outside_option, threads_option
from yapa.cli.completing import complete_outcome, complete_path
from yapa.cli.numbers import set_option, with_set
from yapa.cli.progress import watched
from yapa.cli.streams import claim, say, write_json


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--outcome",
              shell_complete=complete_outcome, required=True, metavar="OUTCOME",
              help="such as 'orange travel', or arithmetic of outcomes")
@click.option("--number", "numbers",
              shell_complete=complete_path, multiple=True, metavar="PATH",
              help="one of the numbers; by default the unknowns; repeatable")
@click.option("--samples", type=click.IntRange(16, 16384), default=256, show_default=True,
              help="of the ranking over the ranges; a power of 2")
@threads_option
@json_option
@set_option
@outside_option
def matters(case: Path, outcome: str, numbers: tuple[str, ...], samples: int, threads: int | None, json_path: Path | None,
            settings: tuple[str, ...], allow_outside: bool) -> None:
    """Rank numbers by how they matter for an outcome: over their ranges, and near where they stand."""
    from yapa import api

    claim([case], json_path)
    loaded = with_set(load_named(case, allow_outside), settings)
    with watched("ranking") as watch:
        found = api.what_matters(loaded, outcome, list(numbers) or None, samples=samples, cancel=watch.cancel, threads=threads)
    if json_path:
        write_json(json_path, found.as_dict())
    for line in found.bars():
        say(line)
    say(found.words)
    watch.leave_if_stopped()
