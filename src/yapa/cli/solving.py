"""Commands that search and doubt: solve, trust, compare."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING

import click

from yapa.cli.places import claim, save_to, say, write_json
from yapa.cli.tables import print_table, result_table
from yapa.cli.waiting import watched
from yapa.cli.words import (
    json_option,
    limit_option,
    load_named,
    outside_option,
    overwrite_option,
    seed_option,
    seeded,
    threads_option,
    with_profile,
    with_targets,
)

if TYPE_CHECKING:
    from yapa.fitting.confidence.robustness import Stepping
    from yapa.fitting.targets.search import Solutions


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--target", "targets", multiple=True, help="a wanted outcome, such as 'apex 2 = 0.42 ± 0.01'; repeatable")
@click.option("--profile", metavar="NAME", help="instead of the case's: precise, or one that `yapa profiles` lists")
@click.option("--most", type=click.IntRange(1, 1000), default=6, show_default=True, help="how many solutions to list")
@seed_option
@threads_option
@limit_option
@click.option("--json", "json_path", type=click.Path(path_type=Path), help="write the solutions here")
@click.option("--save", "save_path", type=click.Path(path_type=Path), help="save the case with the values of one of them")
@click.option("--take", default=1, show_default=True, help="which one to save, from 1")
@outside_option
@overwrite_option
def solve(case: Path, targets: tuple[str, ...], profile: str | None, most: int, seed: int | None, threads: int | None, limit: int,
          json_path: Path | None, save_path: Path | None, take: int, allow_outside: bool, overwrite: bool) -> None:
    """Find values that meet the wanted outcomes: the smallest change first, then others that are different."""
    from yapa import api
    from yapa.errors import bad_input

    claim([case], json_path, save_path)
    loaded = seeded(with_profile(with_targets(load_named(case, allow_outside), targets), profile), seed)
    with watched("searching") as watch:
        found = api.solve(loaded, watch.progress, watch.cancel, most=most, threads=threads, limit=limit)
    if json_path:
        write_json(json_path, found.as_dict())
    _solution_table(found)
    if save_path:
        if not 1 <= take <= len(found.found):
            there = f"from 1 to {len(found.found)}" if found.found else "a search that finds something"
            raise bad_input("--take", str(take), there)
        save_to(save_path, api.with_numbers(loaded, found.found[take - 1].values), case, overwrite)
    sys.exit(watch.exit_code(found.stopped))


def _solution_table(found: Solutions) -> None:
    shown = found.found or [found.closest]
    paths = list(shown[0].values)
    columns = [("", True), *((_short(p), True) for p in paths), ("change", True), ("targets", False), ("why this one", False)]
    rows = []
    for k, s in enumerate(shown, start=1):
        met = f"{sum(t.met for t in s.targets)} of {len(s.targets)} met"
        rows.append([str(k), *(f"{s.values[p]:.5g}" for p in paths), f"{s.change:.3f}", met, ", ".join(s.told_by)])
    print_table(columns, rows)
    word = {"converged": f"{len(found.found)} solutions", "cancelled": "stopped; the best so far",
            "limit reached": "the limit on simulations is reached; the best so far" if found.found else
            f"not found within {found.simulations} simulations, the limit: this is the closest"}.get(
        found.stopped, "not reachable: this is the closest")
    first = "" if found.first is None else f", the first after {found.first}"
    say(f"{word}; {found.simulations} simulations{first}, in {found.seconds:.2f} s")
    if found.most_met is not None:
        values = ", ".join(f"{_short(p)} {v:.5g}" for p, v in found.most_met.values.items())
        say(f"  {sum(t.met for t in found.most_met.targets)} of {len(found.most_met.targets)} can be met, with {values}")
    for line in (*found.why, *found.notes):
        say(f"  {line}")


def _short(path: str) -> str:
    """A path as the head of a narrow column."""
    from yapa.api import label_of

    return label_of(path).split(" · ")[0].replace(", along", "").replace(", about", "")


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--curve", "curves", multiple=True, metavar="PATH", help="an unknown whose profile curve is wanted; repeatable")
@click.option("--count", type=click.IntRange(1, 100_000), default=60, show_default=True, help="slightly varied starts")
@seed_option
@threads_option
@limit_option
@json_option
@outside_option
def trust(case: Path, curves: tuple[str, ...], count: int, seed: int | None, threads: int | None, limit: int,
          json_path: Path | None, allow_outside: bool) -> None:
    """Fit a case and say how far the result holds: what is known only together, what would tell more, at half the step,
    under slightly varied starts, on a take that was left out."""
    from yapa import api

    claim([case], json_path)
    loaded = load_named(case, allow_outside)
    with watched() as watch:
        checked = api.trust(loaded, watch.progress, watch.cancel, curves=curves, count=count, seed=seed,
                            threads=threads, limit=limit)
    if json_path:
        write_json(json_path, checked.as_dict(bool(loaded.targets)))
    result_table(checked.result.estimates, checked.result)
    for line in checked.sentences(bool(loaded.targets))[len(checked.result.estimates) :]:
        say(f"· {line}")
    for curve in checked.curves:
        print_table([(_short(curve.path), True), ("rise", True), *((_short(p), True) for p in curve.others)],
                    [[f"{v:.5g}", f"{rise:.3g}", *(f"{curve.others[p][k]:.5g}" for p in curve.others)]
                     for k, (v, rise) in enumerate(zip(curve.values, curve.rise, strict=True))])
    if checked.stopped != "complete":
        sys.exit(watch.exit_code(checked.stopped))


@click.command()
@click.argument("case", type=click.Path(path_type=Path))
@click.option("--profile", metavar="NAME", help="the stepped profile, if not the case's own")
@click.option("--correct", is_flag=True, help="also find numbers with which the stepped profile gives what precise gives")
@seed_option
@threads_option
@limit_option
@json_option
@outside_option
def compare(case: Path, profile: str | None, correct: bool, seed: int | None, threads: int | None, limit: int,
            json_path: Path | None, allow_outside: bool) -> None:
    """Outcomes of the same numbers in a stepped profile and in precise: the error of the step."""
    from yapa import api
    from yapa.api import Cancelled

    claim([case], json_path)
    loaded = seeded(with_profile(load_named(case, allow_outside), profile), seed)
    found = None
    with watched("comparing") as watch:
        try:
            both = api.compare(loaded, watch.cancel)
            if correct:
                found = api.corrected(loaded, watch.progress, watch.cancel, threads=threads, limit=limit)
        except Cancelled:
            watch.leave_if_stopped()
            raise
    _stepping_table(both)
    if found is not None:
        say("numbers for the stepped profile that give what precise gives:")
        _solution_table(found)
    if json_path:
        write_json(json_path, {"rows": [list(row) for row in both.rows], "moved": both.moved, "notes": list(both.notes),
                               "corrected": None if found is None else found.as_dict()})
    watch.leave_if_stopped()


def _stepping_table(both: Stepping) -> None:
    rows = []
    for name, stepped, precise in both.rows:
        gap = "" if stepped is None or precise is None else f"{stepped - precise:+.3g}"
        rows.append([name, *("–" if v is None else f"{v:.5g}" for v in (stepped, precise)), gap])
    print_table([("outcome", False), ("stepped", True), ("precise", True), ("error of the step", True)], rows)
    for note in both.notes:
        say(note)
