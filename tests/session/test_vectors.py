"""What can be shown beside the picture, at a time of a motion that is known."""

from __future__ import annotations

import numpy as np
import pytest

from yapa.case import Body, Case, Plane, Sphere
from yapa.engine import simulate
from yapa.session.vectors import LONGEST, SPAN, STROKE, VECTORS


@pytest.fixture(scope="module")
def drop():
    """A ball that falls by 0.45 m onto a floor, thrown along x."""
    ball = Body(shapes=(Sphere(kind="sphere", radius=0.05),), position=(0.0, 0.0, 0.5), velocity=(1.0, 0.0, 0.0))
    floor = Body(motion="static", shapes=(Plane(kind="plane"),))
    return simulate(Case(title="drop", bodies={"floor": floor, "ball": ball}, duration=1.0))


def arrows(motion, name, time):
    return list(next(v for v in VECTORS if v.name == name).make(motion, time))


def test_the_arrow_of_velocity_is_a_tenth_of_a_second_long(drop):
    (arrow,) = arrows(drop, "velocity", 0.1)
    assert arrow.vector == pytest.approx(SPAN * np.array([1.0, 0.0, -0.980665]), abs=1e-6)
    assert arrow.words == "1.4 m/s"


def test_axes_are_told_apart_by_letter_and_dash_and_turn_with_the_body(drop):
    found = arrows(drop, "axes", 0.0)
    assert [(a.words, a.dashes) for a in found] == [("x", 0), ("y", 1), ("z", 2)]
    assert found[0].vector == pytest.approx([1.3 * 0.05, 0.0, 0.0])
    after = arrows(drop, "axes", 1.0)  # it turns since it touched
    assert np.linalg.norm(after[0].vector - found[0].vector) > 1e-3


def test_contacts_are_shown_for_a_moment_and_the_hardest_is_the_longest(drop):
    first = drop.contacts[0]
    (normal,) = arrows(drop, "contact normals", first.time)
    assert normal.vector == pytest.approx([0.0, 0.0, STROKE])
    (impulse,) = arrows(drop, "impulses", first.time)
    assert np.linalg.norm(impulse.vector) == pytest.approx(LONGEST)
    assert impulse.words == f"{first.normal_impulse:.3g} N s"
    assert arrows(drop, "impulses", first.time - 0.01) == []


def test_centres_follow_their_bodies_and_planes_face_what_is_on_them(drop):
    (centre,) = arrows(drop, "centre of mass", 0.1)
    assert centre.place == pytest.approx([0.1, 0.0, 0.5 - 0.5 * 9.80665 * 0.01], abs=1e-6)
    (facing,) = arrows(drop, "facing", 0.0)
    assert (facing.body, facing.vector[2]) == ("floor", pytest.approx(STROKE))
