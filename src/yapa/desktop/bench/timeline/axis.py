"""The one time axis that beat strip and traces share."""

from __future__ import annotations

from yapa.session.building.rays import nice_step

LEFT = 64
"""Pixels from a widget's left edge to time zero."""
RIGHT = 16


MARKS = 8
"""about so many numbers stand on the axis"""


def marks(end: float) -> list[float]:
    """Round times of a clip at which a number stands."""
    if end <= 0:
        return [0.0]
    step = nice_step(end / MARKS)
    return [k * step for k in range(int(end / step + 1e-9) + 1)]


def to_pixel(t: float, end: float, width: int) -> float:
    """Where a time stands."""
    return LEFT + (width - LEFT - RIGHT) * t / max(end, 1e-9)


def to_time(x: float, end: float, width: int) -> float:
    """The time at a pixel, within the clip."""
    return min(end, max(0.0, (x - LEFT) * end / max(width - LEFT - RIGHT, 1)))
