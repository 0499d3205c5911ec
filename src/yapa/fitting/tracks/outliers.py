"""Samples that are no part of the motion: which they may be, where they lie, and the fit without them.

A sample further off than 5 σ (of the residuals, where those scatter more) may be an outlier, unless its neighbours are off too:
three or more frames in a row, two at an end, more than half of those within three of a contact, or all that was seen before the
first contact or after the last are an error of the model and stay in.
Near the answer the others are left out, and the fit and the choice are made in turn until they agree. What is kept counts whole, so
that half the squared misfit stays a likelihood by which answers can be compared.

Answers that leave different samples out are compared by what all samples say of each: half the squared residuals, each capped at
the limit (``capped_cost``).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from yapa.fitting.optimise.jacobian import Point, evaluate
from yapa.fitting.optimise.levenberg_marquardt import LevenbergMarquardt
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Array

HOPELESS = 4.0
"""mean clipped squared residual above which most samples are far off: a cap would hide by how much"""
CLEARLY = 0.01
"""of half the squared residuals: what one answer must be better by"""
OUTLIER_SIGMA = 5.0
"""σ beyond which a sample may be an outlier."""
IN_A_ROW = 3
"""Frames in a row that are off together: no outliers."""
NEAR_FRAMES = 3
"""Frames to both sides of a contact that belong to it."""
MAX_ROUNDS = 10
"""Rounds in which the worst of the frames that had to stay is left out"""
MAX_OUTLIERS = 0.2
"""Share of the samples that may be outliers."""

Mask = NDArray[np.bool_]


@dataclass(frozen=True)
class Spell:
    """Frames of one track that are off together: how many, from when to when [s], and whether they were left out."""

    track: str
    frames: int
    start: float
    end: float
    left_out: bool

    def __str__(self) -> str:
        where = f"at {self.start:.3g} s" if self.frames == 1 else f"{self.start:.3g} – {self.end:.3g} s"
        return f"{self.frames} in a row, {where}" if self.frames > 1 else where


def by_frames(problem: FitProblem, samples: Mask) -> list[Mask]:
    """Return, of every track, which frames have a marked sample in any column.

    Parameters
    ----------
    problem : the least-squares problem
    samples : (R,) marks of the track residuals
    """
    return [np.asarray(samples[place.whole].reshape(-1, place.frames).any(axis=0)) for place in problem.layout.tracks]


def runs_of_frames(off: Mask, seen: Mask) -> list[NDArray[np.intp]]:
    """Return indices of marked frames that follow each other among those that were seen.

    Parameters
    ----------
    off : (F,) marked frames
    seen : (F,) frames in which the body was seen
    """
    at = np.flatnonzero(seen)
    marked = off[at].astype(int)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], marked, [0]])))
    return [at[a:b] for a, b in zip(edges[::2], edges[1::2], strict=True)]


def allowed(problem: FitProblem, far: Mask, contacts: Sequence[Sequence[float]] = ()) -> Mask:
    """Return, of samples that are far off, those that may be outliers.

    Parameters
    ----------
    problem : the least-squares problem
    far : (R,) marks of track residuals
    contacts : of every track, the times [s] of its body's contacts
    """
    out = far.copy()
    seen = np.isfinite(problem.residual_times)
    frames = zip(by_frames(problem, far), by_frames(problem, seen), strict=True)
    for k, (e, (off, there)) in enumerate(zip(problem.evidence, frames, strict=True)):
        never = np.zeros(len(off), bool)
        at = np.flatnonzero(there)
        for run in runs_of_frames(off, there):
            at_an_end = run[0] == at[0] or run[-1] == at[-1]
            never[run] = len(run) >= (2 if at_an_end else IN_A_ROW)
        for time in contacts[k] if k < len(contacts) else ():
            middle = int(np.searchsorted(e.data.t[at], time))
            near = at[max(0, middle - NEAR_FRAMES) : middle + NEAR_FRAMES]
            if len(near) and off[near].mean() > 0.5:
                never[near] = True
            for side in (at[:middle], at[middle:]):
                if 0 < len(side) <= NEAR_FRAMES and off[side].all():
                    never[side] = True  # all that was seen on that side of the contact
        for here in problem.layout.tracks[k].every:
            out[here] &= ~never
    return out


def spells(problem: FitProblem, raw: Array, keep: Mask | None) -> list[Spell]:
    """Return where samples are far off, in the order of time.

    Parameters
    ----------
    problem : the least-squares problem
    raw : (R,) residuals before weights
    keep : (N,) samples that count
    """
    out = []
    scale = _scale(problem, raw)
    seen = np.isfinite(problem.residual_times)
    far = seen & (np.abs(raw[: len(seen)]) > OUTLIER_SIGMA * scale)
    left = np.zeros(len(far), bool) if keep is None else ~keep
    for e, off, there, gone in zip(problem.evidence, *(by_frames(problem, m) for m in (far | left, seen, left)), strict=True):
        stays = [run for run in runs_of_frames(off, there) if not gone[run].all()]
        for run, away in [*((run, True) for run in runs_of_frames(gone, there)), *((run, False) for run in stays)]:
            t = e.data.t[run]
            out.append(Spell(e.data.name, len(run), float(t[0]), float(t[-1]), away))
    return sorted(out, key=lambda spell: spell.start)


def _scale(problem: FitProblem, raw: Array) -> float:
    seen = np.isfinite(problem.residual_times)
    return max(1.0, 1.4826 * float(np.median(np.abs(raw[: len(seen)][seen])))) if seen.any() else 1.0


def capped_cost(problem: FitProblem, r: Array) -> float:
    """Return half the squared residuals of all samples, each capped at the limit; those of targets as they are.

    Parameters
    ----------
    problem : the least-squares problem
    r : residuals in standard deviations
    """
    n = problem.track_residuals
    return 0.5 * float(np.minimum(r[:n] ** 2, OUTLIER_SIGMA**2).sum() + (r[n:] ** 2).sum())


@dataclass(frozen=True)
class Settled:
    """A point that agrees with its own choice of outliers: the weights it was found with, which samples it keeps (None: all),
    and what all samples say of it."""

    point: Point
    weights: Array | None
    keep: Mask | None
    capped: float

    def is_better_than(self, other: Settled) -> bool:
        """Return whether all samples say more of this answer than of another; where neither comes near them, without a cap.

        Parameters
        ----------
        other : the other answer
        """
        if min(self.point.clipped, other.point.clipped) > HOPELESS:
            return self.point.cost < other.point.cost - CLEARLY
        return self.capped < other.capped - CLEARLY


def settle(problem: FitProblem, start: Point, times_of_contacts: Callable[[Array], list[list[float]]], most: int = 15) -> Settled:
    """Leave out what may be left out, and descend, until both agree. The problem is left with the weights that were found.

    All that is far off and may be left out; and where some may not, since one outlier can pull a fit so far that its neighbours
    look like others, once more with the worst frame of those left out as well, one a round. What all samples say decides.

    Parameters
    ----------
    problem : the least-squares problem
    start : where it begins
    times_of_contacts : returns contact times [s] at a point
    most : steps of each descent at most

    Returns
    -------
    The point, its verdict's parts, and how often it was done.
    """
    whole, problem.robust_weights = start if problem.robust_weights is None else None, None
    whole = whole or evaluate(problem, start.p)
    at_once, refused = _settled(problem, whole, times_of_contacts, most, one_by_one=False)
    if refused:
        by_one, _ = _settled(problem, whole, times_of_contacts, most, one_by_one=True)
        if by_one.capped < at_once.capped:
            at_once = by_one
    problem.robust_weights = at_once.weights
    return at_once


def _settled(problem: FitProblem, whole: Point, times_of_contacts: Callable[[Array], list[list[float]]], most: int,
             one_by_one: bool) -> tuple[Settled, bool]:
    """A point with its own choice of outliers, and whether samples that are far off had to stay. It starts with every sample."""
    keep, refused = None, False
    seen = np.isfinite(problem.residual_times)
    picked = np.zeros(len(seen), bool)
    for _ in range(MAX_ROUNDS if one_by_one else 6):
        raw = whole.r[: problem.track_residuals]
        limit = OUTLIER_SIGMA * _scale(problem, raw)
        far = seen & (np.abs(raw) > limit)
        if far.any():
            contacts = times_of_contacts(whole.p)
            may = allowed(problem, far, contacts)
            refused = refused or not np.array_equal(may, far)
            if one_by_one:
                picked = picked & far | _worst_frame(problem, np.where(far & ~may & ~picked, np.abs(raw), 0.0))
                may = allowed(problem, may | picked, contacts)
            far = may
        if not far.any() or far.sum() > MAX_OUTLIERS * seen.sum():
            problem.robust_weights = None
            return Settled(whole, None, None, capped_cost(problem, whole.r)), refused
        again = keep is not None and np.array_equal(keep, ~far)
        keep = ~far
        if again:
            break
        problem.robust_weights = keep.astype(float)
        point = LevenbergMarquardt(most=most).minimise(problem, whole.p).point
        problem.robust_weights = None
        whole = evaluate(problem, point.p)
    assert keep is not None
    problem.robust_weights = keep.astype(float)
    r = whole.r.copy()
    r[: len(keep)] *= problem.robust_weights
    return Settled(Point(whole.p, r, 0.5 * float(r @ r)), problem.robust_weights, keep, capped_cost(problem, whole.r)), refused


def _worst_frame(problem: FitProblem, size: Array) -> Mask:
    """All samples of the frame that stands furthest off; none where all sizes are zero."""
    out = np.zeros(len(size), bool)
    if not size.any():
        return out
    worst = int(np.argmax(size))
    for place in problem.layout.tracks:
        first, end = place.whole.start, place.whole.stop
        if first <= worst < end:
            out[first + (worst - first) % place.frames : end : place.frames] = True
    return out & np.isfinite(problem.residual_times)
