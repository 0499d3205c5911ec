"""`yapa measure`: outcomes of a run, of tracks, of a trial."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from yapa.cli.arguments import (
    at_trial,
    box_edges,
    floor_height,
    json_option,
    load_named,
    outside_option,
    radius_from,
    reading_options,
    sigmas,
)
from yapa.cli.numbers import set_option, with_set
from yapa.cli.progress import watched
from yapa.cli.streams import claim, notice, say, source_of, write_json
from yapa.cli.tables import book_tables, contact_table, motion_dict, outcome_tables, say_remarks, target_dicts, target_lines
from yapa.errors import bad_input


@click.command()
@click.argument("source", type=click.Path(path_type=Path))
@click.option("--sphere", type=float, metavar="RADIUS", help="the track is of a sphere")
@click.option("--box", metavar="LXxLYxLZ", help="the track is of a box")
@click.option("--floor", type=float, default=None, metavar="Z", help="height of the support (default 0)")
@click.option("--slope", type=float, default=None, metavar="DEG", help="instead: a plane rising along +x")
@click.option("--sigma", metavar="S[,S_ANGLE]", help="noise of the track; estimated if left out")
@click.option("--trial", help="instead of the case's values: those of this trial")
@click.option("--all", "every", is_flag=True, help="every outcome, not only a first look")
@click.option("--balance", "--book", "balance", is_flag=True, help="energy and momentum of every contact, and between contacts")
@set_option
@json_option
@outside_option
@reading_options
def measure(source: Path, sphere: float | None, box: str | None, floor: float | None, slope: float | None,
            sigma: str | None, trial: str | None, every: bool, balance: bool, settings: tuple[str, ...],
            json_path: Path | None, allow_outside: bool, overrides: Any) -> None:
    """Measure the outcomes of a case's simulation and tracks, of one of its trials, or of a track in any table file.

    Where a closed form exists for what a simulation does, its number stands beside the outcome.
    """
    from yapa import api

    claim([source], json_path)
    tables: dict[str, Any] = {}
    theory: dict[str, Any] = {}
    case = None
    with watched("measuring") as watch:
        if source.suffix.lower() == ".yapa":
            case = with_set(at_trial(load_named(source, allow_outside), trial), settings)
            tables["simulated"] = api.simulate(case, cancel=watch.cancel.flag)
            watch.leave_if_stopped()
            theory["simulated"] = api.predict(case, tables["simulated"])
            tables |= {f"track {name}": m for name, m in api.measured_motions(case).items()}
        else:
            from yapa.api import Setup, prepare, read_any

            if settings:
                raise bad_input("--set", str(source), "a case; a track has no numbers of a simulation")

            read = read_any(source_of(source), None, overrides)
            for text in read.notices:
                notice(text)
            if sphere is None and box is None:
                sphere = radius_from(read.samples, floor)
            s, sa = sigmas(sigma)
            setup = Setup(radius=sphere, size=box_edges(box), floor=floor_height(floor, slope), slope=slope, sigma=s,
                          sigma_angle=sa)
            tables["track"] = next(iter(api.measured_motions(prepare(read.samples, setup).case).values()))
        watch.leave_if_stopped()
    report = {}
    for title, motion in tables.items():
        say(title)
        outcomes = api.measure_motion(motion, every)
        outcome_tables(outcomes, theory.get(title))
        contact_table(motion)
        if balance:
            book_tables(motion, list(outcomes))
        for body in outcomes:
            say(f"{body}: {api.ending(motion, body)}; {api.stopped_by(motion, body)}")
        for note in motion.notes:
            say(f"note: {note}")
        say_remarks(motion)
        targets = api.judged(case, motion) if case is not None else []
        target_lines(targets)
        report[title] = motion_dict(motion, outcomes) | ({"targets": target_dicts(targets)} if targets else {})
    if json_path:
        write_json(json_path, report if len(report) > 1 else next(iter(report.values())))
