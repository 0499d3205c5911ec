"""Where the stage is seen from, and how places become pixels. Plain numbers, no widget, no renderer."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from yapa.motion import Array


@lru_cache(maxsize=64)
def _axes(azimuth: float, elevation: float) -> tuple[Array, Array, Array]:
    ca, sa, ce, se = np.cos(azimuth), np.sin(azimuth), np.cos(elevation), np.sin(elevation)
    found = np.array([ca, sa, 0.0]), np.array([-sa * se, ca * se, ce]), np.array([sa * ce, -ca * ce, se])
    for axis in found:
        axis.setflags(write=False)
    return found


@dataclass(frozen=True)
class View:
    """A view turned by ``azimuth`` and ``elevation`` [rad] from side-on (x right, z up).

    ``centre`` is in the middle of the picture, ``half_height`` [m] from the middle to its upper edge, there. With a ``distance``
    [m] from the eye to the centre it is that of a camera; without one, 0, it is parallel.
    """

    centre: tuple[float, float, float]
    half_height: float
    azimuth: float = 0.0
    elevation: float = 0.0
    distance: float = 0.0

    def axes(self) -> tuple[Array, Array, Array]:
        """Right, up and towards-the-eye unit vectors; not to be changed."""
        return _axes(self.azimuth, self.elevation)

    def project(self, points: Array, width: int, height: int) -> Array:
        """Pixels of places, shape (N, 2)."""
        right, up, _ = self.axes()
        d = np.atleast_2d(points) - np.array(self.centre)
        scale: Array | float = height / (2 * self.half_height)
        if self.distance:
            scale = scale * self.distance / np.maximum(self.distance - d @ self.axes()[2], 1e-3 * self.distance)
        return np.column_stack([width / 2 + d @ right * scale, height / 2 - d @ up * scale])

    def ray(self, x: float, y: float, width: int, height: int) -> tuple[Array, Array]:
        """Where a pixel looks: a place far in front of everything, or the eye, and the unit vector into the picture."""
        right, up, eye = self.axes()
        k = 2 * self.half_height / max(height, 1)
        place = np.array(self.centre) + right * (x - width / 2) * k + up * (height / 2 - y) * k
        if not self.distance:
            return place + 1e3 * max(self.half_height, 1.0) * eye, -eye
        at = np.array(self.centre) + self.distance * eye
        return at, (place - at) / np.linalg.norm(place - at)

    def pixels(self, length: float, height: int) -> float:
        """How many pixels a length is."""
        return length * height / (2 * self.half_height)

    def orbited(self, dx: float, dy: float) -> View:
        """Turned by a drag of the mouse, in pixels."""
        return replace(self, azimuth=self.azimuth - dx * 0.008,
                       elevation=float(np.clip(self.elevation + dy * 0.008, -1.5, 1.5)))

    def moved(self, dx: float, dy: float, height: int) -> View:
        """Shifted by a drag, in pixels."""
        right, up, _ = self.axes()
        k = 2 * self.half_height / height
        c = np.array(self.centre) - right * dx * k + up * dy * k
        return replace(self, centre=(float(c[0]), float(c[1]), float(c[2])))

    def zoomed(self, factor: float) -> View:
        """Nearer (factor below 1) or farther."""
        return replace(self, half_height=float(np.clip(self.half_height * factor, 1e-4, 1e4)))

    def zoomed_at(self, factor: float, x: float, y: float, width: int, height: int) -> View:
        """Nearer or farther; what is at a pixel stays there."""
        near = self.zoomed(factor)
        right, up, _ = self.axes()
        k = 2 * (self.half_height - near.half_height) / max(height, 1)
        c = np.array(self.centre) + right * (x - width / 2) * k + up * (height / 2 - y) * k
        return replace(near, centre=(float(c[0]), float(c[1]), float(c[2])))


def through(position: Sequence[float], aim: Sequence[float], high: float, wide: float, width: int, height: int) -> View:
    """The view through a camera, its frame and a little around it; the frame is ``high`` by ``wide`` at a distance of 1."""
    away = np.subtract(position, aim)
    distance = float(np.linalg.norm(away))
    x, y, z = away / distance
    half = 0.5 * distance * max(high, wide * height / max(width, 1)) * 1.08
    at = float(aim[0]), float(aim[1]), float(aim[2])
    return View(at, half, float(np.arctan2(x, -y)), float(np.arcsin(np.clip(z, -1, 1))), distance)


def whole_scene(points: Array, reach: float, width: int, height: int, view: View | None = None) -> View:
    """A view that shows all these places with room around them; keeps the angles of ``view``."""
    base = replace(view or View((0.0, 0.0, 0.0), 1.0), distance=0.0)
    right, up, _ = base.axes()
    low, high = points.min(axis=0), points.max(axis=0)
    centre = 0.5 * (low + high)
    d = points - centre
    spread_x = float(np.abs(d @ right).max()) + 1.5 * reach
    spread_y = float(np.abs(d @ up).max()) + 1.5 * reach
    half = max(spread_y * 1.2, spread_x * 1.2 * height / max(width, 1), 1e-3)
    return replace(base, centre=(float(centre[0]), float(centre[1]), float(centre[2])), half_height=half)


def spread_in_depth(points: Array) -> bool:
    """Whether places lie so far apart in depth (along y) that a side view would hide some behind others."""
    return float(np.ptp(points[:, 1])) > 0.15 * float(np.ptp(points, axis=0).max())


def nice_length(half_height: float) -> float:
    """A round length for the scale bar, about a fifth of the picture."""
    want = half_height * 0.4
    power = 10 ** np.floor(np.log10(want))
    return float(power * max(m for m in (1, 2, 5) if m * power <= want or m == 1))
