"""Convex polytopes: vertices, faces, their planes and the directions of their edges."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from math import pi

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
RIM = 20
"""sides of the prism that stands for a cylinder where it meets another cylinder or a capsule"""


@dataclass(frozen=True)
class Polytope:
    """Vertices (N, 3), faces as loops seen from outside, their planes (F, 4), distinct edge directions (E, 3)."""

    vertices: Array
    loops: tuple[tuple[int, ...], ...]
    planes: Array
    directions: Array

    def edges(self) -> list[tuple[int, int, int, int]]:
        """Return every edge once: its two vertices, the lower first, and the two faces it lies between."""
        faces: dict[tuple[int, int], list[int]] = {}
        for f, loop in enumerate(self.loops):
            for i, j in zip(loop, (*loop[1:], loop[0]), strict=True):
                faces.setdefault((min(i, j), max(i, j)), []).append(f)
        return [(*ends, around[0], around[-1]) for ends, around in sorted(faces.items())]


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
