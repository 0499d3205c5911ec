"""A velocity as speed, elevation above the level and azimuth about z from x on, and back."""

from __future__ import annotations

from collections.abc import Sequence
from math import atan2, cos, hypot, sin, sqrt


def parts_of(speed: float, elevation: float, azimuth: float) -> list[float]:
    """Return a velocity by its parts [m/s].

    Parameters
    ----------
    speed : [m/s]
    elevation, azimuth : [rad]
    """
    return [speed * cos(elevation) * cos(azimuth), speed * cos(elevation) * sin(azimuth), speed * sin(elevation)]


def angles_of(velocity: Sequence[float]) -> tuple[float, float, float]:
    """Return speed [m/s], elevation and azimuth [rad] of a velocity.

    Parameters
    ----------
    velocity : its parts [m/s]
    """
    x, y, z = (float(c) for c in velocity)
    return sqrt(x * x + y * y + z * z), atan2(z, hypot(x, y)), atan2(y, x)
