"""What a fit leaves over: how its numbers go together, and how far each column of a track is off."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from yapa.case.quantities import label_of

if TYPE_CHECKING:
    from yapa.fitting.problem.problem import FitProblem
    from yapa.motion import Array

    Mask = np.ndarray[tuple[int, ...], np.dtype[np.bool_]]

STRONG_CORRELATION = 0.9
"""correlation from which two numbers are said to go together"""


@dataclass(frozen=True)
class ColumnResiduals:
    """Residuals of one column of a track, in standard deviations of its noise.

    Attributes
    ----------
    track, column : name of the track; x, y, z or angle
    count : how many values count
    rms, mean : root mean square and mean
    worst, at : the largest, and the time of its sample [s]
    """

    track: str
    column: str
    count: int
    rms: float
    mean: float
    worst: float
    at: float

    def __str__(self) -> str:
        return (f"{self.track} {self.column}: {self.rms:.3g} σ over {self.count} values, mean {self.mean:+.2g} σ, "
                f"at most {self.worst:+.3g} σ at {self.at:.4g} s")


def column_residuals(problem: FitProblem, r: Array, keep: Array | Mask | None) -> list[ColumnResiduals]:
    """Return the residuals of every column of every track.

    Parameters
    ----------
    problem : the least-squares problem
    r : residuals in standard deviations
    keep : (N,) samples that count; None where all do
    """
    use = np.isfinite(problem.template)
    use = use if keep is None else use & keep
    out = []
    for evidence, layout in zip(problem.evidence, problem.layout.tracks, strict=True):
        names = ["xyz"[column] for column in evidence.columns] + (["angle"] if layout.angle is not None else [])
        for name, at in zip(names, layout.every, strict=True):
            own, times = r[at][use[at]], problem.residual_times[at][use[at]]
            if len(own):
                k = int(np.argmax(np.abs(own)))
                out.append(ColumnResiduals(evidence.data.name, name, len(own), float(np.sqrt(np.mean(own**2))), float(own.mean()),
                                           float(own[k]), float(times[k])))
    return out


def correlations_of(paths: Sequence[str], cov: Array) -> list[tuple[str, str, float]]:
    """Return pairs of unknowns and their correlation, the strongest first.

    Parameters
    ----------
    paths : of the unknowns, in the order of the covariance
    cov : (p, p) their covariance; further rows are left out
    """
    std = np.sqrt(np.maximum(np.diag(cov), 0.0))
    pairs = [(a, b, float(cov[i, j] / (std[i] * std[j]))) for i, a in enumerate(paths) for j, b in enumerate(paths)
             if i < j and std[i] > 0 and std[j] > 0]
    return sorted(pairs, key=lambda pair: -abs(pair[2]))


def together(correlations: Sequence[tuple[str, str, float]]) -> list[str]:
    """Return sentences on numbers that go together.

    Parameters
    ----------
    correlations : pairs of unknowns and their correlation
    """
    return [f"{label_of(a)} and {label_of(b)} go together (correlation {c:+.3f})" for a, b, c in correlations
            if abs(c) > STRONG_CORRELATION]
