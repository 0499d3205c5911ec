"""The view of a camera as the faces of a pyramid.

With f the way it looks, r the level way to its right, u = r × f, F the focal length and w × h its frame, a point at d from the
camera is in the picture if w/2F d·f ± d·r ≥ 0, h/2F d·f ± d·u ≥ 0 and d·f ≥ 0.
"""

from __future__ import annotations

from typing import cast

import numpy as np

from yapa.case.scene import Camera
from yapa.motion.info import CameraView


def view_of(camera: Camera) -> CameraView:
    """Return place and inward normals of the view of a camera.

    Parameters
    ----------
    camera : the camera
    """
    ahead = np.subtract(camera.aim, camera.position)
    ahead = ahead / np.linalg.norm(ahead)
    right = np.cross(ahead, (0.0, 0.0, 1.0))
    level = float(np.linalg.norm(right))
    right = right / level if level > 1e-9 else np.array([1.0, 0.0, 0.0])
    up = np.cross(right, ahead)
    wide, high = (edge / (2.0 * camera.focal_length) for edge in camera.frame)
    normals = [wide * ahead + right, wide * ahead - right, high * ahead + up, high * ahead - up, ahead]
    faces = tuple(cast("tuple[float, float, float]", tuple((n / np.linalg.norm(n)).tolist())) for n in normals)
    return CameraView(camera.position, faces)
