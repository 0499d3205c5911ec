"""`yapa either`: the nearer of several ways to meet targets."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from yapa.cli.arguments import json_option, load_named, outside_option, overwrite_option, threads_option, with_targets
from yapa.cli.numbers import free_option, set_option, with_free, with_set
from yapa.cli.progress import watched
from yapa.cli.streams import claim, save_to, say, write_json
from yapa.cli.tables import solution_table


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--or", "branches", multiple=True, required=True, metavar="TARGET[; TARGET]",
              help="targets of one way, parted by semicolons; give it twice or more")
@click.option("--target", "targets", multiple=True, help="a wanted outcome that holds in every way; repeatable")
@free_option
@threads_option
@json_option
@click.option("--save", "save_path", type=click.Path(path_type=Path), help="save the case with the numbers that are kept")
@set_option
@outside_option
@overwrite_option
def either(case: Path, branches: tuple[str, ...], targets: tuple[str, ...], freed: tuple[str, ...], threads: int | None,
           json_path: Path | None,
           save_path: Path | None, settings: tuple[str, ...], allow_outside: bool, overwrite: bool) -> None:
    """Solve for one group of targets or another: each alone, both shown, the nearer kept."""
    from yapa import api

    claim([case], json_path, save_path)
    loaded = with_free(with_targets(with_set(load_named(case, allow_outside), settings), targets), freed)
    ways = [[text.strip() for text in branch.split(";") if text.strip()] for branch in branches]
    with watched("searching") as watch:
        found = api.either(loaded, ways, progress=watch.progress, cancel=watch.cancel, threads=threads)
    if json_path:
        write_json(json_path, found.as_dict())
    for name, branch in zip(found.names, found.branches, strict=True):
        say(f"— {name}")
        solution_table(branch)
    say(found.words)
    if save_path and found.solution is not None:
        save_to(save_path, api.with_numbers(loaded, found.solution.values), case, overwrite)
    watch.leave_if_stopped()
    sys.exit(watch.exit_code("converged" if found.kept is not None else "not converged"))
