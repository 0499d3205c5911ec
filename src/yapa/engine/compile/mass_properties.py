"""Mass properties of shapes: volume, centre of mass, moments of inertia; vertices, faces and edge directions.

Solid shapes have uniform density, thin shells uniform mass per area. A hull's integrals are sums
over its triangles: of the tetrahedra they make with the origin (solid) or of the triangles
themselves (shell); the covariance of a simplex with vertices p_i of weight w is
w/(k(k+1)) (Σ p_i p_iᵀ + (Σ p_i)(Σ p_i)ᵀ), k its number of vertices. Bodies of several shapes add
up by the parallel-axis theorem. (Mirtich 1996; any text on mechanics for the closed forms.)
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from math import pi

import numpy as np

from yapa.case.scene import Box, Capsule, Cylinder, Hull, Posed, Sphere
from yapa.motion import Array

RIM = 20
"""Sides of the prism that stands for a cylinder where it meets anything but planes and spheres."""


@dataclass(frozen=True)
class Solid:
    """Volume (or area of a shell), centre, and moments of inertia about the centre for unit measure."""

    measure: float
    centre: Array
    inertia: Array


@dataclass(frozen=True)
class Polytope:
    """Vertices (N, 3), faces as loops seen from outside, their planes (F, 4), distinct edge directions (E, 3)."""

    vertices: Array
    loops: tuple[tuple[int, ...], ...]
    planes: Array
    directions: Array


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


def _sphere(s: Sphere, shell: bool) -> Solid:
    r = s.radius
    i = (2 / 3 if shell else 2 / 5) * r * r
    return Solid(4 * pi * r * r if shell else 4 / 3 * pi * r**3, np.zeros(3), np.diag([i, i, i]))


def _box(s: Box, shell: bool) -> Solid:
    a, b, c = (e / 2 for e in s.size)
    if not shell:
        return Solid(8 * a * b * c, np.zeros(3), np.diag([b * b + c * c, a * a + c * c, a * a + b * b]) / 3)
    half, areas = (a, b, c), (b * c, a * c, a * b)
    second = [sum(area / sum(areas) * half[k] ** 2 * (1.0 if k == axis else 1 / 3) for axis, area in enumerate(areas))
              for k in range(3)]
    return Solid(8 * sum(areas), np.zeros(3), np.diag([sum(second) - v for v in second]))


def _cylinder(s: Cylinder, shell: bool) -> Solid:
    r, h = s.radius, s.length
    if not shell:
        across = (3 * r * r + h * h) / 12
        return Solid(pi * r * r * h, np.zeros(3), np.diag([across, across, r * r / 2]))
    side, caps = 2 * pi * r * h, 2 * pi * r * r
    total = side + caps
    across = (side * (r * r / 2 + h * h / 12) + caps * (r * r / 4 + h * h / 4)) / total
    return Solid(total, np.zeros(3), np.diag([across, across, (side * r * r + caps * r * r / 2) / total]))


def _capsule(s: Capsule, shell: bool) -> Solid:
    r, h = s.radius, s.length
    if not shell:
        tube, ball = pi * r * r * h, 4 / 3 * pi * r**3
        total = tube + ball
        along = (tube * r * r / 2 + ball * 2 / 5 * r * r) / total
        # half balls: centre of each 3/8 r beyond its end of the tube
        ends = 2 / 5 * r * r - (3 / 8 * r) ** 2 + (h / 2 + 3 / 8 * r) ** 2
        across = (tube * (3 * r * r + h * h) / 12 + ball * ends) / total
        return Solid(total, np.zeros(3), np.diag([across, across, along]))
    tube, ball = 2 * pi * r * h, 4 * pi * r * r
    total = tube + ball
    along = (tube * r * r + ball * 2 / 3 * r * r) / total
    ends = 2 / 3 * r * r - (r / 2) ** 2 + (h / 2 + r / 2) ** 2
    across = (tube * (r * r / 2 + h * h / 12) + ball * ends) / total
    return Solid(total, np.zeros(3), np.diag([across, across, along]))


def _hull(s: Hull, shell: bool) -> Solid:
    body = polytope_of_points(s.points)
    triangles = [(loop[0], loop[k], loop[k + 1]) for loop in body.loops for k in range(1, len(loop) - 1)]
    v = body.vertices[np.array(triangles)]
    if shell:
        weights = 0.5 * np.linalg.norm(np.cross(v[:, 1] - v[:, 0], v[:, 2] - v[:, 0]), axis=1)
        corners = v
    else:
        weights = np.einsum("ti,ti->t", v[:, 0], np.cross(v[:, 1], v[:, 2])) / 6
        corners = np.concatenate([v, np.zeros((len(v), 1, 3))], axis=1)
    k = corners.shape[1]
    total = float(weights.sum())
    sums = corners.sum(axis=1)
    centre = (weights @ sums) / (k * total)
    second = np.einsum("t,tki,tkj->ij", weights, corners, corners) + np.einsum("t,ti,tj->ij", weights, sums, sums)
    second = second / (k * (k + 1) * total) - np.outer(centre, centre)
    return Solid(total, centre, np.trace(second) * np.eye(3) - second)


_SOLIDS: dict[str, Callable[..., Solid]] = {
    "sphere": _sphere, "box": _box, "capsule": _capsule, "cylinder": _cylinder, "hull": _hull}


def solid_of(shape: Posed, shell: bool) -> Solid:
    """Return mass properties of a shape in its body's axes.

    Parameters
    ----------
    shape : the shape
    shell : whether its mass lies in its surface
    """
    own = _SOLIDS[shape.kind](shape, shell)  # type: ignore[attr-defined]
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


def _with_directions(vertices: Array, loops: list[tuple[int, ...]]) -> Polytope:
    planes: list[list[float]] = []
    directions: list[Array] = []
    for loop in loops:
        p = vertices[list(loop)]
        n = np.cross(p[1:-1] - p[0], p[2:] - p[0]).sum(axis=0)
        n = n / np.linalg.norm(n)
        planes.append([*n, float(np.mean(p @ n))])
        for a, b in zip(loop, (*loop[1:], loop[0]), strict=True):
            e = vertices[b] - vertices[a]
            e = e / np.linalg.norm(e)
            if not any(abs(abs(e @ d) - 1) < 1e-9 for d in directions):
                directions.append(e)
    return Polytope(vertices, tuple(loops), np.array(planes), np.array(directions))


def polytope_of_box(half: Array) -> Polytope:
    """Return vertex k has the signs of the bits of k along x, y, z.

    Parameters
    ----------
    half : (3,) half edges [m]
    """
    v = np.array([[half[c] if k >> c & 1 else -half[c] for c in range(3)] for k in range(8)])
    loops: list[tuple[int, ...]] = [(0, 4, 6, 2), (1, 3, 7, 5), (0, 1, 5, 4), (2, 6, 7, 3), (0, 2, 3, 1), (4, 5, 7, 6)]
    return _with_directions(v, loops)


def polytope_of_cylinder(radius: float, length: float) -> Polytope:
    """Return a prism of :data:`RIM` sides inscribed in the cylinder.

    Parameters
    ----------
    radius : [m]
    length : [m]
    """
    angle = 2 * pi * np.arange(RIM) / RIM
    ring = np.column_stack([radius * np.cos(angle), radius * np.sin(angle)])
    v = np.vstack([np.column_stack([ring, np.full(RIM, -length / 2)]), np.column_stack([ring, np.full(RIM, length / 2)])])
    loops = [tuple(reversed(range(RIM))), tuple(range(RIM, 2 * RIM))]
    loops += [(k, (k + 1) % RIM, RIM + (k + 1) % RIM, RIM + k) for k in range(RIM)]
    return _with_directions(v, loops)


@lru_cache(maxsize=256)
def polytope_of_points(points: tuple[tuple[float, float, float], ...]) -> Polytope:
    """Return the convex hull with its coplanar triangles joined to faces.

    Parameters
    ----------
    points : (N, 3) [m]
    """
    from scipy.spatial import ConvexHull

    p = np.array(points)
    hull = ConvexHull(p)
    used = np.unique(hull.simplices)
    vertices = p[used]
    size = float(np.ptp(vertices, axis=0).max())
    groups: list[tuple[Array, set[int]]] = []
    for eq, simplex in zip(hull.equations, np.searchsorted(used, hull.simplices), strict=True):
        for normal, members in groups:
            if normal[:3] @ eq[:3] > 1 - 1e-9 and abs(normal[3] - eq[3]) < 1e-9 * size:
                members.update(simplex.tolist())
                break
        else:
            groups.append((eq, set(simplex.tolist())))
    loops = []
    for eq, members in groups:
        rows = sorted(members)
        middle = vertices[rows].mean(axis=0)
        a = vertices[rows[0]] - middle
        a = a / np.linalg.norm(a)
        b = np.cross(eq[:3], a)
        angles = [float(np.arctan2((vertices[r] - middle) @ b, (vertices[r] - middle) @ a)) for r in rows]
        loops.append(tuple(r for _, r in sorted(zip(angles, rows, strict=True))))
    return _with_directions(vertices, loops)


def transformed(body: Polytope, R: Array, shift: Array) -> Polytope:
    """Return a polytope turned and shifted.

    Parameters
    ----------
    body : the polytope
    R : (3, 3) rotation matrix
    shift : (3,) [m]
    """
    planes = body.planes[:, :3] @ R.T
    return Polytope(body.vertices @ R.T + shift, body.loops, np.column_stack([planes, body.planes[:, 3] + planes @ shift]),
                    body.directions @ R.T)
