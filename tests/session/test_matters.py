"""Where the card says that a number cannot matter: a trigger and a near miss a rule, and runs that prove it."""

from __future__ import annotations

import numpy as np
import pytest

from yapa.api import load
from yapa.case import Body, Box, Case, Plane, Sphere, Surface, numbers, with_numbers
from yapa.case.parameter_path import parse_path
from yapa.demo import DATA
from yapa.engine import simulate
from yapa.session.building.matters import RULES, cannot_matter

BALL = Body(shapes=(Sphere(kind="sphere", radius=0.05),), position=(0.0, 0.0, 0.5))
CRATE = Body(shapes=(Box(kind="box", size=(0.2, 0.2, 0.2)),), position=(1.0, 0.0, 0.1))
FLOOR = Body(motion="static", shapes=(Plane(kind="plane"),))


def scene(gravity=9.8, air=1.2, **bodies):
    case = Case(title="t", bodies=bodies, surfaces={"default": Surface()}, duration=0.6)
    return with_numbers(case, {"gravity": gravity, "air.density": air})


CASES = [
    ("surfaces.default.friction", scene(ball=BALL), "meets nothing", scene(ball=BALL, floor=FLOOR)),
    ("surfaces.default.rolling_resistance", scene(crate=CRATE, floor=FLOOR), "nothing round", scene(ball=BALL, floor=FLOOR)),
    ("bodies.ball.mass", scene(ball=BALL, floor=FLOOR), "pushed", scene(ball=BALL, crate=CRATE, floor=FLOOR)),
    ("bodies.ball.mass", scene(ball=BALL, floor=FLOOR), "brake", scene(ball=BALL.model_copy(update={"drag_coefficient": 0.5}))),
    ("bodies.ball.drag_coefficient", scene(air=0.0, ball=BALL), "no air", scene(ball=BALL)),
    ("air.wind.x", scene(ball=BALL), "no body has drag", scene(ball=BALL.model_copy(update={"drag_coefficient": 0.5}))),
    ("gravity", scene(floor=FLOOR), "fall", scene(ball=BALL)),
    ("bodies.ball.gravity_multiplier", scene(gravity=0.0, ball=BALL), "no gravity", scene(ball=BALL)),
    ("bodies.ball.velocity.x", scene(ball=BALL.model_copy(update={"locked_axes": ("x",)})), "along x",
     scene(ball=BALL.model_copy(update={"locked_axes": ("y",)}))),
    ("bodies.ball.angular_velocity.y", scene(ball=BALL.model_copy(update={"locked_axes": ("rotation_y",)})), "about y",
     scene(ball=BALL.model_copy(update={"locked_axes": ("y",)}))),
]


@pytest.mark.parametrize(("path", "case", "words", "near"), CASES)
def test_a_number_that_cannot_matter_says_why_and_one_that_can_says_nothing(path, case, words, near):
    assert words in cannot_matter(case, path)
    assert cannot_matter(near, path) == ""


def test_every_rule_has_a_case():
    for rule in RULES:
        assert any(rule(case, parse_path(path)) for path, case, _, _ in CASES), rule.__name__


@pytest.mark.parametrize("name", ["orange-drop", "sweeper-bar"])
def test_turning_what_cannot_matter_moves_nothing(name):
    case = load(DATA / f"{name}.yapa")
    idle = [path for path in numbers(case) if cannot_matter(case, path)]
    assert idle
    before = simulate(case).states
    for path in idle:
        now = numbers(case)[path]
        turned = simulate(with_numbers(case, {path: 1.1 * now if now else 0.1})).states
        assert np.array_equal(turned, before), path
