"""What a fit leaves over that is no noise: signs that the model is not as the recording was.

Three readings. Residuals that hang together from frame to frame: the lag-1 autocorrelation over N residuals of white noise scatters
by 1/√N. Bounces read off the track, each with its speeds and its height: kept restitution e = rebound/approach against the approach
speed, by a line; and the height of the bounces against where radius and support put them. Each is told once it stands four of its
own standard deviations off.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from yapa.case.parameter_path import parse_path
from yapa.fitting.initial.compose import on_the_clock
from yapa.fitting.initial.seen import Guess, ObservedTrack, reconstruct_tracks
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Array

SIGNIFICANCE = 4.0
"""standard deviations from which a pattern is more than chance"""
MIN_SAMPLES = 16
"""Residuals below which nothing is said of their correlation."""
MIN_CORRELATION = 0.12
"""of neighbours, from which a correlation matters"""


def _by_columns(problem: FitProblem, r: Array) -> list[tuple[float, float, int, slice]]:
    """Of every column of every track, Σ r_k r_k+1, Σ r_k², how many residuals that are, and where they stand; gaps left out."""
    out = []
    seen = np.isfinite(problem.residual_times)
    for place in problem.layout.tracks:
        for here in place.every:
            column = r[here][seen[here]]
            out.append((float(column[1:] @ column[:-1]), float(column @ column), len(column), here))
    return out


def autocorrelation(problem: FitProblem, r: Array) -> tuple[float, int]:
    """Return Lag-1 autocorrelation of the noise, pooled over the columns of all tracks, and over how many residuals; gaps left out.

    Each of the P numbers fitted takes something smooth out of N residuals, so theirs is too small by about P/N.

    Parameters
    ----------
    problem : the least-squares problem
    r : residuals in standard deviations
    """
    columns = _by_columns(problem, r)
    top, bottom, count = sum(c[0] for c in columns), sum(c[1] for c in columns), sum(c[2] for c in columns)
    return (top / bottom + problem.size / max(count, 1) if bottom > 0 else 0.0), count


def autocorrelation_factor(problem: FitProblem, r: Array) -> float:
    """Return max(1, (1+ρ)/(1-ρ)), ρ pooled over the columns of all tracks; also where it may be chance, which few samples cannot
    tell.

    Parameters
    ----------
    problem : the least-squares problem
    r : residuals in standard deviations
    """
    rho, count = autocorrelation(problem, r)
    return _factor(rho, count)


def factor_along(problem: FitProblem, r: Array, apart: Array) -> float:
    """Return the factor of each column, weighed by how far two answers are apart there (squares of differences of residuals).

    Parameters
    ----------
    problem : the least-squares problem
    r : residuals in standard deviations
    apart : (N,) differences of two answers in standard deviations
    """
    columns = _by_columns(problem, r)
    weights = np.array([float(apart[here] @ apart[here]) for *_, here in columns])
    lost = problem.size / max(sum(count for _, _, count, _ in columns), 1)
    factors = [_factor(top / bottom + lost if bottom > 0 else 0.0, count) for top, bottom, count, _ in columns]
    return float(weights @ factors / weights.sum()) if weights.sum() > 0 else 1.0


def _factor(rho: float, count: int) -> float:
    rho = min(max(rho, 0.0), 0.98) if count >= MIN_SAMPLES else 0.0
    return (1 + rho) / (1 - rho)


def hangs_together(problem: FitProblem, r: Array, sure: float = SIGNIFICANCE) -> float | None:
    """Return the autocorrelation of residuals, if it is more than chance: ``sure`` of its own deviations off.

    Parameters
    ----------
    problem : the least-squares problem
    r : residuals in standard deviations
    sure : how many of its own standard deviations are more than chance
    """
    rho, count = autocorrelation(problem, r)
    return rho if count >= MIN_SAMPLES and rho > max(MIN_CORRELATION, sure / np.sqrt(count)) else None


def diagnose(problem: FitProblem, values: dict[str, float], r: Array, tracks: Sequence[ObservedTrack]) -> list[str]:
    """Return sentences on what is left over.

    Parameters
    ----------
    problem : the least-squares problem
    values : path → value, SI units
    r : residuals of the tracks, those of outliers zero
    tracks : as they were read before the fit
    """
    out = []
    rho = hangs_together(problem, r)
    if rho is not None:
        out.append(f"what is left over hangs together from frame to frame (correlation {rho:.2f}): the model misses something "
                   "steady, such as a size, a height or a law, or the noise is no white one; the standard deviations are widened")
    moved = {k: v for k, v in values.items() if parse_path(k).section == "tracks"}
    if moved:  # on the clock and axes that the fit has found
        tracks = reconstruct_tracks(problem, [on_the_clock(Guess(problem), k, moved) for k in range(len(problem.tracks))])
    for seen in tracks:
        out += _restitution_by_speed(seen) + _height_of_bounces(seen)
    return out


def _bounces(seen: ObservedTrack) -> list[tuple[float, float, float, float, float]]:
    """Approach, e, σ of e, height of the centre over where it should touch, its σ; of every resolved bounce on the support."""
    if seen.support is None or seen.motion.body(seen.body).kind != "sphere":
        return []
    out = []
    for c in seen.motion.contacts:
        if c.partner != seen.support_body or not c.rebound > 0.2:
            continue
        speed = max(c.speed_std, 1e-4)
        e = c.rebound / c.approach
        height = float(c.position @ seen.support.normal) - seen.support.height
        # two flights with the same σ at their meeting, from speeds v and -e v: √(1 + e²)/(1 + e) of it, 1.2 √2 less than the time's
        flights = c.time_std * (c.approach + c.rebound) / 1.7 * float(np.hypot(1.0, e)) / (1 + e)
        out.append((c.approach, e, float(speed * np.hypot(1.0, e) / c.approach), height,
                    float(np.hypot(0.05 * seen.data.sigma, flights))))
    return out


def _restitution_by_speed(seen: ObservedTrack) -> list[str]:
    rows = np.array(_bounces(seen))
    if len(rows) < 3 or np.ptp(rows[:, 0]) < 0.3:
        return []
    v, e, std = rows[:, 0], rows[:, 1], rows[:, 2]
    A = np.column_stack([np.ones(len(v)), v]) / std[:, None]
    cov = np.linalg.inv(A.T @ A)
    line = cov @ (A.T @ (e / std))
    left = float((((A @ line) - e / std) ** 2).sum()) / max(len(v) - 2, 1)
    sure = abs(line[1]) / np.sqrt(cov[1, 1] * max(left, 1.0))
    if sure < SIGNIFICANCE or abs(line[1]) * np.ptp(v) < 0.01:
        return []
    lo, hi = float(v.min()), float(v.max())
    kept = [line[0] + line[1] * speed for speed in (lo, hi)]
    return [f"the bounces of {seen.body} keep {kept[0]:.3f} of {lo:.2g} m/s and {kept[1]:.3f} of {hi:.2g} m/s: restitution depends "
            "on speed here, and one number cannot say it (try its falloff)"]


def _height_of_bounces(seen: ObservedTrack) -> list[str]:
    rows = np.array(_bounces(seen))
    if len(rows) < 2:
        return []
    height, std = rows[:, 3], rows[:, 4]
    weights = 1 / std**2
    mean = float(height @ weights / weights.sum())
    sure = abs(mean) * np.sqrt(weights.sum())
    if sure < SIGNIFICANCE or abs(mean) < 0.3 * seen.data.sigma:
        return []
    way = "lower" if mean < 0 else "higher"
    return [f"{seen.body} turns round {abs(mean) * 1000:.2g} mm {way} than its size and the height of {seen.support_body} say: "
            "one of them, or the track's zero, is off"]
