"""Smoothing by local polynomials: the value and the slope of the least-squares polynomial through the samples around each.

A. Savitzky, M. J. E. Golay, Anal. Chem. 36, 1627 (1964). SciPy has it too, but takes longer to import than all else that a
measurement needs; a test holds this to it.
"""

from __future__ import annotations

import numpy as np

from yapa.motion import Array


def local_polynomials(x: Array, window: int, order: int, step: float) -> tuple[Array, Array]:
    """Value and slope of evenly spaced columns.

    Parameters
    ----------
    x : (N, C) samples
    window : odd number of samples that each polynomial goes through, at most N; at the ends it is that of the first or last so many
    order : of the polynomials, below ``window``
    step : between samples [s]

    Returns
    -------
    (N, C) smoothed samples, (N, C) their slopes [per s]
    """
    half = window // 2
    at = np.arange(-half, half + 1)
    powers = np.arange(order + 1)
    fit = np.linalg.pinv(at[:, None] ** powers.astype(float))  # samples of a window → coefficients
    windows = np.lib.stride_tricks.sliding_window_view(x, window, axis=0)
    value, slope = np.empty_like(x), np.empty_like(x)
    middle = slice(half, len(x) - half)
    value[middle] = windows @ fit[0]
    slope[middle] = windows @ fit[1] if order else 0.0
    first, last = (slice(None, half), x[:window], at[:half]), (slice(len(x) - half, None), x[-window:], at[half + 1 :])
    for rows, samples, places in (first, last):
        coefficients = fit @ samples
        value[rows] = places[:, None] ** powers.astype(float) @ coefficients
        bend = powers[1:] * places[:, None] ** (powers[1:] - 1.0)
        slope[rows] = bend @ coefficients[1:]
    return value, slope / step
