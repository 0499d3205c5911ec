"""`yapa pairs`: what acts where two surfaces meet, and where each number comes from."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path

import click

from yapa.cli.arguments import json_option, load_named, outside_option
from yapa.cli.numbers import set_option, with_set
from yapa.cli.streams import claim, write_json
from yapa.cli.tables import print_table


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@set_option
@json_option
@outside_option
def pairs(case: Path, settings: tuple[str, ...], json_path: Path | None, allow_outside: bool) -> None:
    """Print the effective values of every pair of surfaces that can meet, and where they come from."""
    from yapa import api

    claim([case], json_path)
    found = api.effective_values(with_set(load_named(case, allow_outside), settings))
    if json_path:
        write_json(json_path, [asdict(one) for one in found])
    rows = [[" on ".join(one.surfaces), one.quantity.replace("_", " "), f"{one.value:.6g}", one.source] for one in found]
    print_table([("surfaces", False), ("number", False), ("value", True), ("from", False)], rows)
