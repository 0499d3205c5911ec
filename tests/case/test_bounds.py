"""Bounds of numbers: the same in a file, an API value, an edit and a range."""

from __future__ import annotations

import json
import pickle

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa import api
from yapa.case import Body, Box, Sphere, Target, Unknown, numbers, with_numbers
from yapa.case.bounds import MAX_DURATION, MAX_SAMPLES
from yapa.case.quantities import QUANTITIES, kind_of
from yapa.case.validation import checked
from yapa.engine import simulate
from yapa.errors import InputError
from yapa.fitting.problem.problem import FitProblem
from yapa.formats.case_json import case_text, parse_case


def dropped():
    return scene({"orange": ball(position=(0, 0, 0.5)), "plate": floor()}, restitution=0.5, friction=0.3)


BOUNDED = [path for path in numbers(dropped()) if QUANTITIES[kind_of(path)].most < 1e300]


@pytest.mark.parametrize("path", BOUNDED)
def test_a_number_beyond_its_bounds_is_refused_everywhere(path):
    case, quantity = dropped(), QUANTITIES[kind_of(path)]
    for value in (quantity.most * 1.01, quantity.least - max(0.5 * abs(quantity.least), 1e-12), float("nan"), float("inf")):
        with pytest.raises(InputError):
            with_numbers(case, {path: value})
        with pytest.raises(InputError):
            simulate(case, {path: value})
        if np.isfinite(value):
            low, high = sorted((value, 0.5 * (quantity.least + quantity.most)))
            ranged = case.model_copy(update={"unknowns": (Unknown(path=path, low=low, high=high),)})
            with pytest.raises(InputError):
                checked(ranged)
    assert with_numbers(case, {path: quantity.most})  # the bound itself is inside


@pytest.mark.parametrize(("change", "said"), [
    ({"duration": 1e-12}, "1e-09 s or more"), ({"duration": 3601.0}, "up to 3600"), ({"seed": -1}, "from 0 on"),
    ({"duration": 3600.0, "output_rate": 10000.0}, "4,000,000"), ({"duration": 100.0, "profile": {"kind": "precise", "step": 1e-6}},
                                                                  "10,000,000"),
    ({"profile": {"kind": "precise", "step": 1e-7}}, "from 1e-06 on"),
    ({"profile": {"kind": "stepped", "step": 1e-9}}, "from 1e-06"),
])
def test_a_run_longer_than_one_can_be_is_refused(change, said):
    tree = json.loads(case_text(dropped()))
    tree.update(change)
    with pytest.raises(InputError) as told:
        parse_case(json.dumps(tree), "case")
    assert said in str(told.value)


def test_a_run_of_no_time_shows_the_start():
    motion = simulate(dropped().model_copy(update={"duration": 0.0}))
    assert motion.times.tolist() == [0.0]
    assert motion.states[0, 0, 2] == pytest.approx(0.5)


def test_moments_of_inertia_no_body_has_are_refused():
    Body(shapes=(Sphere(kind="sphere", radius=0.1),), inertia=(1.0, 2.0, 3.0))  # a flat one
    for wrong in ((1.0, 2.0, 3.1), (1.0, 1.0, 2.0 + 1e-6), (5.0, 1.0, 1.0)):
        with pytest.raises(InputError, match="no body has"):
            Body(shapes=(Sphere(kind="sphere", radius=0.1),), inertia=wrong)


def test_mass_and_density_together_are_refused_and_one_of_them_is_written():
    with pytest.raises(InputError, match="both mass and density"):
        Body(shapes=(Sphere(kind="sphere", radius=0.1),), mass=1.0, density=500.0)
    dense = scene({"orange": Body(shapes=(Sphere(kind="sphere", radius=0.1),), density=500.0), "plate": floor()})
    assert "mass" not in json.loads(case_text(dense))["bodies"]["orange"]
    assert parse_case(case_text(dense), "case") == dense


def test_what_a_validator_says_to_its_own_readers_is_never_told():
    tree = json.loads(case_text(dropped()))
    tree["bodies"]["orange"]["shapes"][0] = {"kind": "cone"}
    tree["bodies"]["a.b"] = tree["bodies"]["plate"]
    tree["surfaces"]["x"] = []
    tree["title"] = "t" * 500
    tree["apart"] = [["all"]]
    with pytest.raises(InputError) as told:
        parse_case(json.dumps(tree), "case")
    text = str(told.value)
    for inner in ("Input should", "pydantic", "valid dictionary", "discriminator", "pattern", "validation"):
        assert inner not in text, text
    assert "a name without dots" in text


def test_two_thousand_resting_boxes_need_no_table_of_all_their_pairs():
    from yapa.engine.runner import Program

    one = Body(motion="static", shapes=(Box(kind="box", size=(0.1, 0.1, 0.1)),))
    boxes = {f"box {k}": one.model_copy(update={"position": (2.0 + k % 50, float(k // 50), 0.0)}) for k in range(2000)}
    case = dropped()
    program = Program(case.model_copy(update={"bodies": {**case.bodies, **boxes}}))
    assert program.pairs == 2001
    assert program.workspace().pairs == 2001


def test_a_motion_is_pickled_with_its_curves():
    motion = simulate(dropped())
    copy = pickle.loads(pickle.dumps(motion))
    assert np.array_equal(copy.states, motion.states)
    t = np.array([0.123])
    assert np.array_equal(copy.trajectory("orange").position(t), motion.trajectory("orange").position(t))
    assert api.measure_motion(copy)["orange"].keys() == api.measure_motion(motion)["orange"].keys()


def test_what_is_tied_to_a_value_follows_it_in_a_run():
    case = scene({"a": ball(position=(0, 0, 0.5)), "b": ball(position=(1, 0, 0.5)), "plate": floor()})
    both = Unknown(path="bodies.a.velocity.x", low=-1, high=1, linked=("bodies.b.velocity.x",))
    tied = case.model_copy(update={"unknowns": (both,)})
    motion = simulate(tied, {"bodies.a.velocity.x": 0.7})
    assert motion.states[0, 1, 7] == 0.7


def test_noise_that_is_wider_than_anything_measured_is_refused():
    tree = json.loads(case_text(dropped()))
    samples = {"t": [0.0, 0.1, 0.2, 0.3, 0.4], "z": [0.5, 0.5, 0.4, 0.3, 0.1]}
    tree["tracks"] = [{"name": "seen", "body": "orange", "samples": samples, "sigma": 0.001}]
    parse_case(json.dumps(tree), "case")
    tree["tracks"][0]["sigma_angle"] = 1e300
    with pytest.raises(InputError, match="sigma_angle"):
        parse_case(json.dumps(tree), "case")


def test_a_wanted_time_that_never_comes_asks_for_no_more_samples_than_a_clip_may_have():
    target = Target(outcome="rest time", body="orange", value=1e5, tolerance=1.0)
    case = dropped().model_copy(update={"targets": (target,), "unknowns": (
        Unknown(path="bodies.orange.position.z", low=0.2, high=1.0),)})
    problem = FitProblem(case)
    assert problem.target_end == MAX_DURATION
    assert len(problem.target_times) * len(case.dynamic_bodies()) <= MAX_SAMPLES
