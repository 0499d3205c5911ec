"""`yapa solve`: values that meet wanted outcomes."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING

import click

from yapa.cli.arguments import (
    limit_option,
    load_named,
    outside_option,
    overwrite_option,
    seed_option,
    seeded,
    threads_option,
    with_profile,
    with_targets,
)
from yapa.cli.numbers import free_option, set_option, with_free, with_set
from yapa.cli.progress import watched
from yapa.cli.streams import claim, save_to, write_json
from yapa.cli.tables import solution_table

if TYPE_CHECKING:
    pass


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--target", "targets", multiple=True, help="a wanted outcome, such as 'apex 2 = 0.42 ± 0.01'; repeatable")
@click.option("--profile", metavar="NAME", help="instead of the case's: precise, or one that `yapa profiles` lists")
@click.option("--most", type=click.IntRange(1, 1000), default=6, show_default=True, help="how many solutions to list")
@seed_option
@free_option
@threads_option
@limit_option
@click.option("--json", "json_path", type=click.Path(path_type=Path), help="write the solutions here")
@click.option("--save", "save_path", type=click.Path(path_type=Path), help="save the case with the values of one of them")
@click.option("--pick", "--take", "pick", default=1, show_default=True, help="which one to save, from 1")
@set_option
@outside_option
@overwrite_option
def solve(case: Path, targets: tuple[str, ...], profile: str | None, most: int, seed: int | None, freed: tuple[str, ...],
          threads: int | None, limit: int,
          json_path: Path | None, save_path: Path | None, pick: int, settings: tuple[str, ...], allow_outside: bool,
          overwrite: bool) -> None:
    """Find values that meet the wanted outcomes: the smallest change first, then others that are different."""
    from yapa import api
    from yapa.errors import bad_input

    claim([case], json_path, save_path)
    loaded = with_free(seeded(with_profile(with_targets(with_set(load_named(case, allow_outside), settings), targets), profile),
                              seed), freed)
    with watched("searching") as watch:
        found = api.solve(loaded, watch.progress, watch.cancel, most=most, threads=threads, limit=limit)
    if json_path:
        write_json(json_path, found.as_dict())
    solution_table(found)
    if save_path:
        if not 1 <= pick <= len(found.found):
            there = f"from 1 to {len(found.found)}" if found.found else "a search that finds something"
            raise bad_input("--pick", str(pick), there)
        save_to(save_path, api.with_numbers(loaded, found.found[pick - 1].values), case, overwrite)
    sys.exit(watch.exit_code(found.stopped))
