"""The largest or smallest number for which targets hold.

The margin of the targets is looked at in 33 points over the range, logarithmic where the number is. Every sign change between
neighbours is
bracketed, by halving, to 1e-4 of the range; a number that must be whole, to neighbours. The outermost place where the targets hold
is the
answer; the other changes stand beside it. Between the points looked at the targets may hold elsewhere: that is said.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass, field
from typing import Any

import numpy as np

from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.case.quantities import label_of, quantity_of
from yapa.case.units import amount_text
from yapa.fitting.explore.sweep import Axis, axis_of
from yapa.fitting.problem.cancel import Cancel
from yapa.fitting.questions.outcomes_at import OutcomesAt

POINTS = 33
"""looked at over the range"""
WIDTH = 1e-4
"""of the range: how closely a change is bracketed"""


@dataclass(frozen=True)
class Change:
    """A place where targets begin or cease to hold: the last number on either side.

    Attributes
    ----------
    holds, fails : numbers next to each other, of which the targets hold at one and not at the other
    """

    holds: float
    fails: float


@dataclass(frozen=True)
class Threshold:
    """The outermost number for which targets hold.

    Attributes
    ----------
    path, unit : of the number
    largest : whether the largest was asked for, else the smallest
    value : the answer; None where the targets hold nowhere that was looked
    at_end : the targets hold up to the end of the range
    changes : every change that was found, in rising order
    nearest, margin : where the targets come nearest to holding, and by how much they fail there [tolerances]
    points, simulations : how many points were looked at, and what it cost
    """

    path: str
    unit: str
    largest: bool
    value: float | None
    at_end: bool
    changes: list[Change] = field(default_factory=list)
    nearest: float = 0.0
    margin: float = 0.0
    points: int = POINTS
    simulations: int = 0

    @property
    def words(self) -> str:
        """A sentence."""
        name = label_of(self.path)
        side = "largest" if self.largest else "smallest"
        if self.value is None:
            return (f"the targets hold nowhere in the range of {name}; nearest at {amount_text(self.nearest, self.unit, '.6g')}, "
                    f"missed by {-self.margin:.3g} tolerances")
        out = f"the {side} {name} for which the targets hold is {amount_text(self.value, self.unit, '.6g')}"
        if self.at_end:
            out += ", the end of its range: widen it if it should go on"
        others = len(self.changes) - (0 if self.at_end else 1)
        if others > 0:
            places = ", ".join(amount_text(0.5 * (c.holds + c.fails), self.unit, ".5g") for c in self.changes
                               if self.at_end or self.value not in (c.holds,))
            out += f"; they also change at {places}"
        return f"{out}. Between the {self.points} points looked at they may hold elsewhere"

    def as_dict(self) -> dict[str, Any]:
        """Return it JSON-ready."""
        return asdict(self) | {"words": self.words}


def threshold(
    case: Case, path: str, targets: Sequence[Target] | None = None, low: float | None = None, high: float | None = None, *,
    largest: bool = True, points: int = POINTS, cancel: Cancel | None = None, threads: int | None = None,
) -> Threshold:
    """Return the largest or smallest number for which targets hold.

    Parameters
    ----------
    case : the case
    path : path of the number; one of the solver profile too
    targets : by default those of the case
    low, high : range [SI units]; by default that of the unknown, or the usual one
    largest : whether the largest is asked for, else the smallest
    points : how many are looked at over the range
    cancel : stops the work where it is set
    threads : runs side by side

    Returns
    -------
    The answer with every change that was found.

    Raises
    ------
    InputError
        If there is no such number or nothing is wanted.
    Cancelled
        If it was stopped.
    """
    axis = axis_of(case, path, low, high)
    outcomes = OutcomesAt(case, case.targets if targets is None else targets, cancel, threads)
    whole = quantity_of(axis.path).whole

    def margins(fractions: Sequence[float]) -> list[float]:
        return outcomes.margins([{axis.path: _number(axis, f, whole)} for f in fractions])

    grid = [float(f) for f in np.linspace(0.0, 1.0, points)]
    if whole:
        grid = _whole_grid(axis, grid)
    found = margins(grid)
    changes = [_bracketed(axis, margins, (grid[k], grid[k + 1]), found[k] >= 0, whole)
               for k in range(len(grid) - 1) if (found[k] >= 0) != (found[k + 1] >= 0)]
    holding = [f for f, m in zip(grid, found, strict=True) if m >= 0]
    best = int(np.argmax(found))
    unit = quantity_of(axis.path).unit
    if not holding:
        return Threshold(axis.path, unit, largest, None, False, changes, _number(axis, grid[best], whole), found[best], len(grid),
                         outcomes.simulations)
    end = grid[-1] if largest else grid[0]
    at_end = (holding[-1] if largest else holding[0]) == end
    value = _number(axis, end, whole) if at_end else (changes[-1] if largest else changes[0]).holds
    return Threshold(axis.path, unit, largest, value, at_end, changes, _number(axis, grid[best], whole), found[best], len(grid),
                     outcomes.simulations)


def _number(axis: Axis, fraction: float, whole: bool) -> float:
    value = float(axis.at(np.array([fraction]))[0])
    return float(round(value)) if whole else min(max(value, axis.low), axis.high)


def _whole_grid(axis: Axis, grid: list[float]) -> list[float]:
    """Fractions of whole numbers, each once."""
    values = sorted({round(_number(axis, f, True)) for f in grid})
    span = np.log(axis.high / axis.low) if axis.log else axis.high - axis.low
    return [float((np.log(v / axis.low) if axis.log else v - axis.low) / span) for v in values]


def _bracketed(axis: Axis, margins: Callable[[Sequence[float]], list[float]], ends: tuple[float, float], first_holds: bool,
               whole: bool
               ) -> Change:
    """A change between two fractions, as closely as it is wanted."""
    a, b = ends
    while b - a > WIDTH and not (whole and _number(axis, b, True) - _number(axis, a, True) <= 1):
        inner = [a + (b - a) * k / 4 for k in (1, 2, 3)]
        holds = [first_holds, *(m >= 0 for m in margins(inner)), not first_holds]
        places = [a, *inner, b]
        k = next(k for k in range(4) if holds[k] != holds[k + 1])
        a, b = places[k], places[k + 1]
    one, two = _number(axis, a, whole), _number(axis, b, whole)
    return Change(one, two) if first_holds else Change(two, one)
