"""The apex that follows each contact, along a curve of heights.

Between two knots the height is a cubic, ``z0 + s (c + s (b + s a))`` with ``s`` from 0 to 1. Where it leaves upward (c > 0) and
arrives downward it has one maximum, at the root of its slope, ``s = c / (sqrt(b² - 3 a c) - b)``.
"""

from __future__ import annotations

import math

import numpy as np

from yapa.motion import Array


def apex_after_contacts(curve: Array, contacts: Array, end: float) -> list[tuple[float, float, float]]:
    """Return rise [m], its time [s] and the upward speed [m/s] after each contact.

    Parameters
    ----------
    curve : (N, 4) time, height, upward speed before and after each knot
    contacts : (C, 4) time, height of the centre, how far the normal points up, and separation speed of each contact
    end : end of the motion [s]; a body that still rises there has its apex there

    Notes
    -----
    A contact without a separation speed (NaN, a track does not show it) has rise and speed 0.
    """
    tops: dict[int, tuple[float, float]] = {}
    times = contacts[:, 0]
    for at, height in _maxima(curve):
        i = int(times.searchsorted(at, side="right")) - 1
        if i >= 0 and at < end and (i not in tops or height > tops[i][0]):
            tops[i] = height, at
    out = []
    last_height = float(curve[-1, 1])
    for i, (t, height, slope, rebound) in enumerate(contacts.tolist()):
        if math.isnan(rebound):
            out.append((0.0, t, 0.0))
            continue
        top, when = tops.get(i, (height, t))
        if i not in tops and i + 1 == len(contacts) and end > t and last_height > height:
            top, when = last_height, end
        out.append((max(0.0, top - height), when, rebound * max(0.0, slope)))
    return out


def _maxima(curve: Array) -> list[tuple[float, float]]:
    """Time and height of the maximum of every cubic that has one inside."""
    cell = np.flatnonzero((curve[:-1, 3] > 0.0) & (curve[1:, 2] < 0.0))
    first, second = curve[cell], curve[cell + 1]
    h = second[:, 0] - first[:, 0]
    up, v0, v1 = second[:, 1] - first[:, 1], first[:, 3] * h, second[:, 2] * h
    a, b = v0 + v1 - 2 * up, 3 * up - 2 * v0 - v1
    with np.errstate(divide="ignore", invalid="ignore"):  # two knots at the same time enclose no maximum
        s = v0 / (np.sqrt(np.maximum(b * b - 3 * a * v0, 0.0)) - b)
    return list(zip((first[:, 0] + s * h).tolist(), (first[:, 1] + s * (v0 + s * (b + s * a))).tolist(), strict=True))
