"""`yapa note`: evidence noted by hand."""

from __future__ import annotations

from pathlib import Path

import click

from yapa.cli.arguments import load_stamped, outside_option, overwrite_option
from yapa.cli.streams import claim, save_to, say


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--body", help="which body; left out where only one moves")
@click.option("--apexes", metavar="H1,H2,…", help="heights of successive apexes [m]")
@click.option("--ratios", metavar="R2,R3,…", help="ratios of each apex to the one before, from the second on")
@click.option("--rest", type=float, metavar="S", help="a stopwatch's rest time [s]")
@click.option("--mark", "marks", multiple=True, metavar="T:X,Y,Z", help="seen at a place [m] at a time [s]; - where unseen")
@click.option("--path", "drawn", metavar="'T:X,Y,Z T:X,Y,Z …'", help="a path drawn through places at times, as a track")
@click.option("--like", "trial", metavar="TRIAL", help="the motion of an earlier trial, as a track")
@click.option("--tolerance", type=float, help="how sure: metres, seconds or a ratio, of what is noted in this command")
@click.option("--save", "save_path", type=click.Path(path_type=Path), help="save here instead of into the case")
@outside_option
@overwrite_option
def note(case: Path, body: str | None, apexes: str | None, ratios: str | None, rest: float | None, marks: tuple[str, ...],
         drawn: str | None, trial: str | None, tolerance: float | None, save_path: Path | None,
         allow_outside: bool, overwrite: bool) -> None:
    """Add evidence that was noted by hand to a case."""
    from yapa.api import note as noted

    claim([case], save_path)
    loaded, stamp = load_stamped(case, allow_outside)
    after, lines = noted(loaded, body, apexes=apexes or "", ratios=ratios or "", rest=rest, marks=marks, path=drawn or "",
                         trial=trial or "", tolerance=tolerance)
    save_to(save_path or case, after, case, overwrite, stamp if save_path is None else None)
    for line in lines:
        say(f"noted: {line}")
