"""σ of a track as an unknown.

The likelihood of n residuals d of one track with one σ is greatest at σ² = Σd²/n whatever the other unknowns; with the
m numbers fitted beside it, shared over all residuals N as m n/N,

    σ² = Σ d² / (n - m n/N),        std(σ) = σ / √(2 (n - m n/N)).

The fit and the noises are found in turn until no σ moves by more than a thousandth. The misfit of a track whose σ is
found is 1 by this, and says nothing.
"""

from __future__ import annotations

import numpy as np

from yapa.case.paths import kind_of
from yapa.case.unknowns import Estimate, Unknown
from yapa.fitting.problem import Problem
from yapa.motion import Array

SETTLED = 1e-3
FINDING = "σ of the track {} was found from how far it scatters, so its misfit of 1 says nothing of the model"


def track_of(unknown: Unknown) -> str:
    """The track whose noise an unknown is."""
    return unknown.path.split(".")[1]


def read_noises(problem: Problem, r: Array, keep: np.ndarray | None = None) -> dict[str, Estimate]:
    """Estimates of every unknown σ from residuals in the present σ; all kept samples count the same."""
    used = np.isfinite(problem.residual_times) if keep is None else np.isfinite(problem.residual_times) & keep
    share = 1.0 - problem.size / max(int(used.sum()), problem.size + 1)
    out = {}
    for unknown in problem.noises:
        angle = kind_of(unknown.path) == "sigma_angle"
        row, squares, count, now = 0, 0.0, 0, 1.0
        for e in problem.evidence:
            places = len(e.rows) * len(e.columns)
            turns = len(e.rows) * (e.data.angle is not None)
            here = slice(row + places, row + places + turns) if angle else slice(row, row + places)
            row += places + turns
            if e.data.name == track_of(unknown):
                now = e.data.sigma_angle if angle else e.data.sigma
                squares += float((r[here][used[here]] ** 2).sum())
                count += int(used[here].sum())
        free = max(count * share, 1.0)
        found = float(np.clip(now * np.sqrt(squares / free), unknown.low, unknown.high))
        std = found / np.sqrt(2 * free)
        out[unknown.path] = Estimate(value=found, std=std, low=max(found - 1.96 * std, 0.0), high=found + 1.96 * std)
    return out


def take_noises(problem: Problem, found: dict[str, Estimate]) -> bool:
    """Weigh the tracks by what was found; whether any σ still moves."""
    moves = False
    for unknown in problem.noises:
        angle = kind_of(unknown.path) == "sigma_angle"
        value = found[unknown.path].value
        for e in problem.evidence:
            if e.data.name == track_of(unknown):
                now = e.data.sigma_angle if angle else e.data.sigma
                moves |= abs(value - now) > SETTLED * now
        problem.set_noise(track_of(unknown), None if angle else value, value if angle else None)
    return moves
