"""The parts of a joint fit: every take, and the case's own targets, each a problem whose unknowns stand in one joint vector."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yapa.case.model import Case
from yapa.case.takes import Take
from yapa.case.unknowns import Unknown, to_unit_box
from yapa.fitting.problem.cancel import Cancel
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.problem.result import FitResult
from yapa.motion import Array

OUTLIER_SIGMA = 6.0
"""σ: samples further off after the takes' own fits are outliers, and left out."""


@dataclass
class Part:
    """One take (or, without a take, the targets): its problem and where its unknowns stand in the joint vector."""

    take: Take | None
    problem: FitProblem
    places: np.ndarray
    zeros: slice
    weights: Array


def columns_of(case: Case, free: list[Unknown]) -> tuple[dict[tuple[str | None, str], int], list[Unknown]]:
    """Return the place in the joint vector of every (take or None, path), and the unknown that stands there.

    Parameters
    ----------
    case : with takes
    free : numbers that may change
    """
    columns: dict[tuple[str | None, str], int] = {}
    joint: list[Unknown] = []
    for u in free:
        owners = [take.name for take in case.takes if u.path in take.free_per_take]
        names: list[str | None] = [*owners] if len(owners) == len(case.takes) else [None, *owners]
        for name in names:
            columns[name, u.path] = len(joint)
            joint.append(u)
    return columns, joint


def start_of(case: Case, columns: dict[tuple[str | None, str], int], joint: list[Unknown], singles: list[FitResult]) -> Array:
    """Return where a joint fit begins: shared numbers as means of the takes' own, weighted by 1/σ².

    Parameters
    ----------
    case : with takes
    columns : (take or None, path) → place in the joint vector
    joint : the unknown at every place
    singles : the fit of every take alone
    """
    start = np.zeros(len(joint))
    for (name, path), k in columns.items():
        of_takes = [s.estimates[path] for take, s in zip(case.takes, singles, strict=True)
                if (path in take.free_per_take) == (name is not None) and name in (None, take.name) and path in s.estimates]
        values = np.array([to_unit_box(joint[k], e.value) for e in of_takes])
        weights = np.array([1.0 / max(e.std or 0.0, 1e-9) ** 2 if e.determined and e.std else 1e-12 for e in of_takes])
        start[k] = float(values @ weights / weights.sum()) if len(of_takes) else 0.5
    return start


def parts_of(
    case: Case, columns: dict[tuple[str | None, str], int], singles: list[FitResult], start: Array, cancel: Cancel,
) -> tuple[list[Part], Array]:
    """Return the problems of all takes, and the start with the zeros of their angles behind it.

    Parameters
    ----------
    case : with takes
    columns : (take or None, path) → place in the joint vector
    singles : the fit of every take alone
    start : where the joint fit begins
    cancel : stops the work where it is set
    """
    parts: list[Part] = []
    at = len(start)
    zeros: list[float] = []
    for take, single in zip(case.takes, singles, strict=True):
        problem = FitProblem(case.for_take(take), cancel)
        places = np.array([columns[take.name if u.path in take.free_per_take else None, u.path] for u in problem.unknowns])
        span = slice(at, at + problem.offsets)
        at += problem.offsets
        p = problem.vector(single.values)
        r = problem.residuals(p)
        for e, place in zip(problem.evidence, problem.layout.tracks, strict=True):
            if e.offset is not None and place.angle is not None:  # the zero of an angle that is free: laid on the simulation
                zeros.append(-float(np.median(r[place.angle])) * e.data.sigma_angle)
                p[len(problem.unknowns) + e.offset] = zeros[-1]
        r = problem.residuals(p)
        parts.append(Part(take, problem, places, span, (np.abs(r) <= OUTLIER_SIGMA).astype(float)))
    if case.targets:
        rest = tuple(u for u in case.unknowns if not u.path.startswith("tracks."))
        problem = FitProblem(case.model_copy(update={"tracks": (), "takes": (), "unknowns": rest}), cancel)
        shared = [columns.get((None, u.path), -1) for u in problem.unknowns]
        parts.append(Part(None, problem, np.array(shared), slice(at, at), np.ones(len(problem.residuals(problem.vector())))))
    return parts, np.concatenate([start, _packed(np.array(zeros))])


def _packed(zeros: Array) -> Array:
    """Zeros of angles into the unit box: ±100 rad."""
    return 0.5 + zeros / 200.0


def vector_of(part: Part, x: Array) -> Array:
    """Return the vector of a part's own problem.

    Parameters
    ----------
    part : a take, or the targets
    x : joint vector
    """
    problem = part.problem
    p = np.empty(problem.size)
    p[: len(part.places)] = np.where(part.places >= 0, x[part.places], problem.vector()[: len(part.places)])
    p[len(part.places) :] = (x[part.zeros] - 0.5) * 200.0
    return p


def part_residuals(part: Part, x: Array) -> Array:
    """Return the residuals of a part, outliers weighted zero.

    Parameters
    ----------
    part : a take, or the targets
    x : joint vector
    """
    return part.problem.residuals(vector_of(part, x)) * part.weights
