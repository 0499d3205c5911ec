"""`yapa more`: how much more evidence narrows an interval."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from yapa.cli.arguments import json_option, limit_option, load_named, outside_option, threads_option
from yapa.cli.numbers import free_option, set_option, with_free, with_set
from yapa.cli.progress import watched
from yapa.cli.streams import claim, say, write_json
from yapa.cli.table_options import TrialOptions, table_options


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--count", type=click.IntRange(min=1), help="say what so many more takes or rows would give")
@table_options
@free_option
@threads_option
@limit_option
@json_option
@set_option
@outside_option
def more(case: Path, count: int | None, trials: TrialOptions, freed: tuple[str, ...], threads: int | None, limit: int,
         json_path: Path | None,
         settings: tuple[str, ...], allow_outside: bool) -> None:
    """Fit a case and say how many more takes or rows of the same kind would halve every interval."""
    from yapa import api

    claim([case], json_path)
    loaded = with_free(trials.added_to(with_set(load_named(case, allow_outside), settings)), freed)
    with watched() as watch:
        result = api.fit(loaded, watch.progress, watch.cancel, threads=threads, limit=limit)
    found = api.how_much_more(loaded, result)
    if json_path:
        write_json(json_path, [one.as_dict() for one in found])
    for one in found:
        say(one.words)
        if count is not None:
            say(f"  {count} more: ± {api.amount_text(one.half_width_after(count), one.unit, '.2g')}")
    if not found:
        say("no number is determined: more of the same does not help; see `yapa trust`")
    sys.exit(watch.exit_code(result.stopped))
