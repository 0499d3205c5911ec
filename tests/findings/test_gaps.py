"""How far apart bodies start, for every pair of shapes that has a closed form."""

from math import sqrt

import pytest
from benchmarks.scenes import scene

from yapa.case import Body, Box, Capsule, Cylinder, Hull, Plane, Sphere
from yapa.findings.gaps import gap_between

CUBE = tuple((x, y, z) for x in (-0.1, 0.1) for y in (-0.1, 0.1) for z in (-0.1, 0.1))
SHAPES = {
    "sphere": Sphere(kind="sphere", radius=0.1), "box": Box(kind="box", size=(0.2, 0.2, 0.2)),
    "capsule": Capsule(kind="capsule", radius=0.05, length=0.1), "cylinder": Cylinder(kind="cylinder", radius=0.1, length=0.2),
    "hull": Hull(kind="hull", points=CUBE),
}
"""All reach 0.1 m upwards."""


@pytest.mark.parametrize("shape", SHAPES.values(), ids=list(SHAPES))
@pytest.mark.parametrize("height", [3.0, 0.35, 0.099])
def test_above_a_plane_the_gap_is_the_height_less_the_reach(shape, height):
    bodies = {"a": Body(shapes=(shape,), position=(0, 0, height)), "f": Body(motion="static", shapes=(Plane(kind="plane"),))}
    assert gap_between(scene(bodies), "a", "f") == pytest.approx(height - 0.1, abs=1e-9)


@pytest.mark.parametrize("one", SHAPES.values(), ids=list(SHAPES))
@pytest.mark.parametrize("two", SHAPES.values(), ids=list(SHAPES))
def test_one_over_the_other_the_gap_is_what_is_between_them(one, two):
    bodies = {"a": Body(shapes=(one,), position=(0, 0, 0.5)), "b": Body(shapes=(two,))}
    assert gap_between(scene(bodies), "a", "b") == pytest.approx(0.3, abs=1e-6)


def test_across_a_corner_two_spheres_are_as_far_as_pythagoras_says():
    bodies = {"a": Body(shapes=(SHAPES["sphere"],), position=(0.3, 0.4, 0)), "b": Body(shapes=(SHAPES["sphere"],))}
    assert gap_between(scene(bodies), "a", "b") == pytest.approx(0.3)
    aside = {"a": Body(shapes=(SHAPES["sphere"],), position=(0.4, 0.4, 0)), "b": Body(shapes=(SHAPES["box"],))}
    assert gap_between(scene(aside), "a", "b") == pytest.approx(sqrt(0.18) - 0.1)


def test_bodies_that_never_meet_have_no_gap():
    bodies = {"a": Body(shapes=(SHAPES["sphere"],), group="one"),
              "b": Body(shapes=(SHAPES["box"],), position=(1, 0, 0), group="two")}
    case = scene(bodies).model_copy(update={"collision_exclusions": (("one", "two"),)})
    assert gap_between(case, "a", "b") is None
