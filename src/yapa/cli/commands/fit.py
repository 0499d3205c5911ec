"""`yapa fit`: a case to its tracks and targets."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from yapa.cli.places import claim, save_to, write_json
from yapa.cli.tables import result_table
from yapa.cli.waiting import watched
from yapa.cli.words import (
    json_option,
    limit_option,
    load_named,
    outside_option,
    overwrite_option,
    seed_option,
    seeded,
    threads_option,
    with_targets,
)


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--target", "targets", multiple=True, help="a wanted outcome, such as 'apex 2 = 0.42 ± 0.01'; repeatable")
@seed_option
@threads_option
@limit_option
@json_option
@click.option("--save", "save_path", type=click.Path(path_type=Path), help="save the case with the fitted values")
@outside_option
@overwrite_option
def fit(case: Path, targets: tuple[str, ...], seed: int | None, threads: int | None, limit: int, json_path: Path | None,
        save_path: Path | None, allow_outside: bool, overwrite: bool) -> None:
    """Fit a case to its tracks and targets. Stopped, it writes the best so far."""
    from yapa import api

    claim([case], json_path, save_path)
    loaded = seeded(with_targets(load_named(case, allow_outside), targets), seed)
    with watched() as watch:
        result = api.fit(loaded, watch.progress, watch.cancel, threads=threads, limit=limit)
    if json_path:
        write_json(json_path, result.as_dict())
    if save_path:
        save_to(save_path, api.with_result(loaded, result), case, overwrite)
    own = {f"{take}: {path}": e for take, told in result.own.items() for path, e in told.items()}
    result_table({**result.estimates, **own}, result)
    sys.exit(watch.exit_code(result.stopped))
