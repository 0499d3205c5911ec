"""`yapa calibrate`: from a track to numbers."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

import click

from yapa.cli.arguments import (
    box_edges,
    fixed_value,
    floor_height,
    json_option,
    limit_option,
    overwrite_option,
    reading_options,
    sigmas,
    threads_option,
)
from yapa.cli.progress import watched
from yapa.cli.streams import claim, save_to, say, source_of, write_json
from yapa.cli.tables import result_table


@click.command()
@click.argument("track", type=click.Path(path_type=Path))
@click.option("--sphere", type=float, metavar="RADIUS")
@click.option("--box", metavar="LXxLYxLZ")
@click.option("--mass", type=float, metavar="M")
@click.option("--floor", type=float, default=None, metavar="Z", help="height of the support (default 0)")
@click.option("--slope", type=float, default=None, metavar="DEG", help="instead: a plane rising along +x under the start")
@click.option("--unknown", "unknowns", multiple=True, metavar="NAME[=LO..HI]", help="a number to find; repeatable")
@click.option("--fixed", multiple=True, metavar="NAME=VALUE", help="a number that is known; repeatable")
@click.option("--sigma", metavar="S[,S_ANGLE]", help="noise of the track; estimated if left out")
@click.option("--start-at", type=float, metavar="T", help="when the launch is, on the track's clock [s] (default: its first row)")
@threads_option
@limit_option
@json_option
@click.option("--save", "save_path", type=click.Path(path_type=Path), help="save a case to open in the window")
@overwrite_option
@reading_options
def calibrate(track: Path, sphere: float | None, box: str | None, mass: float | None, floor: float | None,
              slope: float | None, unknowns: tuple[str, ...], fixed: tuple[str, ...], sigma: str | None, start_at: float | None,
              threads: int | None, limit: int, json_path: Path | None, save_path: Path | None, overwrite: bool,
              overrides: Any) -> None:
    """From a track in any table file to numbers with their uncertainty."""
    from yapa import api
    from yapa.api import Setup, parse_unknown

    claim([track], json_path, save_path)
    s, sa = sigmas(sigma)
    setup = Setup(radius=sphere, size=box_edges(box), mass=mass, floor=floor_height(floor, slope), slope=slope,
                  unknown=dict(parse_unknown(u) for u in unknowns), fixed=dict(fixed_value(f) for f in fixed), sigma=s,
                  sigma_angle=sa, start_at=start_at)
    file = source_of(track)
    with watched() as watch:
        done = api.calibrate(file, setup, watch.progress, watch.cancel, overrides, threads=threads, limit=limit)
    if json_path:
        write_json(json_path, done.as_dict())
    if save_path:
        save_to(save_path, done.case, None, overwrite)
    result_table(done.estimates, done.result)
    assumed = ", ".join(f"{k} {v:.6g}" if isinstance(v, float) else f"{k} {v}" for k, v in done.assumed.items())
    say(f"assumed: {assumed}")
    sys.exit(watch.exit_code(done.result.stopped))
