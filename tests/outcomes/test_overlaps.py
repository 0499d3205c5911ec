"""Deepest overlap against what geometry says."""

from math import cos, radians, sin, sqrt

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa.case import Body, Box, Capsule, Cylinder, Hull, Stepped
from yapa.engine import simulate
from yapa.outcomes import OutcomeQuery, read

A = radians(30.0)
TURNED = (cos(A / 2), 0.0, sin(A / 2), 0.0)
CUBE = tuple((x, y, z) for x in (-0.1, 0.1) for y in (-0.1, 0.1) for z in (-0.1, 0.1))


@pytest.mark.parametrize(("shape", "reach"), [
    (Box(kind="box", size=(0.2, 0.2, 0.2), surface="both"), 0.1 * (sin(A) + cos(A))),
    (Hull(kind="hull", points=CUBE, surface="both"), 0.1 * (sin(A) + cos(A))),
    (Capsule(kind="capsule", radius=0.05, length=0.3, surface="both"), 0.05 + 0.15 * cos(A)),
    (Cylinder(kind="cylinder", radius=0.05, length=0.3, surface="both"), 0.05 * sin(A) + 0.15 * cos(A)),
])
def test_a_turned_shape_reaches_as_far_as_it_is_long_that_way(shape, reach):
    b = Body(shapes=(shape,), mass=1.0, position=(0, 0, 1.0), orientation=TURNED)
    motion = simulate(scene({"b": b, "f": floor()}, duration=0.01))
    low = motion.states[:, 0, 2].min()
    assert read(motion, "overlap", "b").value == pytest.approx(reach - low, abs=1e-9)


def test_two_spheres_and_a_slope_tell_their_gap_and_other_pairs_do_not():
    a = ball(0.05, mass=0.1, position=(0, 0, 0.5))
    b = ball(0.07, mass=0.1, position=(0.3, 0, 0.9))
    crate = Body(motion="static", shapes=(Box(kind="box", size=(0.1, 0.1, 0.1), surface="both"),), position=(2, 0, 0.5))
    motion = simulate(scene({"a": a, "b": b, "crate": crate}, duration=0.05))
    assert read(motion, "overlap", "a", query=OutcomeQuery(partner="b")).value == pytest.approx(0.12 - 0.5)
    assert read(motion, "overlap", "a", query=OutcomeQuery(partner="crate")).value is None
    sloped = simulate(scene({"b": ball(0.05, position=(0, 0, 1)), "f": floor((-sin(A), 0, cos(A)))}, duration=0.01))
    low = sloped.states[:, 0, 2].min()
    assert read(sloped, "overlap", "b").value == pytest.approx(0.05 - low * sqrt(0.75), abs=1e-9)


def test_precise_does_not_overlap_and_a_step_that_is_long_does():
    case = scene({"b": ball(0.05, position=(0, 0, 1.05)), "f": floor()}, duration=1.0, restitution=0.5)
    precise = simulate(case, times=np.linspace(0, 1, 2001))
    assert -3e-3 < read(precise, "overlap", "b").value < 1e-9  # the touch itself falls between two samples
    stepped = simulate(case.model_copy(update={"profile": Stepped(step=1 / 30)}), times=np.linspace(0, 1, 2001))
    assert read(stepped, "overlap", "b").value > 0.01
