"""The convex hull of some points."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from yapa.case.base import Place
from yapa.case.bounds import MAX_VERTICES
from yapa.case.shapes.base import Array, Dimensions, Posed, Solid
from yapa.case.shapes.polytope import Polytope, polytope_of_points


class Hull(Posed):
    """The convex hull of some points [m]; a hollow between them is filled."""

    name: ClassVar[str] = "hull"
    has_corners: ClassVar[bool] = True

    kind: Literal["hull"]
    points: Annotated[tuple[Place, ...], Field(min_length=4, max_length=MAX_VERTICES)]

    @model_validator(mode="after")
    def _has_volume(self) -> Hull:
        p0 = self.points[0]
        rows = [tuple(a - b for a, b in zip(p, p0, strict=True)) for p in self.points[1:]]
        size = max((abs(c) for row in rows for c in row), default=0.0)
        if size == 0.0 or _greatest_volume(rows) < 1e-9 * size**3:
            raise ValueError("the points lie in one plane; a hull needs a volume")
        return self

    def solid(self, shell: bool) -> Solid:
        """Return volume, centre and moments of inertia in its own axes; of a thin shell its area.

        Sums over its triangles: of the tetrahedra they make with the origin, or of the triangles themselves; the covariance of a
        simplex with vertices p_i of weight w is w/(k(k+1)) (Σ p_i p_iᵀ + (Σ p_i)(Σ p_i)ᵀ), k its number of vertices (Mirtich 1996).

        Parameters
        ----------
        shell : whether its mass lies in its surface
        """
        body = polytope_of_points(self.points)
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

    def dimensions(self) -> Dimensions:
        """Return what contacts read of it: its vertices say it."""
        return Dimensions()

    def reach(self, direction: Array) -> float:
        """Return how far it reaches from its own centre along a direction of its own axes [m].

        Parameters
        ----------
        direction : (3,) unit vector
        """
        return float((np.array(self.points) @ direction).max())

    def extent(self) -> tuple[float, ...]:
        """Return half of how far its points spread."""
        return tuple((np.ptp(np.array(self.points), axis=0) / 2).tolist())

    def polytope(self) -> Polytope:
        """Return its corners and faces."""
        return polytope_of_points(self.points)

    def outline(self) -> Polytope:
        """Return its corners and faces."""
        return polytope_of_points(self.points)


def _greatest_volume(rows: list[tuple[float, ...]]) -> float:
    """The greatest volume any three of the vectors span, found greedily."""
    def cross(a: tuple[float, ...], b: tuple[float, ...]) -> tuple[float, float, float]:
        return (a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0])

    def length(a: tuple[float, ...]) -> float:
        return float(sum(c * c for c in a) ** 0.5)

    longest = max(rows, key=length)
    area = max((cross(longest, row) for row in rows), key=length)
    return max(abs(sum(a * b for a, b in zip(area, row, strict=True))) for row in rows)
