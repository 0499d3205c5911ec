"""The one time axis that beat strip and traces share."""

from __future__ import annotations

LEFT = 64
"""Pixels from a widget's left edge to time zero."""
RIGHT = 16


def to_pixel(t: float, end: float, width: int) -> float:
    """Where a time stands."""
    return LEFT + (width - LEFT - RIGHT) * t / max(end, 1e-9)


def to_time(x: float, end: float, width: int) -> float:
    """The time at a pixel, within the clip."""
    return min(end, max(0.0, (x - LEFT) * end / max(width - LEFT - RIGHT, 1)))
