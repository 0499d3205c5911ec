"""Measurement noise: σ of a track as an unknown.

The likelihood of n residuals d of one track with one σ is greatest at σ² = Σd²/n whatever the other unknowns; with the
m numbers fitted beside it, shared over all residuals N as m n/N,

    σ² = Σ d² / (n - m n/N),        std(σ) = σ / √(2 (n - m n/N)).

The fit and the noises are found in turn until no σ moves by more than a thousandth. The misfit of a track whose σ is
found is 1 by this, and says nothing.
"""

from __future__ import annotations

import numpy as np

from yapa.case.parameter_path import parse_path
from yapa.case.quantities import kind_of
from yapa.case.unknowns import Estimate, Unknown
from yapa.fitting.confidence.levels import NORMAL_95
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Array

SIGMA_TOLERANCE = 1e-3
"""of σ: a smaller change moves nothing any more"""
FORGOTTEN = 0.35
"""Correlation of residuals four frames apart up to which they may be noise: what a wrong answer leaves over does so longer."""
CHANGE = 2.5
"""times the σ of the track's own roughness, up to which the residuals of a first answer, which another may still beat, replace
it"""
GREATEST_CHANGE = 6.0
"""the same of an answer that nothing elsewhere has beaten"""
READ_AGAIN = ("σ of the track {} was read from what the fit leaves over ({:.2g} mm; its roughness alone says {:.2g} mm), so its "
              "misfit of 1 says nothing of the model")
FINDING = "σ of the track {} was found from how far it scatters, so its misfit of 1 says nothing of the model"


def track_of(unknown: Unknown) -> str:
    """Return the track whose noise an unknown is.

    Parameters
    ----------
    unknown : the unknown
    """
    return parse_path(unknown.path).owner


def read_noises(problem: FitProblem, r: Array, keep: np.ndarray | None = None) -> dict[str, Estimate]:
    """Return estimates of every unknown σ from residuals in the present σ; all kept samples count the same.

    Parameters
    ----------
    problem : the least-squares problem
    r : residuals in standard deviations
    keep : (N,) samples that count
    """
    used = np.isfinite(problem.residual_times) if keep is None else np.isfinite(problem.residual_times) & keep
    share = 1.0 - problem.size / max(int(used.sum()), problem.size + 1)
    out = {}
    for unknown in problem.noises:
        angle = kind_of(unknown.path) == "sigma_angle"
        squares, count, now = 0.0, 0, 1.0
        for e, place in zip(problem.evidence, problem.layout.tracks, strict=True):
            here = place.angle if angle else place.places
            if here is not None and e.data.name == track_of(unknown):
                now = e.data.sigma_angle if angle else e.data.sigma
                squares += float((r[here][used[here]] ** 2).sum())
                count += int(used[here].sum())
        free = max(count * share, 1.0)
        found = float(np.clip(now * np.sqrt(squares / free), unknown.low, unknown.high))
        std = found / np.sqrt(2 * free)
        out[unknown.path] = Estimate(value=found, std=std, low=max(found - NORMAL_95 * std, 0.0), high=found + NORMAL_95 * std)
    return out


def take_noises(problem: FitProblem, found: dict[str, Estimate]) -> bool:
    """Weigh the tracks by what was found; whether any σ still moves.

    Parameters
    ----------
    problem : the least-squares problem
    found : estimate of every unknown σ, by path

    Returns
    -------
    Whether any σ still moves.
    """
    moves = False
    for unknown in problem.noises:
        angle = kind_of(unknown.path) == "sigma_angle"
        value = found[unknown.path].value
        for e in problem.evidence:
            if e.data.name == track_of(unknown):
                now = e.data.sigma_angle if angle else e.data.sigma
                moves |= abs(value - now) > SIGMA_TOLERANCE * now
        problem.set_sigma(track_of(unknown), None if angle else value, value if angle else None)
    return moves


def read_again(problem: FitProblem, r: Array, most: float = CHANGE) -> bool:
    """Read the σ that nobody told from the residuals of a first answer, where those look like noise; whether any has changed.

    Third differences see only the part of noise that changes from frame to frame: of noise that hangs together (ρ = 0.6) half.

    Parameters
    ----------
    problem : the least-squares problem
    r : residuals in standard deviations
    most : greatest factor by which a σ may exceed the one read before the fit

    Returns
    -------
    Whether any has changed.
    """
    changed = False
    seen = np.isfinite(problem.residual_times)
    for e, place, track in zip(list(problem.evidence), problem.layout.tracks, problem.case.tracks, strict=True):
        places = [r[here][seen[here]] for here in place.columns]
        turns = None if place.angle is None else r[place.angle][seen[place.angle]]
        if any(track_of(u) == e.data.name for u in problem.noises):
            continue
        first = next(d for d in problem.tracks if d.name == e.data.name)
        for columns, now, assumed, angle in (([] if track.sigma else places, e.data.sigma, first.sigma, False),
                                          ([turns] if turns is not None and not track.sigma_angle else [], e.data.sigma_angle,
                                           first.sigma_angle, True)):
            ratio, count = _scatter(columns), sum(len(c) for c in columns)
            found = now * ratio * float(np.sqrt(count / max(count - problem.size, 1))) if ratio is not None else now
            if 0.01 * assumed < found < assumed * most and not 0.95 < found / now < 1.05:
                problem.set_sigma(e.data.name, None if angle else found, found if angle else None)
                changed = True
    return changed


def _scatter(columns: list[Array]) -> float | None:
    """σ of residuals that look like noise, of those within four of it; None where they do not."""
    columns = [c for c in columns if len(c) >= 12 and np.any(c)]
    if not columns:
        return None
    middled = [np.clip(c, *(np.median(c) + 4.45 * np.array([-1, 1]) * max(float(np.median(np.abs(c - np.median(c)))), 1e-12)))
               for c in columns]
    top = sum(float(c[4:] @ c[:-4]) for c in middled)
    bottom = sum(float(c @ c) for c in middled)
    if bottom <= 0 or top > FORGOTTEN * bottom:
        return None
    squares = np.concatenate(columns) ** 2
    for _ in range(3):  # without what stands off
        squares = squares[squares < 16.0 * max(float(np.median(squares)) * 2.198, 1e-300)]
    return float(np.sqrt(squares.mean())) if len(squares) else None


def noises_read_again(problem: FitProblem) -> list[str]:
    """Return sentences on every σ that was.

    Parameters
    ----------
    problem : the least-squares problem
    """
    out = []
    for e in problem.evidence:
        first = next(d for d in problem.tracks if d.name == e.data.name)
        if not e.data.sigma_given and e.data.sigma != first.sigma:
            out.append(READ_AGAIN.format(e.data.name, 1000 * e.data.sigma, 1000 * first.sigma))
    return out
