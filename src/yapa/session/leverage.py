"""How much each piece of evidence says of each number: by how many standard deviations it moves with a small part of a range."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from yapa.case import Case, Target, Unknown, get_number
from yapa.case.unknowns import from_unit_box, to_unit_box
from yapa.engine import simulate
from yapa.errors import YapaError
from yapa.fitting.problem.cancel import Cancel
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.problem.track_residuals import residual_columns
from yapa.fitting.tracks.takes import shown
from yapa.motion import Array
from yapa.outcomes import read_target
from yapa.outcomes.judging import target_body
from yapa.session.remedies import candidates

STEP = 0.002
"""of the range: of the difference"""
SPAN = 0.02
"""of the range: strengths are told for so much"""
FAINT, FULL = 0.1, 1000.0
"""standard deviations of a bar without length, and of a whole one"""
MAX_OFFERED = 3
"""numbers that are offered where nothing is free"""


@dataclass(frozen=True)
class Leverage:
    """The strength of each piece of evidence on each number.

    Attributes
    ----------
    pieces : names of the pieces: tracks, then targets
    of : path → for each piece, by how many standard deviations (tolerances) it moves with 2% of the range
    """

    pieces: tuple[str, ...] = ()
    of: Mapping[str, tuple[float, ...]] = field(default_factory=dict)

    def bars(self, path: str) -> list[tuple[str, float]]:
        """Return the pieces that say anything of a number, each with the length of its bar, 0 to 1, on one logarithmic scale.

        Parameters
        ----------
        path : path of the number
        """
        lengths = [(piece, math.log(max(s, FAINT) / FAINT) / math.log(FULL / FAINT))
                   for piece, s in zip(self.pieces, self.of.get(path, ()), strict=False)]
        return [(piece, min(length, 1.0)) for piece, length in lengths if length > 0]


def leverage_of(case: Case, cancel: Cancel) -> Leverage:
    """Return how much the evidence of a case says of its unknowns, where they stand.

    Parameters
    ----------
    case : the case
    cancel : stops it where it is set

    Raises
    ------
    Cancelled
        If stopping was asked for.
    """
    problem = FitProblem(shown(case), cancel, evaluate_only=True)
    here = _pieces(problem, {})
    of = {}
    for unknown in case.unknowns:
        cancel.raise_if_cancelled()
        step, value = _beside(case, unknown)
        there = _pieces(problem, {unknown.path: value})
        of[unknown.path] = tuple(_strength(there[piece] - now) * SPAN / step for piece, now in here.items())
    return Leverage(tuple(here), of)


def _beside(case: Case, unknown: Unknown) -> tuple[float, float]:
    """A small part of a range, and the value that stands so far beside the present one."""
    u = to_unit_box(unknown, get_number(case, unknown.path))
    step = STEP if u + STEP <= 1.0 else -STEP
    return STEP, from_unit_box(unknown, u + step)


def _pieces(problem: FitProblem, values: Mapping[str, float]) -> dict[str, Array]:
    """Piece of evidence → its residuals [standard deviations, tolerances]."""
    found: dict[str, list[Array]] = {}
    for data, _, column in residual_columns(problem, values):
        found.setdefault(data.name, []).append(column)
    out = {name: np.concatenate(columns) for name, columns in found.items()}
    if problem.targets:
        motion = problem.motion(values)
        for target, body in problem.targets:
            out[target.label] = np.array([read_target(motion, body, target).value_or_surrogate / target.tolerance])
    return out


def _strength(moved: Array) -> float:
    good = moved[np.isfinite(moved)]
    return float(np.sqrt(np.mean(good**2))) if len(good) else 0.0


def greatest(case: Case, target: Target, without: Sequence[str] = ()) -> list[str]:
    """Return the paths of the numbers that move an outcome most, the greatest first: what could be freed for it.

    Parameters
    ----------
    case : the case
    target : the outcome
    without : paths that are not asked for
    """
    body = target_body(case, target)
    locked = {unknown.path: unknown for unknown in case.unknowns}
    offered = [*locked.values(), *(u for u in candidates(case, body) if u.path not in locked)]
    now = read_target(simulate(case), body, target).value_or_surrogate
    moved = []
    for unknown in offered:
        if unknown.path in without:
            continue
        try:
            there = read_target(simulate(case, {unknown.path: _beside(case, unknown)[1]}), body, target).value_or_surrogate
        except YapaError:  # a value that this number cannot have
            continue
        if abs(there - now) > 1e-9:
            moved.append((abs(there - now), unknown.path))
    return [path for _, path in sorted(moved, reverse=True)[:MAX_OFFERED]]
