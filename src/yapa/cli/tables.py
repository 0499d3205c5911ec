"""What the commands print and write: tables on the screen, JSON in files."""

from __future__ import annotations

import math
from dataclasses import asdict
from typing import TYPE_CHECKING, Any

from yapa.cli.places import say, words_to_stderr

if TYPE_CHECKING:
    from yapa.case.unknowns import Estimate
    from yapa.fitting import FitResult
    from yapa.fitting.targets.solutions import Solutions


def motion_dict(motion: Any, outcomes: dict) -> dict[str, Any]:
    """A motion and its outcomes as plain data for JSON."""
    from yapa import api
    from yapa.api import contact_book, flight_book

    book = {body: {"contacts": [asdict(e) for e in contact_book(motion, body)],
                   "flights": [asdict(e) for e in flight_book(motion, body)]} for body in outcomes}
    return {
        "book": finite(book), "status": motion.status, "contacts": api.contact_rows(motion), "notes": list(motion.notes),
        "remarks": [asdict(remark) for remark in motion.remarks],
        "outcomes": {body: {k: api.reading_dict(r) for k, r in rows.items()} for body, rows in outcomes.items()},
    }


def say_remarks(motion: Any) -> None:
    """What the simulation could not do well."""
    for remark in motion.remarks:
        say(f"{remark.weight}: {remark}")


def print_table(columns: list[tuple[str, bool]], rows: list[list[str]]) -> None:
    """Print rows under heads; a head is a word and whether its column stands to the right."""
    from rich.console import Console
    from rich.table import Table

    table = Table(box=None, pad_edge=False, padding=(0, 2, 0, 0))
    for name, right in columns:
        table.add_column(name, justify="right" if right else "left", no_wrap=not name.startswith("why"))
    for row in rows:
        table.add_row(*row)
    wide = None if Console().is_terminal else 140
    Console(stderr=words_to_stderr(), width=wide, markup=False, emoji=False, highlight=False).print(table)


def outcome_tables(outcomes: dict, theory: dict | None = None) -> None:
    """Print the outcomes of every body, beside what theory says where it does."""
    from yapa.api import spec_of

    for body, rows in outcomes.items():
        out = []
        said = (theory or {}).get(body, {})
        for name, r in rows.items():
            spread = f"± {r.std:.2g}" if r.std else ""
            row = [name, "–" if r.value is None else f"{r.value:.5g}", spread, spec_of(name).unit]
            if said:
                p = said.get(name)
                gap = "" if p is None or r.value is None else f"{r.value - p.value:+.2g}"
                row += ["" if p is None else f"{p.value:.5g}", gap, "" if p is None else p.form]
            out.append([*row, r.missing or ""])
        extra = [("theory", True), ("gap", True), ("", False)] if said else []
        print_table([(body, False), ("value", True), ("", False), ("", False), *extra, ("why not", False)], out)


def contact_table(motion: Any) -> None:
    """Print the first twenty contacts."""
    rows = [[f"{c.time:.5f}", f"± {c.time_std:.5f}" if c.time_std else "", c.body, c.partner, f"{c.approach:.4g}",
             f"{c.rebound:.4g}"] for c in list(motion.contacts)[:20]]
    print_table([("contact at s", True), ("", False), ("body", False), ("on", False), ("approach m/s", True),
            ("rebound m/s", True)], rows)


def book_tables(motion: Any, bodies: list[str]) -> None:
    """Energy and momentum of contacts and between them."""
    from yapa.api import contact_book, flight_book

    for body in bodies:
        contacts, flights = contact_book(motion, body)[:20], flight_book(motion, body)[:21]
        each = " of one kilogram" if any(e.assumed for e in flights) else ""
        print_table([(f"{body}: contact at s", True), ("on", False), ("e", True), (f"energy before J{each}", True),
                     ("change J", True), ("momentum along N s", True), ("across N s", True)],
                    [[f"{e.time:.5f}", e.partner, f"{e.restitution:.4g}", f"{e.energy_before:.4g}", f"{e.energy_change:+.4g}",
                      f"{e.momentum_normal:+.4g}", f"{e.momentum_across:.4g}"] for e in contacts])
        print_table([(f"{body}: between s", True), ("and", True), (f"energy of motion J{each}", True),
                     ("change beyond gravity J", True), ("momentum beyond gravity N s", True)],
                    [[f"{e.start:.5f}", f"{e.end:.5f}", f"{e.energy_before:.4g}", f"{e.energy_change:+.3g}",
                      f"{e.momentum_change:.3g}"] for e in flights])


def finite(data: Any) -> Any:
    """Plain data with null in place of what is no number."""
    if isinstance(data, dict):
        return {k: finite(v) for k, v in data.items()}
    if isinstance(data, list):
        return [finite(v) for v in data]
    return None if isinstance(data, float) and not math.isfinite(data) else data


def result_table(told: dict[str, Estimate], result: FitResult) -> None:
    """Print what a fit found: values, intervals, verdict, targets, findings."""
    from yapa.api import digits

    rows = []
    for name, e in told.items():
        interval = f"{'…' if e.low is None else f'{e.low:.5g}'} – {'…' if e.high is None else f'{e.high:.5g}'}"
        value = digits(e.value, e.std) if e.determined else "undetermined"
        rows.append([name, value, f"± {e.std:.2g}" if e.std else "", interval, e.reason or ""])
    print_table([("unknown", False), ("value", True), ("", False), ("95% interval", False), ("why", False)], rows)
    misfit = "no tracks" if result.misfit is None else f"misfit {result.misfit:.3f}"
    say(f"{result.stopped}; {misfit}; {result.simulations} simulations in {result.seconds:.2f} s")
    for t in result.targets:
        now = "does not happen" if t.now is None else f"{t.now:.4g}"
        say(f"target {t.target.label}: wanted {t.target.wanted}, now {now}, "
                   f"{'met' if t.met else 'missed'}")
    for finding in result.findings:
        say(f"finding: {finding}")


def cell_of(samples: Any, name: str, k: int) -> str:
    """A sample's number as text; empty where the track has no such column."""
    values = getattr(samples, name)
    return "" if values is None else "gap" if values[k] is None else f"{values[k]:.6g}"


def solution_table(found: Solutions) -> None:
    """Every solution that was found, or what came closest, and why there is no more."""
    shown = found.found or [found.closest]
    paths = list(shown[0].values)
    columns = [("", True), *((short(p), True) for p in paths), ("change", True), ("targets", False), ("why this one", False)]
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
        values = ", ".join(f"{short(p)} {v:.5g}" for p, v in found.most_met.values.items())
        say(f"  {sum(t.met for t in found.most_met.targets)} of {len(found.most_met.targets)} can be met, with {values}")
    for line in (*found.why, *found.notes):
        say(f"  {line}")


def short(path: str) -> str:
    """A path as the head of a narrow column."""
    from yapa.api import label_of

    return label_of(path).split(" · ")[0].replace(", along", "").replace(", about", "")
