"""The command line: thin; every command calls what the window calls."""

from __future__ import annotations

import json
import signal
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from yapa import __version__
from yapa.errors import InputError, YapaError, bad_input

if TYPE_CHECKING:
    from yapa.case import Case
    from yapa.case.unknowns import Estimate
    from yapa.fitting import Cancel, FitResult, Progress

DONE, BAD_INPUT, NOT_CONVERGED, INTERRUPTED = 0, 2, 3, 130


class _Yapa(click.Group):
    """`yapa CASE` opens the window; anything else is a command."""

    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        if not args:
            args = ["open"]
        elif args[0] not in self.commands and not args[0].startswith("-"):
            args = ["open", *args]
        return super().parse_args(ctx, args)


@click.group(cls=_Yapa)
@click.version_option(__version__)
def cli() -> None:
    """Calibrates rigid-body simulations from measured tracks or wanted outcomes.

    `yapa [CASE]` opens the window.
    """


@cli.command("open", hidden=True)
@click.argument("case", required=False, type=click.Path(path_type=Path))
def open_window(case: Path | None) -> None:
    """Open the window."""
    if case is not None and case.suffix.lower() != ".yapa" and not case.exists():
        raise bad_input(str(case), "neither a command nor a file", "a case file, or a command; see `yapa --help`")
    from yapa.desktop.app import run_window

    sys.exit(run_window(case))


@cli.command()
@click.option("--headless", type=click.Path(path_type=Path), help="run the whole example into this folder, no window")
def demo(headless: Path | None) -> None:
    """Open the demo cases, or run them all into a folder."""
    if headless is None:
        from yapa.desktop.app import run_window

        sys.exit(run_window(None))
    from yapa.report.headless import run_demo

    run_demo(headless, click.echo)


@cli.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--profile", metavar="NAME", help="instead of the case's: precise, or one that `yapa profiles` lists")
@click.option("--csv", "csv_path", type=click.Path(path_type=Path), help="write samples here")
@click.option("--contacts", type=click.Path(path_type=Path), help="write the contact log here")
@click.option("--json", "json_path", type=click.Path(path_type=Path), help="write outcomes and contacts here")
def simulate(case: Path, profile: str | None, csv_path: Path | None, contacts: Path | None, json_path: Path | None) -> None:
    """Simulate a case and print its outcomes."""
    from yapa import api
    from yapa.formats.motion_csv import contacts_csv, motion_csv, write_text

    motion = api.simulate(_with_profile(_load(case), profile))
    if csv_path:
        write_text(csv_path, motion_csv(motion))
    if contacts:
        write_text(contacts, contacts_csv(motion))
    outcomes = api.measure_motion(motion)
    if json_path:
        _write_json(json_path, _motion_dict(motion, outcomes))
    _outcome_tables(outcomes)
    click.echo(f"{len(motion.contacts)} contacts, {motion.steps} steps, {motion.status}")


@cli.command()
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
        changes["columns"] = {**how.columns, **{role: int(k) - 1 for role, k in _assignments(columns, "--column")}}
    if units:
        changes["units"] = {**how.units, **dict(_assignments(units, "--unit"))}
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
        rows.append([f"{t[k]:.6g}", *(_cell_of(done.samples, name, k) for name in ("x", "y", "z", "angle"))])
    _table([("t [s]", True), ("x [m]", True), ("y [m]", True), ("z [m]", True), ("angle [rad]", True)], rows)
    if csv_path:
        write_text(csv_path, samples_csv(done.samples))
    if json_path:
        _write_json(json_path, how.model_dump(mode="json"))


def _assignments(words: tuple[str, ...], option: str) -> list[tuple[str, str]]:
    out = []
    for word in words:
        role, sign, value = word.partition("=")
        if not sign or (option == "--column" and not value.strip().isdigit()):
            raise bad_input(option, word, "ROLE=VALUE, such as x=2")
        out.append((role.strip(), value.strip()))
    return out


def _cell_of(samples: Any, name: str, k: int) -> str:
    values = getattr(samples, name)
    return "" if values is None else "gap" if values[k] is None else f"{values[k]:.6g}"


@cli.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--before", is_flag=True, help="only what can be told without a run")
@click.option("--json", "json_path", type=click.Path(path_type=Path), help="write the findings here")
@click.option("--mend", "mends", multiple=True, metavar="KEY", help="apply the mend of this finding and save the case")
@click.option("--dismiss", multiple=True, metavar="KEY", help="never tell this finding for this case again, and save the case")
def check(case: Path, before: bool, json_path: Path | None, mends: tuple[str, ...], dismiss: tuple[str, ...]) -> None:
    """Say what may be wrong with a case and why something does not happen."""
    from yapa import api

    loaded = _load(case)
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
        _write_json(json_path, [{"key": f.key, "kind": f.kind, "about": f.about, "weight": f.weight, "symptom": f.symptom,
                                 "cause": f.cause, "mend": f.mend.label if f.mend else None} for f in findings])
    for f in findings:
        click.echo(f"{f.weight}  {f.about}: {f.symptom}")
        click.echo(f"         {f.cause}")
        if f.mend:
            click.echo(f"         mend: {f.mend.label}  (--mend {f.key!r})")
    click.echo(f"{sum(f.weight == 'trouble' for f in findings)} troubles, {sum(f.weight == 'note' for f in findings)} notes")


@cli.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--over", "overs", multiple=True, required=True, metavar="PATH[=LOW..HIGH]", help="a number to sweep; two make a map")
@click.option("--outcome", "asked", multiple=True, required=True, metavar="OUTCOME", help="what to read, such as 'orange apex 2'")
@click.option("--count", default=21, show_default=True, help="points along each number, or Sobol points in all")
@click.option("--sobol", is_flag=True, help="Sobol points instead of a grid")
@click.option("--seed", default=0, show_default=True)
@click.option("--threads", type=int)
@click.option("--csv", "csv_path", type=click.Path(path_type=Path), help="write the rows here")
@click.option("--json", "json_path", type=click.Path(path_type=Path), help="write the rows here")
def sweep(case: Path, overs: tuple[str, ...], asked: tuple[str, ...], count: int, sobol: bool, seed: int, threads: int | None,
          csv_path: Path | None, json_path: Path | None) -> None:
    """Show how outcomes respond to one number, or several."""
    from yapa.case.target_text import parse_target
    from yapa.fitting.sweep import axis_of
    from yapa.fitting.sweep import sweep as respond
    from yapa.formats.motion_csv import write_text

    loaded = _load(case)
    axes = [axis_of(loaded, *_range(word)) for word in overs]
    targets = [parse_target(f"{text} happens") for text in asked]
    with _progress_bar() as step:
        response = respond(loaded, axes, targets, count, sobol=sobol, seed=seed, threads=threads, progress=step)
    names = [axis.path for axis in response.axes] + list(response.labels)
    rows = [[f"{v:.6g}" for v in values] + ["–" if o != o else f"{o:.6g}" for o in outcomes]
            for values, outcomes in zip(response.values.tolist(), response.outcomes.tolist(), strict=True)]
    _table([(name, True) for name in names], rows if len(rows) <= 60 else [*rows[:30], ["…"] * len(names), *rows[-29:]])
    click.echo(f"{len(rows)} runs")
    if csv_path:
        lines = [",".join(names), *(",".join("" if cell == "–" else cell for cell in row) for row in rows)]
        write_text(csv_path, "\n".join(lines) + "\n")
    if json_path:
        _write_json(json_path, {"over": [{"path": a.path, "low": a.low, "high": a.high} for a in response.axes],
                                "outcomes": list(response.labels), "values": response.values.tolist(),
                                "found": [[None if o != o else o for o in row] for row in response.outcomes.tolist()]})


def _range(word: str) -> tuple[str, float | None, float | None]:
    path, sign, span = word.partition("=")
    if not sign:
        return path.strip(), None, None
    low, dots, high = span.partition("..")
    try:
        return path.strip(), float(low), float(high) if dots else float("nan")
    except ValueError:
        raise bad_input("--over", word, "PATH=LOW..HIGH, such as surfaces.rind.restitution=0.3..0.9") from None


@contextmanager
def _progress_bar() -> Iterator[Callable[[int, int], None]]:
    """A bar on the error stream where that is a terminal."""
    if not sys.stderr.isatty():
        yield lambda _done, _all: None
        return
    with click.progressbar(length=1, file=sys.stderr, label="runs") as bar:
        def step(done: int, every: int) -> None:
            bar.length = every
            bar.update(done - bar.pos)

        yield step


@cli.command()
def outcomes() -> None:
    """List every outcome that can be measured and wanted."""
    from yapa.case.asking import ASKING

    rows = [[a.name, a.unit, ", ".join((*a.needs, *(f"[{m}]" for m in a.may))), a.meaning] for a in ASKING.values()]
    _table([("outcome", False), ("unit", False), ("is told", False), ("meaning", False)], rows)


@cli.command()
def profiles() -> None:
    """List the stepped profiles that have a name."""
    from yapa.case.profiles import PRESETS

    for name in PRESETS:
        click.echo(name)


@cli.command()
@click.argument("source", type=click.Path(path_type=Path))
@click.option("--sphere", type=float, metavar="RADIUS", help="the track is of a sphere")
@click.option("--box", metavar="LXxLYxLZ", help="the track is of a box")
@click.option("--floor", type=float, default=None, metavar="Z", help="height of the support (default 0)")
@click.option("--slope", type=float, default=None, metavar="DEG", help="instead: a plane rising along +x")
@click.option("--sigma", metavar="S[,S_ANGLE]", help="noise of the track; estimated if left out")
@click.option("--trial", help="instead of the case's values: those of this trial")
@click.option("--all", "every", is_flag=True, help="every outcome, not only a first look")
@click.option("--json", "json_path", type=click.Path(path_type=Path))
def measure(source: Path, sphere: float | None, box: str | None, floor: float | None, slope: float | None,
            sigma: str | None, trial: str | None, every: bool, json_path: Path | None) -> None:
    """Measure the outcomes of a case's simulation and tracks, of one of its trials, or of a track in any table file.

    Where a closed form exists for what a simulation does, its number stands beside the outcome.
    """
    from yapa import api
    from yapa.fitting import Setup, prepare
    from yapa.formats.any_track import read_any

    tables: dict[str, Any] = {}
    theory: dict[str, Any] = {}
    if source.suffix.lower() == ".yapa":
        case = _load(source)
        case = _at_trial(case, trial)
        tables["simulated"] = api.simulate(case)
        theory["simulated"] = api.predict(case, tables["simulated"])
        tables |= {f"track {name}": m for name, m in api.measured_motions(case).items()}
    else:
        read = read_any(source)
        for notice in read.notices:
            click.echo(notice, err=True)
        if sphere is None and box is None:
            sphere = _radius_from(read.samples, floor)
        s, sa = _sigmas(sigma)
        setup = Setup(radius=sphere, size=_box(box), floor=_floor(floor, slope), slope=slope, sigma=s, sigma_angle=sa)
        tables["track"] = next(iter(api.measured_motions(prepare(read.samples, setup).case).values()))
    report = {}
    for title, motion in tables.items():
        click.echo(title)
        outcomes = api.measure_motion(motion, every)
        _outcome_tables(outcomes, theory.get(title))
        _contact_table(motion)
        for body in outcomes:
            click.echo(f"{body}: {api.ending(motion, body)}")
        for note in motion.notes:
            click.echo(f"note: {note}")
        report[title] = _motion_dict(motion, outcomes)
    if json_path:
        _write_json(json_path, report if len(report) > 1 else next(iter(report.values())))


def _radius_from(samples: Any, floor: float | None) -> float:
    """Without a shape: the lowest place of the track is taken as resting on the floor."""
    low = min((v for v in samples.z or () if v is not None), default=0.05) - (floor or 0.0)
    click.echo(f"no shape given: taken as a sphere whose lowest place, {low:.4g} m, touches the floor", err=True)
    return max(low, 1e-3)


@cli.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--target", "targets", multiple=True, help="a wanted outcome, such as 'apex 2 = 0.42 ± 0.01'; repeatable")
@click.option("--json", "json_path", type=click.Path(path_type=Path))
@click.option("--save", "save_path", type=click.Path(path_type=Path), help="save the case with the fitted values")
def fit(case: Path, targets: tuple[str, ...], json_path: Path | None, save_path: Path | None) -> None:
    """Fit a case to its tracks and targets."""
    from yapa import api
    from yapa.case.target_text import parse_target
    from yapa.formats.case_file import save_case

    loaded = _load(case)
    if targets:
        loaded = loaded.model_copy(update={"targets": loaded.targets + tuple(parse_target(t) for t in targets)})
    with _watched() as (progress, cancel):
        result = api.fit(loaded, progress, cancel)
    if json_path:
        _write_json(json_path, result.as_dict())
    if save_path:
        save_case(api.with_result(loaded, result), save_path, source=case)
    _result_table(result.estimates, result)
    sys.exit(_exit_code(result))


@cli.command()
@click.argument("track", type=click.Path(path_type=Path))
@click.option("--sphere", type=float, metavar="RADIUS")
@click.option("--box", metavar="LXxLYxLZ")
@click.option("--mass", type=float, metavar="M")
@click.option("--floor", type=float, default=None, metavar="Z", help="height of the support (default 0)")
@click.option("--slope", type=float, default=None, metavar="DEG", help="instead: a plane rising along +x under the start")
@click.option("--unknown", "unknowns", multiple=True, metavar="NAME[=LO..HI]", help="a number to find; repeatable")
@click.option("--fixed", multiple=True, metavar="NAME=VALUE", help="a number that is known; repeatable")
@click.option("--sigma", metavar="S[,S_ANGLE]", help="noise of the track; estimated if left out")
@click.option("--json", "json_path", type=click.Path(path_type=Path))
@click.option("--save", "save_path", type=click.Path(path_type=Path), help="save a case to open in the window")
def calibrate(track: Path, sphere: float | None, box: str | None, mass: float | None, floor: float | None,
              slope: float | None, unknowns: tuple[str, ...], fixed: tuple[str, ...], sigma: str | None,
              json_path: Path | None, save_path: Path | None) -> None:
    """From a CSV track (t,x,y,z[,angle]) to numbers with their uncertainty."""
    from yapa import api
    from yapa.fitting import Setup, parse_unknown
    from yapa.formats.case_file import save_case

    s, sa = _sigmas(sigma)
    setup = Setup(radius=sphere, size=_box(box), mass=mass, floor=_floor(floor, slope), slope=slope,
                  unknown=dict(parse_unknown(u) for u in unknowns), fixed=dict(_fixed(f) for f in fixed), sigma=s,
                  sigma_angle=sa)
    with _watched() as (progress, cancel):
        done = api.calibrate(track, setup, progress, cancel)
    if json_path:
        _write_json(json_path, done.as_dict())
    if save_path:
        save_case(done.case, save_path)
    _result_table(done.estimates, done.result)
    assumed = ", ".join(f"{k} {v:.6g}" if isinstance(v, float) else f"{k} {v}" for k, v in done.assumed.items())
    click.echo(f"assumed: {assumed}")
    sys.exit(_exit_code(done.result))


@cli.command()
def schema() -> None:
    """Print the JSON Schema of a case file."""
    from yapa.case import schema_text

    click.echo(schema_text(), nl=False)


@cli.command()
def warm() -> None:
    """Compile the engine now, so that the first run does not wait for it."""
    from yapa.engine.cache import is_warm
    from yapa.engine.warm import warm as compile_all

    if is_warm():
        click.echo("the engine is already compiled")
        return
    click.echo("compiling the engine, two to three minutes …")
    compile_all()


# -- helpers -----------------------------------------------------------------------------------


def _at_trial(case: Case, name: str | None) -> Case:
    """The case at the values of a trial."""
    from yapa.case.paths import with_numbers

    if name is None:
        return case
    chosen = next((t for t in case.trials if t.name == name), None)
    if chosen is None:
        names = "; ".join(t.name for t in case.trials)
        raise bad_input("--trial", name, f"one of: {names}" if names else "a case that has trials")
    return with_numbers(case, chosen.values)


def _with_profile(case: Case, name: str | None) -> Case:
    """The case with another solver profile."""
    from yapa.case.profiles import PRESETS, Precise

    if name is None:
        return case
    named = {"precise": Precise(), **PRESETS}
    if name not in named:
        raise bad_input("--profile", name, "one of: " + "; ".join(named))
    return case.model_copy(update={"profile": named[name]})


def _load(path: Path) -> Case:
    from yapa.formats.case_file import load_case

    case, notices = load_case(path)
    for notice in notices:
        click.echo(notice, err=True)
    return case


def _box(text: str | None) -> tuple[float, float, float] | None:
    if text is None:
        return None
    parts = text.lower().replace("×", "x").split("x")
    try:
        a, b, c = (float(p) for p in parts)
    except ValueError:
        raise bad_input("--box", repr(text), "three edge lengths in metres, such as 0.3x0.2x0.15") from None
    return a, b, c


def _floor(floor: float | None, slope: float | None) -> float | None:
    if floor is not None and slope is not None:
        raise bad_input("--floor and --slope", "both", "one of the two")
    return None if slope is not None else (floor or 0.0)


def _sigmas(text: str | None) -> tuple[float | None, float | None]:
    if text is None:
        return None, None
    try:
        values = [float(p) for p in text.split(",")]
    except ValueError:
        values = []
    if len(values) not in (1, 2):
        raise bad_input("--sigma", repr(text), "one or two numbers, such as 0.001 or 0.001,0.02")
    return values[0], values[1] if len(values) == 2 else None


def _fixed(text: str) -> tuple[str, float]:
    name, _, value = text.partition("=")
    try:
        return name.strip(), float(value)
    except ValueError:
        raise bad_input(f"--fixed {text!r}", f"the value {value!r}", "NAME=VALUE, such as friction=0.3") from None


@contextmanager
def _watched() -> Iterator[tuple[Callable[[Progress], None], Cancel]]:
    """Progress on a terminal, none in a pipe; Ctrl+C stops with the best so far."""
    from rich.console import Console
    from rich.progress import BarColumn, TextColumn, TimeElapsedColumn
    from rich.progress import Progress as Bar

    from yapa.engine.cache import is_warm
    from yapa.fitting import Cancel

    cancel = Cancel()
    console = Console(stderr=True)
    before = signal.signal(signal.SIGINT, lambda *_: cancel.set())
    bar = Bar(TextColumn("{task.description}"), BarColumn(), TimeElapsedColumn(), console=console,
              disable=not console.is_terminal, transient=True)
    first = "fitting" if is_warm() else "compiling the engine, once, two to three minutes"
    try:
        with bar:
            task = bar.add_task(first, total=1.0)

            def progress(p: Progress) -> None:
                misfit = "" if p.misfit is None else f", misfit {p.misfit:.3g}"
                bar.update(task, completed=p.share, description=f"{p.phase}{misfit}, {p.simulations} simulations")

            yield progress, cancel
    finally:
        signal.signal(signal.SIGINT, before)


def _exit_code(result: FitResult) -> int:
    return {"converged": DONE, "cancelled": INTERRUPTED}.get(result.stopped, NOT_CONVERGED)


def _write_json(path: Path, data: Any) -> None:
    from yapa.case.store import write_atomically

    write_atomically(path, json.dumps(data, indent=1, ensure_ascii=False, allow_nan=False) + "\n")


def _motion_dict(motion: Any, outcomes: dict) -> dict[str, Any]:
    from yapa import api

    return {
        "status": motion.status, "contacts": api.contact_rows(motion), "notes": list(motion.notes),
        "outcomes": {body: {k: api.reading_dict(r) for k, r in rows.items()} for body, rows in outcomes.items()},
    }


def _table(columns: list[tuple[str, bool]], rows: list[list[str]]) -> None:
    from rich.console import Console
    from rich.table import Table

    table = Table(box=None, pad_edge=False, padding=(0, 2, 0, 0))
    for name, right in columns:
        table.add_column(name, justify="right" if right else "left", no_wrap=not name.startswith("why"))
    for row in rows:
        table.add_row(*row)
    console = Console()
    if not console.is_terminal:
        console = Console(width=140)
    console.print(table)


def _outcome_tables(outcomes: dict, theory: dict | None = None) -> None:
    from yapa.case.asking import ASKING

    for body, rows in outcomes.items():
        out = []
        said = (theory or {}).get(body, {})
        for name, r in rows.items():
            spread = f"± {r.std:.2g}" if r.std else ""
            row = [name, "–" if r.value is None else f"{r.value:.5g}", spread, ASKING[name.rstrip("0123456789 ")].unit]
            if said:
                p = said.get(name)
                gap = "" if p is None or r.value is None else f"{r.value - p.value:+.2g}"
                row += ["" if p is None else f"{p.value:.5g}", gap, "" if p is None else p.form]
            out.append([*row, r.missing or ""])
        extra = [("theory", True), ("gap", True), ("", False)] if said else []
        _table([(body, False), ("value", True), ("", False), ("", False), *extra, ("why not", False)], out)


def _contact_table(motion: Any) -> None:
    rows = [[f"{c.time:.5f}", f"± {c.time_std:.5f}" if c.time_std else "", c.body, c.partner, f"{c.approach:.4g}",
             f"{c.rebound:.4g}"] for c in list(motion.contacts)[:20]]
    _table([("contact at s", True), ("", False), ("body", False), ("on", False), ("approach m/s", True),
            ("rebound m/s", True)], rows)


def _result_table(told: dict[str, Estimate], result: FitResult) -> None:
    from yapa.fitting.result import digits

    rows = []
    for name, e in told.items():
        interval = f"{'…' if e.low is None else f'{e.low:.5g}'} – {'…' if e.high is None else f'{e.high:.5g}'}"
        value = digits(e.value, e.std) if e.determined else "undetermined"
        rows.append([name, value, f"± {e.std:.2g}" if e.std else "", interval, e.reason or ""])
    _table([("unknown", False), ("value", True), ("", False), ("95% interval", False), ("why", False)], rows)
    misfit = "no tracks" if result.misfit is None else f"misfit {result.misfit:.3f}"
    click.echo(f"{result.stopped}; {misfit}; {result.simulations} simulations in {result.seconds:.2f} s")
    for t in result.targets:
        now = "does not happen" if t.now is None else f"{t.now:.4g}"
        click.echo(f"target {t.target.label}: wanted {t.target.wanted}, now {now}, "
                   f"{'met' if t.met else 'missed'}")
    for finding in result.findings:
        click.echo(f"finding: {finding}")


def main() -> None:
    """Entry point: errors for the person, never a traceback for bad input."""
    try:
        cli(standalone_mode=False)
    except click.exceptions.Exit as done:
        sys.exit(done.exit_code)
    except click.ClickException as error:
        error.show()
        sys.exit(BAD_INPUT)
    except click.Abort:
        sys.exit(INTERRUPTED)
    except InputError as error:
        click.echo(f"yapa: {error}", err=True)
        sys.exit(BAD_INPUT)
    except YapaError as error:
        click.echo(f"yapa: {error}", err=True)
        sys.exit(BAD_INPUT)
    except BrokenPipeError:
        sys.exit(DONE)


if __name__ == "__main__":
    main()
