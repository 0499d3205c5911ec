"""`yapa sweep`: how outcomes respond to numbers."""

from __future__ import annotations

from pathlib import Path

import click

from yapa.cli.arguments import load_named, outside_option, threads_option
from yapa.cli.completing import complete_outcome, complete_path
from yapa.cli.numbers import set_option, swept_range, with_set
from yapa.cli.progress import watched
from yapa.cli.streams import claim, say, write_json, write_out
from yapa.cli.tables import print_table


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--over", "overs",
              shell_complete=complete_path, multiple=True, required=True, metavar="PATH[=LOW..HIGH]",
              help="a number to sweep; two make a map")
@click.option("--outcome", "outcomes", shell_complete=complete_outcome, multiple=True, required=True, metavar="OUTCOME",
              help="what to read, such as 'orange apex 2'")
@click.option("--count", type=click.IntRange(2, 100_000), default=21, show_default=True,
              help="points along each number, or Sobol points in all")
@click.option("--sobol", is_flag=True, help="Sobol points instead of a grid")
@click.option("--seed", type=click.IntRange(0, 2**63 - 1), default=0, show_default=True)
@threads_option
@click.option("--csv", "csv_path", type=click.Path(path_type=Path), help="write the rows here")
@click.option("--json", "json_path", type=click.Path(path_type=Path), help="write the rows here")
@set_option
@outside_option
def sweep(case: Path, overs: tuple[str, ...], outcomes: tuple[str, ...], count: int, sobol: bool, seed: int, threads: int | None,
          csv_path: Path | None, json_path: Path | None, settings: tuple[str, ...], allow_outside: bool) -> None:
    """Show how outcomes respond to one number, or several."""
    from yapa.api import axis_of, parse_target
    from yapa.api import sweep as respond

    claim([case], csv_path, json_path)
    loaded = with_set(load_named(case, allow_outside), settings)
    axes = [axis_of(loaded, *swept_range(word)) for word in overs]
    targets = [parse_target(f"{text} happens") for text in outcomes]
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
