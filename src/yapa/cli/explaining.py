"""Commands that explain: inspect, check, sweep, and what can be asked for."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from yapa.cli.tables import cell_of, print_table, write_json
from yapa.cli.waiting import progress_bar
from yapa.cli.words import assignments, load_named, swept_range
from yapa.errors import bad_input

if TYPE_CHECKING:
    pass


@click.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--column", "columns", multiple=True, metavar="ROLE=NUMBER", help="role of a column, from 1: time, frame, x …")
@click.option("--unit", "units", multiple=True, metavar="ROLE=UNIT", help="unit of a column, such as x=mm")
@click.option("--rate", type=float, help="frames a second, for frame numbers")
@click.option("--scale", type=float, help="metres a pixel, or a unit of the file")
@click.option("--y-down", is_flag=True, default=None, help="the upright coordinate grows downwards")
@click.option("--up", type=click.Choice(["y", "z"]), help="which coordinate stands upright")
@click.option("--body", help="which of several bodies")
@click.option("--sheet", help="which sheet of a spreadsheet")
@click.option("--shift", type=float, help="seconds added to every time")
@click.option("--sort", is_flag=True, default=None, help="sort rows that are out of order")
@click.option("--csv", "csv_path", type=click.Path(path_type=Path), help="write the track as t,x,y,z,angle here")
@click.option("--json", "json_path", type=click.Path(path_type=Path), help="write how it is read here, as it stands in a case")
def inspect(file: Path, columns: tuple[str, ...], units: tuple[str, ...], csv_path: Path | None, json_path: Path | None,
            sort: bool | None, **said: Any) -> None:
    """Say what a file of measurements holds and how it would be read."""
    from yapa.formats.importing import import_track, inspect_file
    from yapa.formats.motion_csv import samples_csv, write_text

    table, how, why = inspect_file(file)
    changes = {key: value for key, value in said.items() if value is not None}
    if sort:
        changes["sorted"] = True
    if columns:
        changes["columns"] = {**how.columns, **{role: int(k) - 1 for role, k in assignments(columns, "--column")}}
    if units:
        changes["units"] = {**how.units, **dict(assignments(units, "--unit"))}
    click.echo(f"{file}: {len(table.rows) - how.first} rows of numbers, {max(len(r) for r in table.rows)} columns")
    for reason in why:
        click.echo(f"  {reason}")
    how = type(how).model_validate({**how.model_dump(), **changes})
    done = import_track(file, how)
    for reason in done.why:
        click.echo(f"  {reason}")
    t = done.samples.t
    click.echo(f"  {len(t)} samples from {t[0]:g} to {t[-1]:g} s")
    rows = []
    for k in (0, 1, 2, len(t) - 1):
        rows.append([f"{t[k]:.6g}", *(cell_of(done.samples, name, k) for name in ("x", "y", "z", "angle"))])
    print_table([("t [s]", True), ("x [m]", True), ("y [m]", True), ("z [m]", True), ("angle [rad]", True)], rows)
    if csv_path:
        write_text(csv_path, samples_csv(done.samples))
    if json_path:
        write_json(json_path, how.model_dump(mode="json"))


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--before", is_flag=True, help="only what can be told without a run")
@click.option("--json", "json_path", type=click.Path(path_type=Path), help="write the findings here")
@click.option("--mend", "mends", multiple=True, metavar="KEY", help="apply the mend of this finding and save the case")
@click.option("--dismiss", multiple=True, metavar="KEY", help="never tell this finding for this case again, and save the case")
def check(case: Path, before: bool, json_path: Path | None, mends: tuple[str, ...], dismiss: tuple[str, ...]) -> None:
    """Say what may be wrong with a case and why something does not happen."""
    from yapa import api

    loaded = load_named(case)
    findings = api.check(loaded, run=not before)
    changed = loaded
    for key in (*mends, *dismiss):
        chosen = next((f for f in findings if f.key == key), None)
        if chosen is None or (key in mends and chosen.mend is None):
            keys = [f.key for f in findings if f.mend is not None or key in dismiss]
            raise bad_input("--mend" if key in mends else "--dismiss", key, "one of: " + "; ".join(keys or ["nothing to choose"]))
        if key in mends and chosen.mend is not None:
            changed = chosen.mend.apply(changed)
            click.echo(f"mended: {chosen.mend.label}")
        else:
            changed = changed.model_copy(update={"dismissed": (*changed.dismissed, key)})
            click.echo(f"dismissed: {key}")
    if changed is not loaded:
        api.save(changed, case)
        return
    if json_path:
        write_json(json_path, [{"key": f.key, "kind": f.kind, "about": f.about, "weight": f.weight, "symptom": f.symptom,
                                 "cause": f.cause, "mend": f.mend.label if f.mend else None} for f in findings])
    for f in findings:
        click.echo(f"{f.weight}  {f.about}: {f.symptom}")
        click.echo(f"         {f.cause}")
        if f.mend:
            click.echo(f"         mend: {f.mend.label}  (--mend {f.key!r})")
    click.echo(f"{sum(f.weight == 'trouble' for f in findings)} troubles, {sum(f.weight == 'note' for f in findings)} notes")


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--over", "overs", multiple=True, required=True, metavar="PATH[=LOW..HIGH]", help="a number to sweep; two make a map")
@click.option("--outcome", "asked", multiple=True, required=True, metavar="OUTCOME", help="what to read, such as 'orange apex 2'")
@click.option("--count", default=21, show_default=True, help="points along each number, or Sobol points in all")
@click.option("--sobol", is_flag=True, help="Sobol points instead of a grid")
@click.option("--seed", default=0, show_default=True)
@click.option("--threads", type=int, help="runs side by side; by default as many as pay")
@click.option("--csv", "csv_path", type=click.Path(path_type=Path), help="write the rows here")
@click.option("--json", "json_path", type=click.Path(path_type=Path), help="write the rows here")
def sweep(case: Path, overs: tuple[str, ...], asked: tuple[str, ...], count: int, sobol: bool, seed: int, threads: int | None,
          csv_path: Path | None, json_path: Path | None) -> None:
    """Show how outcomes respond to one number, or several."""
    from yapa.case.target_text import parse_target
    from yapa.fitting.sweep import axis_of
    from yapa.fitting.sweep import sweep as respond
    from yapa.formats.motion_csv import write_text

    loaded = load_named(case)
    axes = [axis_of(loaded, *swept_range(word)) for word in overs]
    targets = [parse_target(f"{text} happens") for text in asked]
    with progress_bar() as step:
        response = respond(loaded, axes, targets, count, sobol=sobol, seed=seed, threads=threads, progress=step)
    names = [axis.path for axis in response.axes] + list(response.labels)
    rows = [[f"{v:.6g}" for v in values] + ["–" if o != o else f"{o:.6g}" for o in outcomes]
            for values, outcomes in zip(response.values.tolist(), response.outcomes.tolist(), strict=True)]
    print_table([(name, True) for name in names], rows if len(rows) <= 60 else [*rows[:30], ["…"] * len(names), *rows[-29:]])
    click.echo(f"{len(rows)} runs")
    if csv_path:
        lines = [",".join(names), *(",".join("" if cell == "–" else cell for cell in row) for row in rows)]
        write_text(csv_path, "\n".join(lines) + "\n")
    if json_path:
        write_json(json_path, {"over": [{"path": a.path, "low": a.low, "high": a.high} for a in response.axes],
                                "outcomes": list(response.labels), "values": response.values.tolist(),
                                "found": [[None if o != o else o for o in row] for row in response.outcomes.tolist()]})


@click.command()
def outcomes() -> None:
    """List every outcome that can be measured and wanted."""
    from yapa.case.asking import ASKING

    rows = [[a.name, a.unit, ", ".join((*a.needs, *(f"[{m}]" for m in a.may))), a.meaning] for a in ASKING.values()]
    print_table([("outcome", False), ("unit", False), ("is told", False), ("meaning", False)], rows)


@click.command()
def profiles() -> None:
    """List the stepped profiles that have a name."""
    from yapa.case.profiles import PRESETS

    for name in PRESETS:
        click.echo(name)
