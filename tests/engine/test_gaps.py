"""How far shapes are from each other, and when they meet: against distances worked out another way.

The distance between two convex sets of points is that of the origin from their differences: nonnegative least squares over the
weights of the corners, with a heavy row that makes them sum to one.
"""

from __future__ import annotations

import numpy as np
import pytest
from benchmarks.scenes import floor
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq, nnls

from yapa.case import Body, Box, Capsule, Case, Cylinder, Fields, Hull, Plane, Sphere, Surface
from yapa.engine import simulate
from yapa.engine.compile.mass_properties import rotation_matrix
from yapa.engine.runner import Program

HEAVY = 1e4
ROUND = 400
"""Corners of a circle: it is nearer than that to a polygon by r (1 - cos(π/400)), 3e-5 r."""
SHAPES = {
    "sphere": Sphere(kind="sphere", radius=0.05, surface="both"), "box": Box(kind="box", size=(0.1, 0.14, 0.08), surface="both"),
    "capsule": Capsule(kind="capsule", radius=0.03, length=0.12, surface="both"),
    "cylinder": Cylinder(kind="cylinder", radius=0.05, length=0.1, surface="both"),
    "hull": Hull(kind="hull", points=((0.06, 0, 0), (-0.05, 0.04, 0), (0, -0.06, 0.01), (0, 0, 0.07), (0.01, 0.02, -0.05)),
                 surface="both"),
}


def corners(shape):
    """Points whose convex hull, grown by a radius, is the shape."""
    if shape.kind == "sphere":
        return np.zeros((1, 3)), shape.radius
    if shape.kind == "capsule":
        return np.array([[0, 0, -0.5], [0, 0, 0.5]]) * shape.length, shape.radius
    if shape.kind == "box":
        return np.array([[a, b, c] for a in (-1, 1) for b in (-1, 1) for c in (-1, 1)]) * np.array(shape.size) / 2, 0.0
    if shape.kind == "cylinder":
        angle = np.arange(ROUND) * 2 * np.pi / ROUND
        rim = shape.radius * np.column_stack([np.cos(angle), np.sin(angle)])
        return np.vstack([np.column_stack([rim, np.full(ROUND, z)]) for z in (-shape.length / 2, shape.length / 2)]), 0.0
    return np.array(shape.points), 0.0


def distance(one, two):
    """Of the convex hulls of two sets of points."""
    apart = (one[:, None, :] - two[None, :, :]).reshape(-1, 3)
    rows = np.vstack([apart.T, np.full(len(apart), HEAVY)])
    weights, _ = nnls(rows, np.array([0, 0, 0, HEAVY]), maxiter=20 * len(apart))
    return float(np.linalg.norm(apart.T @ weights / weights.sum()))


def placed(shape, place, q):
    points, radius = corners(shape)
    return points @ rotation_matrix(np.asarray(q) / np.linalg.norm(q)).T + np.asarray(place), radius


def body(shape, place, q, **more):
    return Body(shapes=(shape,), position=tuple(place), orientation=tuple((np.asarray(q) / np.linalg.norm(q)).tolist()), **more)


@pytest.mark.parametrize(("one", "two"), [
    ("sphere", "sphere"), ("sphere", "box"), ("sphere", "hull"), ("sphere", "cylinder"), ("sphere", "capsule"),
    ("capsule", "capsule"),
    ("box", "box"), ("box", "hull"), ("hull", "hull"), ("capsule", "box"), ("capsule", "hull"),
])
@settings(max_examples=12, deadline=None)
@given(seed=st.integers(0, 2**31))
def test_the_gap_of_two_bodies_is_the_distance_of_their_points(one, two, seed):
    rng = np.random.default_rng(seed)
    a, b = SHAPES[one], SHAPES[two]
    qa, qb = rng.normal(size=4), rng.normal(size=4)
    way = rng.normal(size=3)
    place = way / np.linalg.norm(way) * rng.uniform(0.12, 0.3)
    (pa, ra), (pb, rb) = placed(a, (0, 0, 0), qa), placed(b, place, qb)
    far = distance(pa, pb) - ra - rb
    assume(far > 1e-3)
    case = Case(surfaces={"both": Surface()}, bodies={"a": body(a, (0, 0, 0), qa), "b": body(b, place, qb)})
    gaps = [gap for _, _, gap in Program(case).start_gaps()]
    if {one, two} <= {"box", "hull"}:  # told apart by the best of their separating planes: no more than the distance
        assert 0.0 < min(gaps) <= far + 1e-9
    else:
        assert min(gaps) == pytest.approx(far, abs=2e-5 if "cylinder" in (one, two) else 1e-7)


@pytest.mark.parametrize("kind", SHAPES)
@settings(max_examples=15, deadline=None)
@given(seed=st.integers(0, 2**31))
def test_the_gap_above_a_plane_is_that_of_the_lowest_point(kind, seed):
    rng = np.random.default_rng(seed)
    q, n = rng.normal(size=4), rng.normal(size=3)
    n /= np.linalg.norm(n)
    points, radius = placed(SHAPES[kind], 0.3 * n, q)
    plane = floor(tuple(n.tolist()))
    gaps = Program(Case(surfaces={"both": Surface()}, bodies={"a": body(SHAPES[kind], 0.3 * n, q), "f": plane})).start_gaps()
    assert [gap for _, _, gap in gaps] == [pytest.approx(float((points @ n).min()) - radius, abs=1e-5)]


@pytest.mark.parametrize("kind", ["sphere", "box", "hull", "cylinder", "capsule"])
@settings(max_examples=10, deadline=None)
@given(seed=st.integers(0, 2**31))
def test_a_ball_meets_what_it_flies_at_when_its_distance_is_gone(kind, seed):
    """Without gravity a ball flies straight: the first root of its distance from the posed shape, less its radius."""
    rng = np.random.default_rng(seed)
    q, way = rng.normal(size=4), rng.normal(size=3)
    way /= np.linalg.norm(way)
    shape, r = SHAPES[kind], 0.02
    points, radius = placed(shape, (0, 0, 0), q)
    side = np.cross(way, rng.normal(size=3))
    start = -0.4 * way + side / np.linalg.norm(side) * rng.uniform(0, 0.02)
    speed = float(rng.uniform(0.5, 20.0))

    def gap(t):
        return distance(points, (start + way * speed * t)[None]) - radius - r

    nearest = 0.4 / speed  # abeam of the shape's own place
    assume(gap(nearest) < -1e-3)
    met = brentq(gap, 0.0, nearest, xtol=1e-12)
    assume(gap(0.0) > 0)
    bodies = {"b": Body(shapes=(Sphere(kind="sphere", radius=r, surface="both"),), position=tuple(start.tolist()),
                        velocity=tuple((way * speed).tolist())),
              "s": body(shape, (0, 0, 0), q, motion="static")}
    case = Case(surfaces={"both": Surface(restitution=0.5)}, bodies=bodies, duration=nearest, fields=Fields(gravity=0.0))
    hits = simulate(case).contacts
    assert len(hits) >= 1
    assert hits[0].time == pytest.approx(met, abs=(2e-5 if kind == "cylinder" else 1e-7) / speed + 1e-9)
    normal = hits[0].normal
    assert float(normal @ way) < 0.0  # it points to where the ball comes from
    assert hits[0].approach == pytest.approx(-speed * float(normal @ way), rel=1e-6)


def test_a_two_sided_plane_is_as_far_from_both_sides():
    """On the other side of a thin sheet a ball is not deep inside a solid."""
    for z in (0.3, -0.3):
        plane = Body(motion="static", shapes=(Plane(kind="plane", side="two_sided", surface="both"),))
        case = Case(surfaces={"both": Surface()}, bodies={"a": body(SHAPES["sphere"], (0, 0, z), (1, 0, 0, 0)), "f": plane})
        assert [gap for _, _, gap in Program(case).start_gaps()] == [pytest.approx(0.25)]
