"""`yapa trust`: how far a fit holds."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING

import click

from yapa.cli.arguments import (
    json_option,
    limit_option,
    load_named,
    outside_option,
    seed_option,
    threads_option,
)
from yapa.cli.numbers import set_option, with_set
from yapa.cli.progress import watched
from yapa.cli.streams import claim, say, write_json
from yapa.cli.table_options import TrialOptions, table_options
from yapa.cli.tables import print_table, result_table, short

if TYPE_CHECKING:
    pass


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--curve", "curves", multiple=True, metavar="PATH", help="an unknown whose profile curve is wanted; repeatable")
@click.option("--count", type=click.IntRange(1, 100_000), default=60, show_default=True, help="slightly varied starts")
@table_options
@seed_option
@threads_option
@limit_option
@json_option
@set_option
@outside_option
def trust(case: Path, curves: tuple[str, ...], count: int, trials: TrialOptions, seed: int | None, threads: int | None, limit: int,
          json_path: Path | None, settings: tuple[str, ...], allow_outside: bool) -> None:
    """Fit a case and say how far the result holds: what is known only together, what would tell more, at half the step,
    under slightly varied starts, on a take that was left out."""
    from yapa import api

    claim([case], json_path)
    loaded = trials.added_to(with_set(load_named(case, allow_outside), settings))
    with watched() as watch:
        checked = api.trust(loaded, watch.progress, watch.cancel, curves=curves, count=count, seed=seed,
                            threads=threads, limit=limit)
    if json_path:
        write_json(json_path, checked.as_dict(bool(loaded.targets)))
    result_table(checked.result.estimates, checked.result)
    for line in checked.sentences(bool(loaded.targets))[len(checked.result.estimates) :]:
        say(f"· {line}")
    for curve in checked.curves:
        print_table([(short(curve.path), True), ("rise", True), *((short(p), True) for p in curve.others)],
                    [[f"{v:.5g}", f"{rise:.3g}", *(f"{curve.others[p][k]:.5g}" for p in curve.others)]
                     for k, (v, rise) in enumerate(zip(curve.values, curve.rise, strict=True))])
    if checked.stopped != "complete":
        sys.exit(watch.exit_code(checked.stopped))
