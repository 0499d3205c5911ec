"""The shapes of a compiled case as arrays, each in the principal axes of its body."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np

from yapa.case.scene import Body
from yapa.case.shapes.base import Posed
from yapa.case.shapes.polytope import transformed
from yapa.case.shapes.registry import KINDS
from yapa.engine.compile.mass_properties import quaternion_of, rotation_matrix
from yapa.engine.kernels import layout as L
from yapa.motion import Array

NUMBERS = {kind.name: k for k, kind in enumerate(KINDS)}
"""kind of a shape → its number in the engine"""
SIDES = {"half_space": L.plane_sides.SOLID_BELOW, "one_sided": L.plane_sides.ONE_SIDED, "two_sided": L.plane_sides.TWO_SIDED}


@dataclass
class Geometry:
    """Arrays of all shapes, where each body's part of them is, and the way back to the bodies' own axes.

    ``offsets`` (n, 3): the centre of mass in the body's axes; ``axes`` (n, 4): the principal axes there.
    """

    GF: Array
    GI: np.ndarray
    VT: Array
    FC: Array
    FI: np.ndarray
    LP: np.ndarray
    EI: np.ndarray
    DR: Array
    shapes_of: list[list[int]]
    offsets: Array
    axes: Array

    @property
    def arrays(self) -> tuple[np.ndarray, ...]:
        """In the order of the scene's table."""
        return (self.GF, self.GI, self.VT, self.FC, self.FI, self.LP, self.EI, self.DR)

    def copy(self) -> Geometry:
        """Return a geometry whose numbers may be written over."""
        return Geometry(self.GF.copy(), self.GI, self.VT.copy(), self.FC.copy(), self.FI, self.LP, self.EI, self.DR.copy(),
                         self.shapes_of, self.offsets.copy(), self.axes.copy())

    @classmethod
    def of(cls, bodies: Sequence[Body], surfaces: Sequence[str]) -> Geometry:
        """Return rows for every shape; what stands in them is written by :meth:`fill`.

        Parameters
        ----------
        bodies : bodies by name
        surfaces : index of every surface by name
        """
        GI: list[list[int]] = []
        shapes_of: list[list[int]] = []
        vertices = faces = loops = directions = 0
        VT: list[Array] = []
        FC: list[Array] = []
        DR: list[Array] = []
        FI: list[tuple[int, int]] = []
        LP: list[int] = []
        EI: list[tuple[int, int, int, int]] = []
        for i, body in enumerate(bodies):
            mine = []
            for shape in body.shapes:
                row = [0] * L.shape_int.COUNT
                row[L.shape_int.BODY], row[L.shape_int.KIND] = i, NUMBERS[shape.name]
                row[L.shape_int.SURFACE] = surfaces.index(shape.surface)
                row[L.shape_int.SIDES] = SIDES[getattr(shape, "side", "half_space")]
                body_of = shape.polytope()
                if body_of is not None:
                    edges = body_of.edges()
                    row[L.shape_int.V0 : L.shape_int.NE + 1] = [vertices, len(body_of.vertices), faces, len(body_of.loops),
                                                                directions, len(body_of.directions), len(EI), len(edges)]
                    EI += [(i, j, faces + one, faces + other) for i, j, one, other in edges]
                    VT.append(body_of.vertices)
                    FC.append(body_of.planes)
                    DR.append(body_of.directions)
                    for loop in body_of.loops:
                        FI.append((loops, len(loop)))
                        LP += list(loop)
                        loops += len(loop)
                    vertices += len(body_of.vertices)
                    faces += len(body_of.loops)
                    directions += len(body_of.directions)
                mine.append(len(GI))
                GI.append(row)
            shapes_of.append(mine)
        return cls(
            np.zeros((len(GI), L.shape.COUNT)), np.array(GI, np.int64).reshape(-1, L.shape_int.COUNT), _stacked(VT, 3),
            _stacked(FC, 4),
            np.array(FI or [(0, 0)], np.int64), np.array([LP or [0]], np.int64),
            np.array(EI or [(0, 0, 0, 0)], np.int64), _stacked(DR, 3), shapes_of,
            np.zeros((len(bodies), 3)), np.tile([1.0, 0.0, 0.0, 0.0], (len(bodies), 1)))

    def fill(self, i: int, shapes: list[Posed], centre: Array, axes: Array) -> tuple[float, float]:
        """Write the shapes of a body in its principal axes; how far they reach, and the thinnest half among them.

        Parameters
        ----------
        i : index of the body
        shapes : shapes of the body
        centre : (3,) centre of mass in the body's axes [m]
        axes : (3, 3) principal axes, one a column

        Returns
        -------
        Bounding radius and least half thickness of the body [m].
        """
        reach, thin = 0.0, 1e300
        for s, shape in zip(self.shapes_of[i], shapes, strict=True):
            row = np.zeros(L.shape.COUNT)
            pose = rotation_matrix(shape.orientation)
            at = axes.T @ (np.array(shape.position) - centre)
            R = axes.T @ pose
            row[L.shape.A : L.shape.A + 3] = row[L.shape.B : L.shape.B + 3] = row[L.shape.CENTRE : L.shape.CENTRE + 3] = at
            row[L.shape.CLEAR] = shape.contact_margin
            row[L.shape.BELT : L.shape.BELT + 3] = axes.T @ np.array(shape.surface_velocity)
            row[L.shape.POSE : L.shape.POSE + 4] = quaternion_of(R) if not np.array_equal(R, np.eye(3)) else (1.0, 0.0, 0.0, 0.0)
            read = shape.dimensions()
            bound, half, row[L.shape.RADIUS] = read.bound or 0.0, read.thin or 0.0, read.radius
            if read.normal is not None:
                row[L.shape.B : L.shape.B + 3] = R @ np.array(read.normal)
            if read.segment is not None:
                u = R @ np.array(read.segment)
                row[L.shape.A : L.shape.A + 3], row[L.shape.B : L.shape.B + 3] = at - u, at + u
            if read.half is not None:
                row[L.shape.HALF : L.shape.HALF + 3] = read.half
            body_of = shape.polytope()
            if body_of is not None:
                body_of = transformed(body_of, R, at)
                gi = self.GI[s]
                self.VT[gi[L.shape_int.V0] : gi[L.shape_int.V0] + gi[L.shape_int.NV]] = body_of.vertices
                self.FC[gi[L.shape_int.F0] : gi[L.shape_int.F0] + gi[L.shape_int.NF]] = body_of.planes
                self.DR[gi[L.shape_int.D0] : gi[L.shape_int.D0] + gi[L.shape_int.ND]] = body_of.directions
                if read.bound is None:
                    middle = body_of.vertices.mean(axis=0)
                    row[L.shape.CENTRE : L.shape.CENTRE + 3] = middle
                    bound = float(np.linalg.norm(body_of.vertices - middle, axis=1).max())
                    half = float(-(body_of.planes[:, :3] @ middle - body_of.planes[:, 3]).max())
            row[L.shape.BOUND], row[L.shape.THIN] = bound, half
            self.GF[s] = row
            thin = min(thin, half)
            reach = max(reach, float(np.linalg.norm(row[L.shape.CENTRE : L.shape.CENTRE + 3])) + bound)
        return reach, thin

    def depth(self, j: int, n: Array, S: Array) -> float:
        """Return how far a body reaches from its centre against a direction.

        Parameters
        ----------
        j : index of the body
        n : (3,) unit vector
        S : (n, 16) states of the bodies
        """
        R, most = rotation_matrix(S[j, 3:7]), -1e300
        local = R.T @ n
        for s in self.shapes_of[j]:
            gf, gi = self.GF[s], self.GI[s]
            kind = KINDS[gi[L.shape_int.KIND]]
            if kind.has_corners:
                low = float((self.VT[gi[L.shape_int.V0] : gi[L.shape_int.V0] + gi[L.shape_int.NV]] @ local).min())
            else:
                a, b = gf[L.shape.A : L.shape.A + 3], gf[L.shape.B : L.shape.B + 3]
                low = min(float(a @ local), float(b @ local))
                if kind.has_flat_ends:
                    u = (b - a) / np.linalg.norm(b - a)
                    low -= gf[L.shape.RADIUS] * sqrt(max(0.0, 1.0 - float(u @ local) ** 2))
                else:
                    low -= gf[L.shape.RADIUS]
            most = max(most, -low + gf[L.shape.CLEAR])
        return most


def _stacked(rows: list[Array], width: int) -> Array:
    return np.vstack(rows) if rows else np.zeros((1, width))
