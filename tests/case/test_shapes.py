"""Kinds of shape: what contacts read of one agrees with its support function, its corners and its sizes."""

from __future__ import annotations

import numpy as np
import pytest

from yapa.case import Box, Capsule, Cylinder, Hull, Plane, Sphere
from yapa.case.shapes.registry import KINDS, NAMES

SHAPES = [Sphere(kind="sphere", radius=0.2), Box(kind="box", size=(0.2, 0.3, 0.4)), Capsule(kind="capsule", radius=0.1, length=0.3),
          Cylinder(kind="cylinder", radius=0.1, length=0.3),
          Hull(kind="hull", points=((0, 0, 0), (0.3, 0, 0), (0, 0.3, 0), (0, 0, 0.3), (0.1, 0.1, 0.2)))]


def directions():
    v = np.random.default_rng(3).normal(size=(200, 3))
    return v / np.linalg.norm(v, axis=1)[:, None]


def test_a_module_has_one_kind_of_its_name():
    assert [kind.name for kind in KINDS] == list(NAMES)
    assert [kind.model_fields["kind"].annotation.__args__[0] for kind in KINDS] == list(NAMES)


@pytest.mark.parametrize("shape", SHAPES, ids=lambda shape: shape.name)
def test_nothing_reaches_further_than_its_bound_and_something_does(shape):
    bound = shape.dimensions().bound
    reaches = np.array([shape.reach(n) for n in directions()])
    if bound is None:  # as its vertices say
        bound = np.linalg.norm(shape.polytope().vertices, axis=1).max()
    assert reaches.max() <= bound + 1e-12
    assert reaches.max() > 0.9 * bound


@pytest.mark.parametrize("shape", [s for s in SHAPES if s.has_corners], ids=lambda shape: shape.name)
def test_the_support_function_is_that_of_the_corners(shape):
    corners = shape.polytope().vertices
    for n in directions():
        assert shape.reach(n) == pytest.approx((corners @ n).max(), abs=1e-12)


@pytest.mark.parametrize("shape", SHAPES, ids=lambda shape: shape.name)
def test_sizes_are_numbers_that_can_be_set(shape):
    numbers = shape.size_numbers()
    doubled = shape.with_size_numbers({name: 2 * value for name, value in numbers.items()})
    assert doubled.size_numbers() == pytest.approx({name: 2 * value for name, value in numbers.items()})
    assert shape.with_size_numbers({}) == shape
    if numbers:
        assert doubled.solid(False).measure == pytest.approx(8 * shape.solid(False).measure)


def test_what_holds_of_a_kind():
    ball, box, capsule, can, _ = SHAPES
    plane = Plane(kind="plane")
    assert ball.is_ball
    assert not capsule.is_ball
    assert [shape.is_round for shape in (ball, box, capsule, can, plane)] == [True, False, True, False, False]
    assert not plane.has_volume
    with pytest.raises(ValueError, match="no volume"):
        plane.solid(False)
    assert plane.reach(np.array([0.0, 0.0, 1.0])) == float("inf")
    assert ball.shadow == pytest.approx(np.pi * 0.04)
    assert box.shadow == pytest.approx(2 * (0.2 * 0.3 + 0.3 * 0.4 + 0.2 * 0.4) / 4)
