"""`yapa inspect`: how a file of measurements would be read."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from yapa.cli.arguments import (
    reading_options,
)
from yapa.cli.streams import claim, say, source_of, write_json, write_out
from yapa.cli.tables import cell_of, print_table


@click.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--csv", "csv_path", type=click.Path(path_type=Path), help="write the track as t,x,y,z,angle here")
@click.option("--json", "json_path", type=click.Path(path_type=Path), help="write how it is read here, as it stands in a case")
@reading_options
def inspect(file: Path, csv_path: Path | None, json_path: Path | None, overrides: Any) -> None:
    """Say what a file of measurements holds and how it would be read."""
    from yapa.api import ImportOverrides, inspect_file, samples_csv, track_of

    claim([file], csv_path, json_path)
    overrides = overrides or ImportOverrides()
    table, found = inspect_file(source_of(file), overrides)
    say(f"{file}: {len(table.rows) - found.how.first} rows of numbers, {max(len(r) for r in table.rows)} columns")
    for reason in found.why:
        say(f"  {reason}")
    how = overrides.settle(table, found)
    done = track_of(table, how, [])
    for reason in done.why:
        say(f"  {reason}")
    t = done.samples.t
    say(f"  {len(t)} samples from {t[0]:g} to {t[-1]:g} s")
    rows = []
    for k in (0, 1, 2, len(t) - 1):
        rows.append([f"{t[k]:.6g}", *(cell_of(done.samples, name, k) for name in ("x", "y", "z", "angle"))])
    print_table([("t [s]", True), ("x [m]", True), ("y [m]", True), ("z [m]", True), ("angle [rad]", True)], rows)
    if csv_path:
        write_out(csv_path, samples_csv(done.samples))
    if json_path:
        write_json(json_path, how.model_dump(mode="json"))
