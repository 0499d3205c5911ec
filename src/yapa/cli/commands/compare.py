"""`yapa compare`: the error of the step."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import click

from yapa.cli.arguments import (
    json_option,
    limit_option,
    load_named,
    outside_option,
    seed_option,
    seeded,
    threads_option,
    with_profile,
)
from yapa.cli.numbers import set_option, with_set
from yapa.cli.progress import watched
from yapa.cli.streams import claim, say, write_json
from yapa.cli.tables import print_table, solution_table

if TYPE_CHECKING:
    from yapa.fitting.confidence.robustness import StepSensitivity


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--profile", metavar="NAME", help="the stepped profile, if not the case's own")
@click.option("--correct", is_flag=True, help="also find numbers with which the stepped profile gives what precise gives")
@seed_option
@threads_option
@limit_option
@set_option
@json_option
@outside_option
def compare(case: Path, profile: str | None, correct: bool, seed: int | None, threads: int | None, limit: int,
            settings: tuple[str, ...], json_path: Path | None, allow_outside: bool) -> None:
    """Outcomes of the same numbers in a stepped profile and in precise: the error of the step."""
    from yapa import api
    from yapa.api import Cancelled

    claim([case], json_path)
    loaded = with_set(seeded(with_profile(load_named(case, allow_outside), profile), seed), settings)
    found = None
    with watched("comparing") as watch:
        try:
            both = api.compare(loaded, watch.cancel)
            if correct:
                found = api.corrected(loaded, watch.progress, watch.cancel, threads=threads, limit=limit)
        except Cancelled:
            watch.leave_if_stopped()
            raise
    _stepping_table(both)
    if found is not None:
        say("numbers for the stepped profile that give what precise gives:")
        solution_table(found)
    if json_path:
        write_json(json_path, {"rows": [list(row) for row in both.rows], "moved": both.moved, "notes": list(both.notes),
                               "corrected": None if found is None else found.as_dict()})
    watch.leave_if_stopped()


def _stepping_table(both: StepSensitivity) -> None:
    rows = []
    for name, stepped, precise in both.rows:
        gap = "" if stepped is None or precise is None else f"{stepped - precise:+.3g}"
        rows.append([name, *("–" if v is None else f"{v:.5g}" for v in (stepped, precise)), gap])
    print_table([("outcome", False), ("stepped", True), ("precise", True), ("error of the step", True)], rows)
    for note in both.notes:
        say(note)
