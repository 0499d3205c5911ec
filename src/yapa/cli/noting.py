"""Evidence by hand on the command line: what was noted with a pencil, a stopwatch or a ruler."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import click

from yapa.cli.words import load_named
from yapa.errors import bad_input

if TYPE_CHECKING:
    from yapa.case import Case


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
def note(case: Path, body: str | None, apexes: str | None, ratios: str | None, rest: float | None, marks: tuple[str, ...],
         drawn: str | None, trial: str | None, tolerance: float | None, save_path: Path | None) -> None:
    """Add evidence that was noted by hand to a case."""
    from yapa import by_hand
    from yapa.formats.case_file import save_case

    loaded = load_named(case)
    name = _body(loaded, body)
    told = []
    if apexes:
        told += by_hand.apex_heights(_numbers(apexes, "--apexes"), tolerance or 0.01, name)
    if ratios:
        told += by_hand.apex_ratios(_numbers(ratios, "--ratios"), tolerance or 0.02, name)
    if rest is not None:
        told.append(by_hand.stopwatch(rest, tolerance or 0.2, name))
    for text in marks:
        time, place = _at(text, "--mark")
        told += by_hand.mark(time, place, tolerance or 0.01, name)
    tracks = []
    if drawn:
        points = [_at(text, "--path") for text in drawn.split()]
        tracks.append(by_hand.drawn_path(_free_name(loaded, "drawn"), name, [t for t, _ in points], [p for _, p in points],
                                         tolerance or 0.01))
    if trial:
        chosen = next((t for t in loaded.trials if t.name == trial), None)
        if chosen is None:
            raise bad_input("--like", trial, "one of: " + ("; ".join(t.name for t in loaded.trials) or "a case that has trials"))
        tracks.append(by_hand.trial_track(loaded, chosen, name, tolerance or 1e-3))
    if not told and not tracks:
        raise bad_input("the note", "nothing", "--apexes, --ratios, --rest, --mark, --path or --like")
    after = loaded.model_copy(update={"targets": (*loaded.targets, *told), "tracks": (*loaded.tracks, *tracks)})
    save_case(after, save_path or case, source=case)
    for target in told:
        click.echo(f"noted: {target.label} = {target.wanted}")
    for track in tracks:
        click.echo(f"noted: track {track.name} of {track.body}, σ {track.sigma:g} m")


def _body(case: Case, name: str | None) -> str:
    movers = case.movers()
    if name is None and len(movers) == 1:
        return movers[0]
    if name not in movers:
        raise bad_input("--body", repr(name), f"one of {', '.join(movers)}")
    return name


def _numbers(text: str, where: str) -> list[float]:
    try:
        return [float(word) for word in text.replace(";", ",").split(",") if word.strip()]
    except ValueError:
        raise bad_input(where, repr(text), "numbers with commas between, such as 0.74,0.41") from None


def _at(text: str, where: str) -> tuple[float, tuple[float, float, float]]:
    """``0.53:0,-,0.04`` as a time and a place; what was not seen is NaN."""
    try:
        time, _, rest = text.partition(":")
        place = [float("nan") if word.strip() in ("-", "") else float(word) for word in rest.split(",")]
        if len(place) != 3:
            raise ValueError
        return float(time), (place[0], place[1], place[2])
    except ValueError:
        raise bad_input(where, repr(text), "a time and a place, such as 0.53:0,-,0.04") from None


def _free_name(case: Case, name: str) -> str:
    taken = {t.name for t in case.tracks}
    k = 1
    while (word := name if k == 1 else f"{name} {k}") in taken:
        k += 1
    return word
