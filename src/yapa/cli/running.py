"""Commands that run: simulate, measure, fit, calibrate; and what set-up calls."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

import click

from yapa.cli.places import claim, save_to, say, source_of, write_json, write_out
from yapa.cli.tables import book_tables, contact_table, motion_dict, outcome_tables, result_table, say_remarks
from yapa.cli.waiting import watched
from yapa.cli.words import (
    at_trial,
    box_edges,
    fixed_value,
    floor_height,
    json_option,
    limit_option,
    load_named,
    outside_option,
    overwrite_option,
    radius_from,
    reading_options,
    seed_option,
    seeded,
    sigmas,
    threads_option,
    with_profile,
    with_targets,
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


@click.command()
@click.argument("source", type=click.Path(path_type=Path))
@click.option("--sphere", type=float, metavar="RADIUS", help="the track is of a sphere")
@click.option("--box", metavar="LXxLYxLZ", help="the track is of a box")
@click.option("--floor", type=float, default=None, metavar="Z", help="height of the support (default 0)")
@click.option("--slope", type=float, default=None, metavar="DEG", help="instead: a plane rising along +x")
@click.option("--sigma", metavar="S[,S_ANGLE]", help="noise of the track; estimated if left out")
@click.option("--trial", help="instead of the case's values: those of this trial")
@click.option("--all", "every", is_flag=True, help="every outcome, not only a first look")
@click.option("--book", is_flag=True, help="energy and momentum of every contact, and between contacts")
@json_option
@outside_option
@reading_options
def measure(source: Path, sphere: float | None, box: str | None, floor: float | None, slope: float | None,
            sigma: str | None, trial: str | None, every: bool, book: bool, json_path: Path | None, allow_outside: bool,
            said: Any) -> None:
    """Measure the outcomes of a case's simulation and tracks, of one of its trials, or of a track in any table file.

    Where a closed form exists for what a simulation does, its number stands beside the outcome.
    """
    from yapa import api

    claim([source], json_path)
    tables: dict[str, Any] = {}
    theory: dict[str, Any] = {}
    with watched("measuring") as watch:
        if source.suffix.lower() == ".yapa":
            case = at_trial(load_named(source, allow_outside), trial)
            tables["simulated"] = api.simulate(case, cancel=watch.cancel.flag)
            watch.leave_if_stopped()
            theory["simulated"] = api.predict(case, tables["simulated"])
            tables |= {f"track {name}": m for name, m in api.measured_motions(case).items()}
        else:
            from yapa.api import Setup, prepare, read_any

            read = read_any(source_of(source), None, said)
            for notice in read.notices:
                click.echo(notice, err=True)
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
        if book:
            book_tables(motion, list(outcomes))
        for body in outcomes:
            say(f"{body}: {api.ending(motion, body)}")
        for note in motion.notes:
            say(f"note: {note}")
        say_remarks(motion)
        report[title] = motion_dict(motion, outcomes)
    if json_path:
        write_json(json_path, report if len(report) > 1 else next(iter(report.values())))


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
              threads: int | None, limit: int, json_path: Path | None, save_path: Path | None, overwrite: bool, said: Any) -> None:
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
        done = api.calibrate(file, setup, watch.progress, watch.cancel, said, threads=threads, limit=limit)
    if json_path:
        write_json(json_path, done.as_dict())
    if save_path:
        save_to(save_path, done.case, None, overwrite)
    result_table(done.estimates, done.result)
    assumed = ", ".join(f"{k} {v:.6g}" if isinstance(v, float) else f"{k} {v}" for k, v in done.assumed.items())
    say(f"assumed: {assumed}")
    sys.exit(watch.exit_code(done.result.stopped))


@click.command()
def schema() -> None:
    """Print the JSON Schema of a case file."""
    from yapa.api import schema_text

    click.echo(schema_text(), nl=False)


@click.command()
def warm() -> None:
    """Compile the engine now, so that the first run does not wait for it."""
    from yapa.api import compile_all, is_warm, private_cache

    private_cache()
    if is_warm():
        click.echo("the engine is already compiled")
        return
    click.echo("compiling the engine, one to two minutes …")
    compile_all()
