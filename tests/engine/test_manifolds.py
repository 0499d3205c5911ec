"""Where two faces meet: the rows of a manifold against the polygon that SciPy intersects from half-planes."""

from __future__ import annotations

import numpy as np
import pytest
from benchmarks.scenes import scene
from hypothesis import assume, given, reject, settings
from hypothesis import strategies as st
from scipy.spatial import ConvexHull, HalfspaceIntersection

from yapa.case import Body, Hull
from yapa.engine.kernels import layout as L
from yapa.engine.kernels.geometry.clipping import BY_DEPTH
from yapa.engine.kernels.geometry.manifold import manifold_of
from yapa.engine.runner import Program

SECOND = np.array([0.0, 1.0])


def prism(sides, radius, height):
    """A regular polygon, and the corners of the prism on it, its own middle at the origin."""
    angle = np.arange(sides) * 2 * np.pi / sides + 0.1
    flat = radius * np.column_stack([np.cos(angle), np.sin(angle)])
    return flat, np.vstack([np.column_stack([flat, np.full(sides, z)]) for z in (-height / 2, height / 2)])


def moved(flat, yaw, place):
    c, s = np.cos(yaw), np.sin(yaw)
    return flat @ np.array([[c, s], [-s, c]]) + place


def shared(one, two):
    """Corners of the intersection of two convex polygons; None if they hardly meet."""
    rows = np.vstack([ConvexHull(one).equations, ConvexHull(two).equations])
    inside = (one.mean(axis=0) + two.mean(axis=0)) / 2
    if (rows[:, :2] @ inside + rows[:, 2]).max() > -0.01:
        return None
    points = HalfspaceIntersection(rows, inside).intersections
    return points[ConvexHull(points).vertices]


def rows_between(sides, yaw, place, most, radius=0.08):
    """Rows of two prisms that stand on each other, and the polygon they share."""
    (flat, lower), (other, upper) = prism(sides[0], 0.1, 0.06), prism(sides[1], radius, 0.04)
    polygon = shared(flat, moved(other, yaw, place))
    if polygon is None:
        reject()
    bodies = {
        "lower": Body(motion="static", shapes=(Hull(kind="hull", points=tuple(map(tuple, lower.tolist())), surface="both"),)),
        "upper": Body(shapes=(Hull(kind="hull", points=tuple(map(tuple, upper.tolist())), surface="both"),), mass=1.0,
                      position=(*place.tolist(), 0.05), orientation=(np.cos(yaw / 2), 0, 0, np.sin(yaw / 2)))}
    program = Program(scene(bodies, duration=1e-3))
    space = program.workspace()
    _, _, start, _ = program.prepare_run(space, None, SECOND, 1e-3, None)
    program.run(None, np.array([0.0]), 1e-3)
    M = np.zeros((L.limits.MAX_CONTACTS, L.manifold.COUNT))
    n, gap = manifold_of.host(0, start, space.scene, space.Q, np.zeros((L.limits.POLYGON_ROWS, L.polygon.COUNT)), M, 1e-6, most)
    assert gap == pytest.approx(0.0, abs=1e-12)
    assert M[:n, 0] == pytest.approx(np.zeros(n), abs=1e-12)
    assert np.abs(M[:n, 3]) == pytest.approx(np.ones(n))
    return M[:n], polygon


places = st.tuples(st.floats(0, 3.0), st.floats(-0.1, 0.1), st.floats(-0.1, 0.1))


@settings(max_examples=40, deadline=None)
@given(st.integers(3, 5), st.integers(3, 5), places)
def test_all_corners_of_the_polygon_that_two_faces_share_are_told(one, two, at):
    rows, polygon = rows_between((one, two), at[0], np.array(at[1:]), L.limits.MAX_CONTACTS)
    steps = np.linalg.norm(polygon - np.roll(polygon, 1, axis=0), axis=1)
    assume(steps.min() > 1e-4)
    assert len(rows) == len(polygon)
    far = np.linalg.norm(rows[:, None, 4:6] - polygon[None], axis=2).min(axis=1)
    assert far.max() < 1e-9
    assert len(np.unique(rows[:, 7].astype(int))) == len(rows)  # each is known by a number of its own
    few, _ = rows_between((one, two), at[0], np.array(at[1:]), L.limits.FEW_CORNERS)
    assert len(few) == min(len(rows), 4)
    assert (few[:, 8] == (1.0 if len(few) < len(rows) else 0.0)).all()  # and it is told where there are more


@settings(max_examples=25, deadline=None)
@given(places)
def test_of_more_corners_than_there_is_room_for_those_go_that_add_least(at):
    rows, polygon = rows_between((9, 8), at[0], 0.3 * np.array(at[1:]), L.limits.MAX_CONTACTS)
    assert len(rows) == min(len(polygon), L.limits.MAX_CONTACTS)
    assert ConvexHull(rows[:, 4:6]).volume >= 0.97 * ConvexHull(polygon).volume  # of points in a plane the volume is the area


@settings(max_examples=15, deadline=None)
@given(places)
def test_in_a_crowd_four_are_enough(at):
    rows, polygon = rows_between((6, 5), at[0], 0.3 * np.array(at[1:]), BY_DEPTH)
    assert len(rows) == 4
    assert ConvexHull(rows[:, 4:6]).volume >= 0.5 * ConvexHull(polygon).volume


def test_faces_that_lie_edge_on_edge_meet_in_no_corner_twice():
    for count in (3, 4, 5, 6):
        flat, _ = prism(count, 0.1, 0.06)
        rows, _ = rows_between((count, count), 0.0, np.array([0.0, 0.0]), L.limits.MAX_CONTACTS, 0.1)
        assert len(rows) == count
        # moved along one edge, that edge still lies on the other's
        edge = (flat[1] - flat[0]) / np.linalg.norm(flat[1] - flat[0])
        rows, polygon = rows_between((count, count), 0.0, 0.02 * edge, L.limits.MAX_CONTACTS, 0.1)
        assert len(rows) == len(polygon)
