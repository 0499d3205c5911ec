"""A trial beside the present motion: which numbers differ, which outcomes moved, and by how much."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from yapa.case import Case, label_of, quantity_of
from yapa.case.units import as_shown
from yapa.session.comparison import Comparison
from yapa.session.headline import amount

SAME = 1e-6
"""of a value: what differs by less is the same"""
NOTED = {"m": 1e-4, "s": 1e-4}
"""an outcome that moved by less has not moved, by its unit"""


@dataclass(frozen=True)
class TrialDifference:
    """What a trial has otherwise, as (name, there, here, difference) in words, the largest first."""

    numbers: tuple[tuple[str, str, str, str], ...]
    outcomes: tuple[tuple[str, str, str, str], ...]

    @property
    def words(self) -> str:
        """In one line."""
        parts = [f"{name} {there} → {here}" for name, there, here, _ in self.numbers[:3]]
        more = len(self.numbers) - 3
        parts += [f"and {more} more"] if more > 0 else []
        moved = [f"{name} {by}" for name, _, _, by in self.outcomes[:3]]
        if not parts and not moved:
            return "the same numbers, the same outcomes"
        return " · ".join([", ".join(parts) or "the same numbers", *([", ".join(moved)] if moved else ["no outcome moved"])])


def ranges_of(case: Case) -> dict[str, float]:
    """Return path → how wide the range of each unknown is.

    Parameters
    ----------
    case : the case
    """
    return {u.path: u.high - u.low for u in case.unknowns}


def trial_difference(there: Comparison, here: Comparison, ranges: Mapping[str, float]) -> TrialDifference:
    """Return what differs between a trial and what is shown now.

    Parameters
    ----------
    there : the trial's motion beside the evidence
    here : the present one
    ranges : path → how wide its range is; the largest move of a range comes first
    """
    numbers = []
    for path, now in here.values.items():
        then = there.values.get(path)
        if then is None or abs(now - then) <= SAME * max(abs(now), abs(then), 1e-9):
            continue
        (a, symbol), (b, _) = as_shown(then, quantity_of(path).unit), as_shown(now, quantity_of(path).unit)
        by = f"{b - a:+.3g} {symbol}".strip()
        numbers.append((abs(now - then) / ranges.get(path, max(abs(now), abs(then))), (label_of(path), f"{a:.4g}", f"{b:.4g}", by)))
    old = {(g.body, g.name): g.simulated for g in there.gaps}
    many = len({g.body for g in here.gaps}) > 1
    outcomes = []
    for gap in here.gaps:
        before, after = old.get((gap.body, gap.name)), gap.simulated
        if before is None or after is None or abs(after - before) <= NOTED.get(gap.unit, 0.0):
            continue
        sign = "+" if after > before else "−"
        name = f"{gap.body} {gap.name}" if many else gap.name
        told = name, amount(before, gap.unit), amount(after, gap.unit), f"{sign}{amount(after - before, gap.unit)}"
        outcomes.append((abs(after - before) / max(abs(before), abs(after), 1e-9), told))
    rows = (tuple(row for _, row in sorted(found, reverse=True)) for found in (numbers, outcomes))
    return TrialDifference(*rows)
