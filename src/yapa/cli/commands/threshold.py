"""`yapa threshold`: the largest or smallest number for which targets hold."""

from __future__ import annotations

from pathlib import Path

import click

from yapa.cli.arguments import json_option, load_named, outside_option, threads_option
from yapa.cli.completing import complete_path
from yapa.cli.numbers import set_option, swept_range, with_set
from yapa.cli.progress import watched
from yapa.cli.streams import claim, say, write_json


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--number", shell_complete=complete_path, required=True, metavar="PATH[=LOW..HIGH]",
              help="the number, and where it is looked for; profile.step too")
@click.option("--target", "targets", multiple=True, help="what is to hold; by default the targets of the case; repeatable")
@click.option("--smallest", is_flag=True, help="the smallest instead of the largest")
@click.option("--points", type=click.IntRange(3, 4097), default=33, show_default=True, help="how many are looked at over the range")
@threads_option
@json_option
@set_option
@outside_option
def threshold(case: Path, number: str, targets: tuple[str, ...], smallest: bool, points: int, threads: int | None,
              json_path: Path | None,
              settings: tuple[str, ...], allow_outside: bool) -> None:
    """Find how large, or how small, a number may be for targets to hold. Exit code 3 if they hold nowhere that was looked."""
    from yapa import api
    from yapa.cli.exit_codes import NOT_CONVERGED

    claim([case], json_path)
    loaded = with_set(load_named(case, allow_outside), settings)
    path, low, high = swept_range(number)
    with watched("searching") as watch:
        found = api.threshold(loaded, path, list(targets) or None, low, high, largest=not smallest, points=points,
                              cancel=watch.cancel,
                              threads=threads)
    if json_path:
        write_json(json_path, found.as_dict())
    say(found.words)
    watch.leave_if_stopped()
    if found.value is None:
        raise SystemExit(NOT_CONVERGED)
