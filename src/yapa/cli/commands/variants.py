"""`yapa variants`: one case with several changes, side by side."""

from __future__ import annotations

from pathlib import Path

import click

from yapa.cli.arguments import json_option, load_named, outside_option
from yapa.cli.completing import complete_outcome
from yapa.cli.numbers import assigned, set_option, with_set
from yapa.cli.progress import watched
from yapa.cli.streams import claim, say, write_json
from yapa.cli.tables import print_table
from yapa.errors import bad_input


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--variant", "texts", multiple=True, required=True, metavar="NAME: PATH=VALUE[, PATH=VALUE]",
              help="a named change, such as 'soft pad: pairs.rind+pad.restitution=0.4'; repeatable")
@click.option("--outcome", "outcomes",
              shell_complete=complete_outcome, multiple=True, metavar="OUTCOME",
              help="what to read; by default a first look; repeatable")
@json_option
@set_option
@outside_option
def variants(case: Path, texts: tuple[str, ...], outcomes: tuple[str, ...], json_path: Path | None, settings: tuple[str, ...],
             allow_outside: bool) -> None:
    """Show outcomes of a case as it is and under named changes, in one table."""
    from yapa import api

    claim([case], json_path)
    loaded = with_set(load_named(case, allow_outside), settings)
    changes: dict[str, dict[str, float]] = {}
    for text in texts:
        name, mark, rest = text.partition(":")
        if not mark or not name.strip():
            raise bad_input("--variant", repr(text), "NAME: PATH=VALUE, PATH=VALUE")
        if name.strip() in changes:
            raise bad_input("--variant", f"two named {name.strip()!r}", "a name of its own for each")
        changes[name.strip()] = assigned(tuple(part for part in rest.split(",") if part.strip()), "--variant")
    with watched("running") as watch:
        found = api.variants(loaded, changes, outcomes, cancel=watch.cancel)
    if json_path:
        write_json(json_path, found.as_dict())
    rows = [[label, *("–" if v.value is None else f"{v.value:.5g}" for v in row)] for label, row in found.outcomes.items()]
    for k, target in enumerate(loaded.targets):
        rows.append([f"{target.label} {target.wanted}",
                     *("met" if reports[k].met else f"missed {reports[k].how_missed}" for reports in found.targets)])
    print_table([("outcome", False), *((name, True) for name in found.names)], rows)
    for name, values in zip(found.names[1:], found.changes[1:], strict=True):
        say(f"{name}: " + ", ".join(f"{path} {value:.6g}" for path, value in values.items()))
