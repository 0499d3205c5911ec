"""`yapa simulate`: one run of a case."""

from __future__ import annotations

from pathlib import Path

import click

from yapa.cli.arguments import json_option, load_named, outside_option, with_profile
from yapa.cli.numbers import set_option, with_set
from yapa.cli.progress import watched
from yapa.cli.streams import claim, say, write_json, write_out
from yapa.cli.tables import motion_dict, outcome_tables, say_remarks, target_dicts, target_lines


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--profile", metavar="NAME", help="instead of the case's: precise, or one that `yapa profiles` lists")
@click.option("--csv", "csv_path", type=click.Path(path_type=Path), help="write samples here")
@click.option("--contacts", type=click.Path(path_type=Path), help="write the contact log here")
@set_option
@json_option
@outside_option
def simulate(case: Path, profile: str | None, csv_path: Path | None, contacts: Path | None, settings: tuple[str, ...],
             json_path: Path | None, allow_outside: bool) -> None:
    """Simulate a case and print its outcomes. Stopped, it writes the motion so far."""
    from yapa import api
    from yapa.api import contacts_csv, motion_csv

    claim([case], csv_path, contacts, json_path)
    loaded = with_set(with_profile(load_named(case, allow_outside), profile), settings)
    with watched("simulating") as watch:
        motion = api.simulate(loaded, cancel=watch.cancel.flag)
    if csv_path:
        write_out(csv_path, motion_csv(motion))
    if contacts:
        write_out(contacts, contacts_csv(motion))
    outcomes, targets = api.measure_motion(motion), api.judged(loaded, motion)
    if json_path:
        write_json(json_path, motion_dict(motion, outcomes) | ({"targets": target_dicts(targets)} if targets else {}))
    outcome_tables(outcomes)
    target_lines(targets)
    say(f"{len(motion.contacts)} contacts, {motion.steps} steps, {motion.status}")
    say_remarks(motion)
    watch.leave_if_stopped()
