"""Energies of a motion."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yapa.motion.arrays import Array


@dataclass(frozen=True)
class Energy:
    """Energies [J], shape (T, bodies): of moving, of turning, and of height (0 at the origin)."""

    names: tuple[str, ...]
    translational: Array
    rotational: Array
    potential: Array

    @property
    def total(self) -> Array:
        """Of the whole scene, shape (T,)."""
        return np.asarray((self.translational + self.rotational + self.potential).sum(axis=1))


def rotate_to_body(q: Array, v: Array) -> Array:
    """Return vectors (T, 3) turned by the inverse of unit quaternions (T or 1, 4).

    Parameters
    ----------
    q : quaternion (w, x, y, z)
    v : (T, 3) vectors in world axes
    """
    u = -q[:, 1:]
    t = 2 * np.cross(u, v)
    return v + q[:, :1] * t + np.cross(u, t)
