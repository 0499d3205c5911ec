"""`yapa fit`: a case to its tracks and targets."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from yapa.cli.arguments import (
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
from yapa.cli.numbers import free_option, set_option, with_free, with_set
from yapa.cli.progress import watched
from yapa.cli.streams import claim, save_to, write_json
from yapa.cli.table_options import TrialOptions, table_options
from yapa.cli.tables import result_table


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--target", "targets", multiple=True, help="a wanted outcome, such as 'apex 2 = 0.42 ± 0.01'; repeatable")
@table_options
@seed_option
@free_option
@threads_option
@limit_option
@json_option
@click.option("--save", "save_path", type=click.Path(path_type=Path), help="save the case with the fitted values")
@set_option
@outside_option
@overwrite_option
def fit(case: Path, targets: tuple[str, ...], trials: TrialOptions, seed: int | None, freed: tuple[str, ...], threads: int | None,
        limit: int,
        json_path: Path | None, save_path: Path | None, settings: tuple[str, ...], allow_outside: bool, overwrite: bool) -> None:
    """Fit a case to its tracks, targets and table of trials. Stopped, it writes the best so far."""
    from yapa import api

    claim([case], json_path, save_path)
    loaded = with_free(seeded(trials.added_to(with_targets(with_set(load_named(case, allow_outside), settings), targets)), seed),
                       freed)
    with watched() as watch:
        result = api.fit(loaded, watch.progress, watch.cancel, threads=threads, limit=limit)
    if json_path:
        write_json(json_path, result.as_dict())
    if save_path:
        save_to(save_path, api.with_result(loaded, result), case, overwrite)
    own = {f"{take}: {path}": e for take, estimates in result.own.items() for path, e in estimates.items()}
    result_table({**result.estimates, **own}, result)
    sys.exit(watch.exit_code(result.stopped))
