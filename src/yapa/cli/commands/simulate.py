"""`yapa simulate`: one run of a case."""

from __future__ import annotations

from pathlib import Path

import click

from yapa.cli.places import claim, say, write_json, write_out
from yapa.cli.tables import motion_dict, outcome_tables, say_remarks
from yapa.cli.waiting import watched
from yapa.cli.words import (
    json_option,
    load_named,
    outside_option,
    with_profile,
)


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--profile", metavar="NAME", help="instead of the case's: precise, or one that `yapa profiles` lists")
@click.option("--csv", "csv_path", type=click.Path(path_type=Path), help="write samples here")
@click.option("--contacts", type=click.Path(path_type=Path), help="write the contact log here")
@json_option
@outside_option
def simulate(case: Path, profile: str | None, csv_path: Path | None, contacts: Path | None, json_path: Path | None,
             allow_outside: bool) -> None:
    """Simulate a case and print its outcomes. Stopped, it writes the motion so far."""
    from yapa import api
    from yapa.api import contacts_csv, motion_csv

    claim([case], csv_path, contacts, json_path)
    loaded = with_profile(load_named(case, allow_outside), profile)
    with watched("simulating") as watch:
        motion = api.simulate(loaded, cancel=watch.cancel.flag)
    if csv_path:
        write_out(csv_path, motion_csv(motion))
    if contacts:
        write_out(contacts, contacts_csv(motion))
    outcomes = api.measure_motion(motion)
    if json_path:
        write_json(json_path, motion_dict(motion, outcomes))
    outcome_tables(outcomes)
    say(f"{len(motion.contacts)} contacts, {motion.steps} steps, {motion.status}")
    say_remarks(motion)
    watch.leave_if_stopped()
