"""Orientations as rotation vectors, which are numbers that can be set one by one."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from math import atan2, hypot, sqrt

import numpy as np
import numpy.typing as npt


def normalised(v: tuple[float, ...]) -> tuple[float, ...]:
    """Return a vector of length one.

    Parameters
    ----------
    v : a vector that is not zero
    """
    n = sqrt(sum(c * c for c in v))
    return tuple(c / n for c in v)


def tilt_of(orientation: tuple[float, ...]) -> tuple[float, float, float]:
    """Return an orientation (w, x, y, z) as a rotation vector [rad]: the axis times the angle.

    Parameters
    ----------
    orientation : quaternion (w, x, y, z)
    """
    if not any(orientation[1:]) and orientation[0] > 0:
        return 0.0, 0.0, 0.0
    w, x, y, z = orientation if orientation[0] >= 0 else tuple(-c for c in orientation)
    sine = hypot(x, y, z)
    scale = 2 * atan2(sine, w) / sine if sine > 0 else 0.0
    return round(scale * x, 12), round(scale * y, 12), round(scale * z, 12)


def orientation_of(tilt: Sequence[float]) -> tuple[float, float, float, float]:
    """Return the orientation (w, x, y, z) of a rotation vector [rad].

    Parameters
    ----------
    tilt : rotation vector [rad]
    """
    from scipy.spatial.transform import Rotation  # takes longer to import than a case to read

    w, x, y, z = Rotation.from_rotvec(np.array(tilt, dtype=float)).as_quat(scalar_first=True).tolist()
    return w, x, y, z


def rotation_matrix_of(orientation: Sequence[float]) -> npt.NDArray[np.float64]:
    """Return the rotation matrix (3, 3) of an orientation (w, x, y, z).

    Parameters
    ----------
    orientation : quaternion (w, x, y, z)
    """
    w, x, y, z = orientation
    return _matrix(float(w), float(x), float(y), float(z)).copy()


@lru_cache(maxsize=4096)
def _matrix(w: float, x: float, y: float, z: float) -> npt.NDArray[np.float64]:
    from scipy.spatial.transform import Rotation

    return np.asarray(Rotation.from_quat(np.array([w, x, y, z]), scalar_first=True).as_matrix())
