"""What the commands print and write: tables on the screen, JSON in files."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import asdict
from typing import TYPE_CHECKING, Any

from yapa.cli.streams import say, words_to_stderr

if TYPE_CHECKING:
    from yapa.case.unknowns import Estimate
    from yapa.fitting import FitResult
    from yapa.fitting.problem.result import TargetReport
    from yapa.fitting.tables.report import TableReport
    from yapa.fitting.targets.solutions import Solutions

MAX_LEVELS = 40
"""levels of a table of trials that are printed"""


def motion_dict(motion: Any, outcomes: dict[str, Any]) -> dict[str, Any]:
    """Return a motion and its outcomes as plain data for JSON.

    Parameters
    ----------
    motion : simulated or measured motion
    outcomes : body → name → outcome
    """
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
    """What the simulation could not do well.

    Parameters
    ----------
    motion : simulated or measured motion
    """
    for remark in motion.remarks:
        say(f"{remark.severity}: {remark}")


def print_table(columns: list[tuple[str, bool]], rows: list[list[str]]) -> None:
    """Print rows under heads; a head is a word and whether its column stands to the right.

    Parameters
    ----------
    columns : head of each column, and whether it is set to the right
    rows : rows of numbers
    """
    from rich.console import Console
    from rich.table import Table

    table = Table(box=None, pad_edge=False, padding=(0, 2, 0, 0))
    for name, right in columns:
        table.add_column(name, justify="right" if right else "left", no_wrap=not name.startswith("why"))
    for row in rows:
        table.add_row(*row)
    wide = None if Console().is_terminal else 140
    Console(stderr=words_to_stderr(), width=wide, markup=False, emoji=False, highlight=False).print(table)


def outcome_tables(outcomes: dict[str, Any], theory: dict[str, Any] | None = None) -> None:
    """Print the outcomes of every body, beside what theory says where it does.

    Parameters
    ----------
    outcomes : body → name → outcome
    theory : body → name → prediction of a closed form
    """
    from yapa.api import as_shown, spec_of

    for body, rows in outcomes.items():
        out = []
        predictions = (theory or {}).get(body, {})
        for name, r in rows.items():
            unit = spec_of(name).unit
            spread = f"± {as_shown(r.std, unit)[0]:.2g}" if r.std else ""
            row = [name, "–" if r.value is None else f"{as_shown(r.value, unit)[0]:.5g}", spread, as_shown(0.0, unit)[1]]
            if predictions:
                p = predictions.get(name)
                gap = "" if p is None or r.value is None else f"{as_shown(r.value - p.value, unit)[0]:+.2g}"
                row += ["" if p is None else f"{as_shown(p.value, unit)[0]:.5g}", gap, "" if p is None else p.form]
            out.append([*row, r.missing or ""])
        extra = [("theory", True), ("gap", True), ("", False)] if predictions else []
        print_table([(body, False), ("value", True), ("", False), ("", False), *extra, ("why not", False)], out)


def contact_table(motion: Any) -> None:
    """Print the first twenty contacts.

    Parameters
    ----------
    motion : simulated or measured motion
    """
    rows = [[f"{c.time:.5f}", f"± {c.time_std:.5f}" if c.time_std else "", c.body, c.partner, f"{c.approach:.4g}",
             f"{c.rebound:.4g}"] for c in list(motion.contacts)[:20]]
    print_table([("contact at s", True), ("", False), ("body", False), ("on", False), ("approach m/s", True),
            ("rebound m/s", True)], rows)


def book_tables(motion: Any, bodies: list[str]) -> None:
    """Energy and momentum of contacts and between them.

    Parameters
    ----------
    motion : simulated or measured motion
    bodies : bodies by name
    """
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
    """Return plain data with null in place of what is no number.

    Parameters
    ----------
    data : plain JSON data
    """
    if isinstance(data, dict):
        return {k: finite(v) for k, v in data.items()}
    if isinstance(data, list):
        return [finite(v) for v in data]
    return None if isinstance(data, float) and not math.isfinite(data) else data


def target_lines(reports: Sequence[TargetReport], where: str = "") -> None:
    """Print targets, a line each: what is wanted, what it is, and whether that meets it.

    Parameters
    ----------
    reports : of the targets
    where : whose motion it is, in front of each
    """
    from yapa.api import amount_text

    for t in reports:
        now = "does not happen" if t.now is None else amount_text(t.now, t.target.unit)
        say(f"{where}target {t.target.label}: wanted {t.target.wanted}, now {now}, {'met' if t.met else f'missed {t.how_missed}'}")


def target_dicts(reports: Sequence[TargetReport]) -> list[dict[str, Any]]:
    """Return targets as plain data for JSON.

    Parameters
    ----------
    reports : of the targets
    """
    return [{"target": t.target.label, "wanted": t.target.wanted, "now": t.now, "met": t.met, "miss": t.miss, "missing": t.missing}
            for t in reports]


def value_table(values: dict[str, float]) -> None:
    """Print numbers with their units.

    Parameters
    ----------
    values : path → value
    """
    from yapa.api import as_shown, quantity_of

    shown = {path: as_shown(value, quantity_of(path).unit) for path, value in values.items()}
    print_table([("number", False), ("value", True), ("", False)],
                [[path, f"{value:.6g}", unit] for path, (value, unit) in shown.items()])


def trial_table(report: TableReport) -> None:
    """Print a table of trials by level, with what each level left out would have predicted, and what it says.

    Parameters
    ----------
    report : what a fit says of its table
    """
    for scatter in report.scatter:
        levels = [level for level in report.by_level if level.outcome == scatter.outcome]
        paths = list(levels[0].settings)
        unit = f" [{scatter.unit}]" if scatter.unit else ""
        rows = [[*(f"{level.settings[path]:.5g}" for path in paths), str(len(level.rows)), f"{level.measured:.5g}",
                 f"{level.predicted:.5g}",
                 f"{level.residual:+.2g}", f"{level.left_out:.5g}"] for level in levels[:MAX_LEVELS]]
        print_table([*((short(path), True) for path in paths), ("rows", True), (f"measured{unit}", True), ("predicted", True),
                     ("residual", True), ("left out", True)], rows)
        if len(levels) > MAX_LEVELS:
            say(f"… and {len(levels) - MAX_LEVELS} more levels; --json has them all")
    for sentence in report.sentences():
        say(sentence)


def result_table(estimates: dict[str, Estimate], result: FitResult) -> None:
    """Print what a fit found: values, intervals, verdict, targets, findings.

    Parameters
    ----------
    estimates : what the fit found
    result : what the fit found
    """
    from yapa.api import digits

    rows = []
    for name, e in estimates.items():
        interval = f"{'…' if e.low is None else f'{e.low:.5g}'} – {'…' if e.high is None else f'{e.high:.5g}'}"
        value = digits(e.value, e.std) if e.determined else "undetermined"
        rows.append([name, value, f"± {e.std:.2g}" if e.std else "", interval, e.reason or ""])
    print_table([("unknown", False), ("value", True), ("", False), ("95% interval", False), ("why", False)], rows)
    misfit = "no tracks" if result.misfit is None else f"misfit {result.misfit:.3f}"
    say(f"{result.stopped}; {misfit}; {result.simulations} simulations in {result.seconds:.2f} s")
    target_lines(result.targets)
    if result.table is not None:
        trial_table(result.table)
    for finding in result.findings:
        say(f"finding: {finding}")


def cell_of(samples: Any, name: str, k: int) -> str:
    """Return a sample's number as text; empty where the track has no such column.

    Parameters
    ----------
    samples : the samples of a track
    name : its name
    k : row of the sample
    """
    values = getattr(samples, name)
    return "" if values is None else "gap" if values[k] is None else f"{values[k]:.6g}"


def solution_table(found: Solutions) -> None:
    """Every solution that was found, or what came closest, and why there is no more.

    Parameters
    ----------
    found : what the search found
    """
    shown = found.found or [found.closest]
    paths = list(shown[0].values)
    columns = [("", True), *((short(p), True) for p in paths), ("change", True), ("targets", False), ("why this one", False)]
    rows = []
    for k, s in enumerate(shown, start=1):
        met = f"{sum(t.met for t in s.targets)} of {len(s.targets)} met"
        rows.append([str(k), *(f"{s.values[p]:.5g}" for p in paths), f"{s.change:.3f}", met, ", ".join(s.distinguished_by)])
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
    """Return a path as the head of a narrow column: what it is, and of which body.

    Parameters
    ----------
    path : path of the number
    """
    from yapa.api import label_of

    return str(label_of(path).replace(", along", "").replace(", about", ""))
