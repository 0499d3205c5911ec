"""Mass properties of bodies: of a shape where it stands, of several shapes together, and principal axes.

What a shape alone has stands with it (``yapa.case.shapes``). Bodies of several shapes add up by the parallel-axis theorem.
"""

from __future__ import annotations

import numpy as np

from yapa.case.shapes.base import Posed, Solid
from yapa.motion import Array


def rotation_matrix(q: tuple[float, ...] | Array) -> Array:
    """Return rotation matrix of a quaternion (w, x, y, z) of any length.

    Parameters
    ----------
    q : quaternion (w, x, y, z)
    """
    w, x, y, z = np.asarray(q, dtype=float) / np.linalg.norm(q)
    return np.array([
        [1 - 2 * (y * y + z * z), 2 * (x * y - w * z), 2 * (x * z + w * y)],
        [2 * (x * y + w * z), 1 - 2 * (x * x + z * z), 2 * (y * z - w * x)],
        [2 * (x * z - w * y), 2 * (y * z + w * x), 1 - 2 * (x * x + y * y)]])


def quaternion_of(R: Array) -> Array:
    """Return unit quaternion (w, x, y, z) of a rotation matrix.

    Parameters
    ----------
    R : (3, 3) rotation matrix
    """
    q = np.array([1 + R[0, 0] + R[1, 1] + R[2, 2], 1 + R[0, 0] - R[1, 1] - R[2, 2],
                  1 - R[0, 0] + R[1, 1] - R[2, 2], 1 - R[0, 0] - R[1, 1] + R[2, 2]])
    k = int(np.argmax(q))
    a = np.sqrt(q[k]) / 2
    f = 1 / (4 * a)
    parts = {
        0: (a, (R[2, 1] - R[1, 2]) * f, (R[0, 2] - R[2, 0]) * f, (R[1, 0] - R[0, 1]) * f),
        1: ((R[2, 1] - R[1, 2]) * f, a, (R[0, 1] + R[1, 0]) * f, (R[0, 2] + R[2, 0]) * f),
        2: ((R[0, 2] - R[2, 0]) * f, (R[0, 1] + R[1, 0]) * f, a, (R[1, 2] + R[2, 1]) * f),
        3: ((R[1, 0] - R[0, 1]) * f, (R[0, 2] + R[2, 0]) * f, (R[1, 2] + R[2, 1]) * f, a)}
    return np.array(parts[k])


def quaternion_product(a: Array, b: Array) -> Array:
    """Return quaternion product, over the last axis.

    Parameters
    ----------
    a : (…, 4) left factor
    b : (…, 4) right factor
    """
    aw, ax, ay, az = np.moveaxis(np.asarray(a), -1, 0)
    bw, bx, by, bz = np.moveaxis(np.asarray(b), -1, 0)
    return np.stack([aw * bw - ax * bx - ay * by - az * bz, aw * bx + ax * bw + ay * bz - az * by,
                     aw * by - ax * bz + ay * bw + az * bx, aw * bz + ax * by - ay * bx + az * bw], axis=-1)


def solid_of(shape: Posed, shell: bool) -> Solid:
    """Return mass properties of a shape in its body's axes.

    Parameters
    ----------
    shape : the shape
    shell : whether its mass lies in its surface
    """
    own = shape.solid(shell)
    R = rotation_matrix(shape.orientation)
    return Solid(own.measure, np.array(shape.position) + R @ own.centre, R @ own.inertia @ R.T)


def combine_mass(solids: list[Solid]) -> Solid:
    """Return one body of several shapes, by the parallel-axis theorem; overlaps count twice.

    Parameters
    ----------
    solids : mass properties of each shape
    """
    total = sum(s.measure for s in solids)
    centre = sum((s.measure * s.centre for s in solids), np.zeros(3)) / total
    inertia = np.zeros((3, 3))
    for s in solids:
        d = s.centre - centre
        inertia += s.measure / total * (s.inertia + (d @ d) * np.eye(3) - np.outer(d, d))
    return Solid(total, centre, inertia)


def principal_axes(inertia: Array) -> tuple[Array, Array]:
    """Return principal moments and the rotation whose columns are their axes; the body's own axes where those will do.

    Parameters
    ----------
    inertia : (3, 3) inertia about the centre of mass [kg m²]
    """
    off = np.abs(inertia - np.diag(np.diag(inertia))).max()
    if off <= 1e-12 * np.abs(inertia).max():
        return np.diag(inertia).copy(), np.eye(3)
    moments, axes = np.linalg.eigh(inertia)
    order = []  # each body axis gets the principal axis nearest to it, so that small changes stay small
    free = list(range(3))
    for k in range(3):
        best = max(free, key=lambda j: abs(axes[k, j]))
        order.append(best)
        free.remove(best)
    axes = axes[:, order]
    axes = axes * np.sign(np.where(np.diag(axes) == 0, 1.0, np.diag(axes)))
    if np.linalg.det(axes) < 0:
        axes[:, 2] = -axes[:, 2]
    return moments[order], axes


