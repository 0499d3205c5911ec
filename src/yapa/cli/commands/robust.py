"""`yapa robust`: numbers for which targets hold in most of slightly varied starts."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from yapa.cli.arguments import json_option, load_named, outside_option, overwrite_option, threads_option, with_targets
from yapa.cli.completing import complete_path
from yapa.cli.numbers import assigned, free_option, set_option, with_free, with_set
from yapa.cli.progress import watched
from yapa.cli.streams import claim, save_to, say, write_json
from yapa.cli.tables import value_table


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--jitter", "jitters", shell_complete=complete_path, multiple=True, required=True, metavar="PATH=SIGMA",
              help="how a number varies from run to run, such as 'bodies.orange.velocity.x=2 cm/s'; repeatable")
@click.option("--target", "targets", multiple=True, help="a wanted outcome; repeatable")
@free_option
@threads_option
@json_option
@click.option("--save", "save_path", type=click.Path(path_type=Path), help="save the case with these numbers")
@set_option
@outside_option
@overwrite_option
def robust(case: Path, jitters: tuple[str, ...], targets: tuple[str, ...], freed: tuple[str, ...], threads: int | None,
           json_path: Path | None,
           save_path: Path | None, settings: tuple[str, ...], allow_outside: bool, overwrite: bool) -> None:
    """Find numbers for which the targets hold in most of slightly varied starts, judged on starts not seen before."""
    from yapa import api

    claim([case], json_path, save_path)
    loaded = with_free(with_targets(with_set(load_named(case, allow_outside), settings), targets), freed)
    with watched("searching") as watch:
        found = api.robust(loaded, assigned(jitters, "--jitter"), cancel=watch.cancel, threads=threads)
    if json_path:
        write_json(json_path, found.as_dict())
    if save_path:
        save_to(save_path, api.with_numbers(loaded, found.values), case, overwrite)
    value_table(found.values)
    say(found.words)
    sys.exit(watch.exit_code(found.stopped if found.verdict != "missed" or found.stopped == "cancelled" else "missed"))
