"""Shapes as arrays: where they stand in the principal axes, how far they reach, how deep they go along a direction."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from yapa.case import Body, Box, Capsule, Case, Cylinder, Hull, Plane, Sphere
from yapa.engine.compile.geometry import NUMBERS, Geometry
from yapa.engine.compile.mass_properties import rotation_matrix
from yapa.engine.kernels import layout as L
from yapa.engine.runner import Program

POINTS = ((0.1, 0, 0), (-0.1, 0.05, 0), (0, -0.1, 0.02), (0, 0, 0.15), (0.02, 0.03, -0.08))
SHAPES = {
    "sphere": Sphere(kind="sphere", radius=0.07), "box": Box(kind="box", size=(0.2, 0.1, 0.3)),
    "capsule": Capsule(kind="capsule", radius=0.04, length=0.2), "cylinder": Cylinder(kind="cylinder", radius=0.06, length=0.15),
    "hull": Hull(kind="hull", points=POINTS),
}


def program_of(*shapes, **body):
    return Program(Case(bodies={"b": Body(shapes=shapes, mass=1.0, **body)}))


def surface_points(shape, rng, count=4000):
    """Points of a shape's surface, in its own axes."""
    u = rng.normal(size=(count, 3))
    u /= np.linalg.norm(u, axis=1)[:, None]
    if shape.kind == "sphere":
        return shape.radius * u
    if shape.kind == "box":
        return np.sign(u) * np.array(shape.size) / 2  # its corners are what reaches farthest
    if shape.kind == "capsule":
        return shape.radius * u + np.sign(u[:, 2:]) * np.array([0, 0, shape.length / 2])
    if shape.kind == "cylinder":
        flat = u[:, :2] / np.linalg.norm(u[:, :2], axis=1)[:, None]
        return np.column_stack([shape.radius * flat, np.sign(u[:, 2]) * shape.length / 2])
    return np.array(shape.points)


@pytest.mark.parametrize("kind", SHAPES)
@settings(max_examples=15, deadline=None)
@given(seed=st.integers(0, 2**31))
def test_depth_and_reach_are_those_of_the_surfaces_points(kind, seed):
    """The shape posed anywhere in its body, the body turned anyhow; against thousands of points of it."""
    rng = np.random.default_rng(seed)
    q, turned = rng.normal(size=4), rng.normal(size=4)
    shape = SHAPES[kind].model_copy(update={"position": tuple(rng.uniform(-0.2, 0.2, 3).tolist()),
                                            "orientation": tuple((turned / np.linalg.norm(turned)).tolist())})
    program = program_of(shape, Sphere(kind="sphere", radius=0.01), orientation=tuple((q / np.linalg.norm(q)).tolist()))
    state, geometry = program.state[0], program.geometry
    in_body = surface_points(SHAPES[kind], rng) @ rotation_matrix(np.array(shape.orientation)).T + np.array(shape.position)
    world = in_body @ rotation_matrix(q / np.linalg.norm(q)).T  # the body's own origin is at the world's
    n = rng.normal(size=3)
    n /= np.linalg.norm(n)
    small = 0.01 - float(n @ (0 - state[:3]))  # the little sphere at the body's origin
    told = geometry.depth(0, n, program.state)
    assert told == pytest.approx(max(float((-(world - state[:3]) @ n).max()), small), abs=2e-3)
    assert told >= float((-(world - state[:3]) @ n).max()) - 1e-9
    farthest = np.linalg.norm(world - state[:3], axis=1).max()
    assert program.props[0, L.body.REACH] >= farthest - 1e-9


@pytest.mark.parametrize(("shape", "thinnest"), [
    (SHAPES["sphere"], 0.07), (SHAPES["box"], 0.05), (SHAPES["capsule"], 0.04), (SHAPES["cylinder"], 0.06),
])
def test_the_thinnest_half_is_what_a_fast_body_could_pass(shape, thinnest):
    assert program_of(shape).props[0, L.body.THIN] == pytest.approx(thinnest)


def test_principal_axes_turn_the_shapes_and_leave_the_places():
    """A dumbbell along x: its least inertia is about x, so a principal axis is x; both spheres stay where they are."""
    a, b = (Sphere(kind="sphere", radius=0.05, position=(x, 0, 0)) for x in (-0.2, 0.2))
    program = program_of(a, b)
    moments = program.props[0, L.body.INERTIA : L.body.INERTIA + 3]
    assert sorted(moments)[0] == pytest.approx(0.4 * 0.05**2)
    R = rotation_matrix(program.geometry.axes[0])
    places = program.geometry.GF[:2, L.shape.CENTRE : L.shape.CENTRE + 3] @ R.T + program.geometry.offsets[0]
    assert places == pytest.approx(np.array([[-0.2, 0, 0], [0.2, 0, 0]]), abs=1e-12)


def test_rows_know_their_bodies_kinds_and_features():
    plane = Plane(kind="plane", side="two_sided")
    both, hull = (SHAPES["box"], SHAPES["sphere"]), (SHAPES["hull"],)
    bodies = [Body(shapes=both), Body(motion="static", shapes=(plane,)), Body(shapes=hull)]
    surfaces = sorted({shape.surface for body in bodies for shape in body.shapes})
    geometry = Geometry.of(bodies, surfaces)
    assert geometry.shapes_of == [[0, 1], [2], [3]]
    assert geometry.GI[:, L.shape_int.BODY].tolist() == [0, 0, 1, 2]
    assert geometry.GI[:, L.shape_int.KIND].tolist() == [NUMBERS[k] for k in ("box", "sphere", "plane", "hull")]
    assert geometry.GI[2, L.shape_int.SIDES] == L.plane_sides.TWO_SIDED
    assert geometry.GI[0, [L.shape_int.NV, L.shape_int.NF]].tolist() == [8, 6]
    assert geometry.GI[3, L.shape_int.V0] == 8
    assert geometry.GI[3, L.shape_int.NV] == 5
    loops = geometry.FI[geometry.GI[0, L.shape_int.F0] : geometry.GI[0, L.shape_int.F0] + 6]
    assert loops[:, 1].tolist() == [4] * 6  # a box has six faces of four corners
    corners = {int(v) for start, count in loops for v in geometry.LP[0, start : start + count]}
    assert corners == set(range(8))


def test_a_copy_is_written_without_the_first_one_changing():
    geometry = program_of(SHAPES["box"]).geometry
    other = geometry.copy()
    other.fill(0, [Box(kind="box", size=(1.0, 1.0, 1.0))], np.zeros(3), np.eye(3))
    assert np.abs(other.VT).max() == 0.5
    assert np.abs(geometry.VT).max() == pytest.approx(0.15)
    assert other.GI is geometry.GI  # what kinds there are does not change
