"""The pairs of shapes that can meet. A module listed in NAMES has

    SERVES                       (kind of a, kind of b, features): the features are points of a that may touch on their own;
                                 VERTICES, as many as a has vertices. Two kinds listed both ways round meet in either order, what
                                 moves first
    TRAITS                       what holds of the pair, of those below
    frame(p, f, X, geo, Q)       of feature ``f`` of pair ``p`` at the states ``X``: gap; normal, from b to a (3); arms from the
                                 bodies' centres of mass to the touching points on a (3) and on b (3), all in world axes
    rolling_radius(p, f, geo, Q) 1/R = 1/R_a + 1/R_b of the curved sides; 0 where flat faces meet

both compiled. Shapes that no module serves pass through each other. Nothing here imports numba: the layout reads NAMES.
"""

NAMES: tuple[str, ...] = (
    "round_plane", "vertex_plane", "rim_plane", "round_round", "sphere_box", "sphere_hull", "sphere_cylinder", "manifold")
"""Modules of this package. A pair is one entry here."""
VERTICES = -1
"""features of a pair: as many as a has vertices"""
PLANE, ROUND, RIM, MANIFOLD, BALLS = "plane", "round", "rim", "manifold", "balls"
"""b is a plane; one contact of balls has a closed form; features that move along a rim; no features but a contact manifold; nothing
but round shapes and planes"""
