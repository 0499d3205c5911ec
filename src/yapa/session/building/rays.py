"""Where the pointer looks, and the grid that places are rounded to."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yapa.motion import Array


@dataclass(frozen=True)
class Ray:
    """Where the pointer looks: a place far in front of everything [m], and the unit vector into the picture."""

    origin: Array
    direction: Array

    def at_plane(self, point: Array, normal: Array) -> Array | None:
        """Return where it meets a plane; None where it runs along it.

        Parameters
        ----------
        point : (3,) of the plane [m]
        normal : (3,) unit vector
        """
        along = float(self.direction @ normal)
        return None if abs(along) < 1e-9 else self.origin + float((point - self.origin) @ normal) / along * self.direction

    def along(self, point: Array, axis: Array) -> float | None:
        """Return how far along a line from a point it passes nearest [m]; None where it looks along that line.

        Parameters
        ----------
        point : (3,) of the line [m]
        axis : (3,) unit vector
        """
        turn = float(self.direction @ axis)
        if 1.0 - turn**2 < 1e-6:
            return None
        away = point - self.origin
        return float((turn * (self.direction @ away) - axis @ away) / (1.0 - turn**2))


def nice_step(length: float) -> float:
    """Return the nearest of 1, 2 and 5 times a power of ten.

    Parameters
    ----------
    length : the length [m]
    """
    power = 10.0 ** np.floor(np.log10(max(length, 1e-12)))
    return float(min((m * power for m in (1.0, 2.0, 5.0, 10.0)), key=lambda one: abs(np.log(one / length))))


def on_grid(point: Array, normal: Array, step: float) -> Array:
    """Return a place rounded to a grid along those axes of the world that lie in a face.

    Parameters
    ----------
    point : (3,) the place [m]
    normal : (3,) of the face
    step : of the grid [m]; 0: as it is
    """
    if not step:
        return point
    return np.array([round(c / step) * step if abs(n) < 0.01 else c for c, n in zip(point, normal, strict=True)])
