"""The pairs of shapes that can meet. An entry of PAIRS names a module of this package, what it serves, and what holds of it.

The module has, compiled,

    frame(p, f, X, geo, Q)       of feature ``f`` of pair ``p`` at the states ``X``: gap; normal, from b to a; arms from the bodies'
                                 centres of mass to the touching points on a and on b: tuples of three, in world axes
    rolling_radius(p, f, geo, Q) 1/R = 1/R_a + 1/R_b of the curved sides; 0 where flat faces meet

Kinds that no entry serves have no contact with each other. Nothing here imports numba: the host reads it as well.
"""

from __future__ import annotations

from typing import NamedTuple

VERTICES = -1
"""features of a pair: as many as a has vertices"""
PLANE, ROUND, RIM, MANIFOLD, BALLS = "plane", "round", "rim", "manifold", "balls"
"""b is a plane; one contact of balls has a closed form; features that move along a rim; no features but a contact manifold; nothing
but round shapes and planes"""


class Pair(NamedTuple):
    """How two kinds of shape meet.

    Attributes
    ----------
    module : name of a module of this package
    serves : (kind of a, kind of b, features): the features are points of a that may touch on their own. Two kinds listed both ways
        round meet in either order, what moves first
    traits : what holds of it
    """

    module: str
    serves: tuple[tuple[str, str, int], ...]
    traits: tuple[str, ...] = ()


PAIRS: tuple[Pair, ...] = (
    Pair("round_plane", (("sphere", "plane", 1), ("capsule", "plane", 2)), (PLANE, ROUND, BALLS)),
    Pair("vertex_plane", (("box", "plane", VERTICES), ("hull", "plane", VERTICES)), (PLANE,)),
    Pair("rim_plane", (("cylinder", "plane", 8),), (PLANE, RIM)),
    Pair("round_round", (("sphere", "sphere", 1), ("sphere", "capsule", 1), ("capsule", "capsule", 1)), (ROUND, BALLS)),
    Pair("sphere_box", (("sphere", "box", 1),), (ROUND,)),
    Pair("sphere_hull", (("sphere", "hull", 1),), (ROUND,)),
    Pair("sphere_cylinder", (("sphere", "cylinder", 1),), (ROUND,)),
    Pair("round_polytope", tuple((a, b, 0) for a in ("capsule", "cylinder") for b in ("box", "hull")), (MANIFOLD,)),
    Pair("manifold", tuple((a, b, 0) for a in ("box", "hull") for b in ("box", "hull")), (MANIFOLD,)),
    Pair("prism", (("cylinder", "cylinder", 0), ("capsule", "cylinder", 0)), (MANIFOLD,)),
)
"""Every pair. A pair is one line here."""
