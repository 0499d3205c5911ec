"""Commands that explain: inspect, check, sweep, and what can be asked for."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from yapa.cli.places import claim, save_to, say, source_of, write_json, write_out
from yapa.cli.tables import cell_of, print_table
from yapa.cli.waiting import watched
from yapa.cli.words import (
    load_named,
    load_stamped,
    outside_option,
    overwrite_option,
    reading_options,
    swept_range,
    threads_option,
)
from yapa.errors import bad_input


@click.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--csv", "csv_path", type=click.Path(path_type=Path), help="write the track as t,x,y,z,angle here")
@click.option("--json", "json_path", type=click.Path(path_type=Path), help="write how it is read here, as it stands in a case")
@reading_options
def inspect(file: Path, csv_path: Path | None, json_path: Path | None, said: Any) -> None:
    """Say what a file of measurements holds and how it would be read."""
    from yapa.api import Said, inspect_file, samples_csv, track_of

    claim([file], csv_path, json_path)
    said = said or Said()
    table, found = inspect_file(source_of(file), said)
    say(f"{file}: {len(table.rows) - found.how.first} rows of numbers, {max(len(r) for r in table.rows)} columns")
    for reason in found.why:
        say(f"  {reason}")
    how = said.settle(table, found)
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


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--before", is_flag=True, help="only what can be told without a run")
@click.option("--json", "json_path", type=click.Path(path_type=Path), help="write the findings here")
@click.option("--mend", "mends", multiple=True, metavar="KEY", help="apply the mend of this finding and save the case")
@click.option("--dismiss", multiple=True, metavar="KEY", help="never tell this finding for this case again, and save the case")
@outside_option
@overwrite_option
def check(case: Path, before: bool, json_path: Path | None, mends: tuple[str, ...], dismiss: tuple[str, ...], allow_outside: bool,
          overwrite: bool) -> None:
    """Say what may be wrong with a case and why something does not happen."""
    from yapa import api
    from yapa.api import Cancelled

    claim([case], json_path)
    loaded, stamp = load_stamped(case, allow_outside)
    with watched("checking") as watch:
        try:
            findings = api.check(loaded, not before, watch.cancel)
        except Cancelled:
            watch.leave_if_stopped()
            raise
    changed = loaded
    for key in (*mends, *dismiss):
        chosen = next((f for f in findings if f.key == key), None)
        if chosen is None or (key in mends and chosen.mend is None):
            keys = [f.key for f in findings if f.mend is not None or key in dismiss]
            raise bad_input("--mend" if key in mends else "--dismiss", key, "one of: " + "; ".join(keys or ["nothing to choose"]))
        if key in mends and chosen.mend is not None:
            changed = chosen.mend.apply(changed)
            say(f"mended: {chosen.mend.label}")
        else:
            changed = changed.model_copy(update={"dismissed": (*changed.dismissed, key)})
            say(f"dismissed: {key}")
    if changed is not loaded:
        save_to(case, changed, case, overwrite, stamp)
        return
    if json_path:
        write_json(json_path, [{"key": f.key, "kind": f.kind, "about": f.about, "weight": f.weight, "symptom": f.symptom,
                                 "cause": f.cause, "mend": f.mend.label if f.mend else None} for f in findings])
    for f in findings:
        say(f"{f.weight}  {f.about}: {f.symptom}")
        say(f"         {f.cause}")
        if f.mend:
            say(f"         mend: {f.mend.label}  (--mend {f.key!r})")
    say(f"{sum(f.weight == 'trouble' for f in findings)} troubles, {sum(f.weight == 'note' for f in findings)} notes")


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--over", "overs", multiple=True, required=True, metavar="PATH[=LOW..HIGH]", help="a number to sweep; two make a map")
@click.option("--outcome", "asked", multiple=True, required=True, metavar="OUTCOME", help="what to read, such as 'orange apex 2'")
@click.option("--count", type=click.IntRange(2, 100_000), default=21, show_default=True,
              help="points along each number, or Sobol points in all")
@click.option("--sobol", is_flag=True, help="Sobol points instead of a grid")
@click.option("--seed", type=click.IntRange(0, 2**63 - 1), default=0, show_default=True)
@threads_option
@click.option("--csv", "csv_path", type=click.Path(path_type=Path), help="write the rows here")
@click.option("--json", "json_path", type=click.Path(path_type=Path), help="write the rows here")
@outside_option
def sweep(case: Path, overs: tuple[str, ...], asked: tuple[str, ...], count: int, sobol: bool, seed: int, threads: int | None,
          csv_path: Path | None, json_path: Path | None, allow_outside: bool) -> None:
    """Show how outcomes respond to one number, or several."""
    from yapa.api import axis_of, parse_target
    from yapa.api import sweep as respond

    claim([case], csv_path, json_path)
    loaded = load_named(case, allow_outside)
    axes = [axis_of(loaded, *swept_range(word)) for word in overs]
    targets = [parse_target(f"{text} happens") for text in asked]
    with watched("sweeping") as watch:
        response = respond(loaded, axes, targets, count, sobol=sobol, seed=seed, threads=threads, cancel=watch.cancel,
                           progress=watch.runs)
    names = [axis.path for axis in response.axes] + list(response.labels)
    rows = [[f"{v:.6g}" for v in values] + ["–" if o != o else f"{o:.6g}" for o in outcomes]
            for values, outcomes in zip(response.values.tolist(), response.outcomes.tolist(), strict=True)]
    print_table([(name, True) for name in names], rows if len(rows) <= 60 else [*rows[:30], ["…"] * len(names), *rows[-29:]])
    say(f"{len(rows)} runs")
    for name, reason in response.missing.items():
        say(f"–: {name} does not occur everywhere: {reason}")
    if csv_path:
        lines = [",".join(names), *(",".join("" if cell == "–" else cell for cell in row) for row in rows)]
        write_out(csv_path, "\n".join(lines) + "\n")
    if json_path:
        write_json(json_path, {"over": [{"path": a.path, "low": a.low, "high": a.high} for a in response.axes],
                                "outcomes": list(response.labels), "values": response.values.tolist(),
                                "found": [[None if o != o else o for o in row] for row in response.outcomes.tolist()],
                                "missing": response.missing, "stopped": response.stopped})
    watch.leave_if_stopped()


@click.command()
def outcomes() -> None:
    """List every outcome that can be measured and wanted."""
    from yapa.api import ASKING

    rows = [[a.name, a.unit, ", ".join((*a.needs, *(f"[{m}]" for m in a.may))), a.meaning] for a in ASKING.values()]
    print_table([("outcome", False), ("unit", False), ("is told", False), ("meaning", False)], rows)


@click.command()
def profiles() -> None:
    """List the stepped profiles that have a name."""
    from yapa.api import PRESETS

    for name in PRESETS:
        click.echo(name)
