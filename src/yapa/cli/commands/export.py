"""`yapa export`: what a case hands over to other programs."""

from __future__ import annotations

from pathlib import Path

import click

from yapa.cli.arguments import at_trial, load_named, outside_option
from yapa.cli.numbers import set_option, with_set
from yapa.cli.streams import STREAM, write_out
from yapa.errors import bad_input


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--to", "name", metavar="NAME", help="what is written; without it, all that can be are listed")
@click.option("--out", type=click.Path(path_type=Path), default=STREAM, help="the file; the standard output if left out")
@click.option("--trial", "trial_name", help="at the values of this trial")
@set_option
@outside_option
def export(case: Path, name: str | None, out: Path, trial_name: str | None, settings: tuple[str, ...], allow_outside: bool) -> None:
    """Write values, a motion or its contacts for another program."""
    from yapa.api import EXPORTERS, Exported
    from yapa.cli.tables import print_table

    if name is None:
        rows = [[e.name, e.suffix, e.meaning] for e in EXPORTERS.values()]
        print_table([("name", False), ("file", False), ("what it is", False)], rows)
        return
    if name not in EXPORTERS:
        raise bad_input("--to", name, f"one of {', '.join(EXPORTERS)}")
    chosen = with_set(at_trial(load_named(case, allow_outside), trial_name), settings)
    write_out(out, EXPORTERS[name].write(Exported(chosen)))
