"""Targets in words, and what their conditions want."""

import string

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene
from hypothesis import given, settings
from hypothesis import strategies as st

from yapa.case.evidence import Target
from yapa.case.outcome_specs import OUTCOME_SPECS, outcome_and_index, spec_of
from yapa.engine import simulate
from yapa.errors import InputError
from yapa.fitting.problem.target_residuals import target_residual
from yapa.formats.target_text import parse_target, target_text
from yapa.outcomes import read_target
from yapa.outcomes.judging import is_met

SAID = {
    "apex 2 = 0.42 ± 0.005 m": Target(outcome="apex", index=2, value=0.42, tolerance=0.005),
    "orange apex 2 = 42 +- 0.5 cm weight 2": Target(body="orange", outcome="apex", index=2, value=0.42, tolerance=0.005,
                                                    weight=2.0),
    "peak speed at least 4 m/s": Target(outcome="peak speed", condition="at least", value=4.0),
    "impact speed 2 = 1 ± 0.1": Target(outcome="impact speed", index=2, value=1.0, tolerance=0.1),
    "orange peak spin at most 9 rad/s": Target(body="orange", outcome="peak spin", condition="at most", value=9.0),
    "rest time within 2 to 2.5 s": Target(outcome="rest time", condition="within", value=2.0, upper=2.5),
    "bounces at least 3": Target(outcome="bounces", condition="at least", value=3.0),
    "big lemon peak speed <= 300 +/- 10 cm/s": Target(body="big lemon", outcome="peak speed", condition="at most", value=3.0,
                                                      tolerance=0.1),
    "lemon hit with top crate happens": Target(body="lemon", outcome="hit", partner="top crate", condition="happens"),
    "hit with crate never": Target(outcome="hit", partner="crate", condition="never"),
    "contact time 2 with crate = 300 ± 5 ms": Target(outcome="contact time", index=2, partner="crate", value=0.3, tolerance=0.005),
    "speed at 0.5 s at most 1.2 m/s": Target(outcome="speed", time=0.5, condition="at most", value=1.2),
    "tilt at most 5 deg": Target(outcome="tilt", condition="at most", value=5 * 0.017453292519943295),
    "miss of (1, 0, 0.5) at most 10 mm": Target(outcome="miss", point=(1.0, 0.0, 0.5), condition="at most", value=0.01),
    "miss with crate at least 0.2 m": Target(outcome="miss", partner="crate", condition="at least", value=0.2),
    "inside (0, 0, 0) to (1, 1, 1) at least 0": Target(outcome="inside", region=((0.0, 0.0, 0.0), (1.0, 1.0, 1.0)),
                                                       condition="at least", value=0.0),
    "waypoints (0, 0, 1), (0.5, 0, 1.2), (1, 0, 0) at most 5 cm": Target(
        outcome="waypoints", waypoints=((0.0, 0.0, 1.0), (0.5, 0.0, 1.2), (1.0, 0.0, 0.0)), condition="at most", value=0.05),
    "x at 1.5 s = -0.25 ± 0.01 m": Target(outcome="x", time=1.5, value=-0.25, tolerance=0.01),
}


@pytest.mark.parametrize("text", SAID)
def test_a_target_in_words_is_read(text):
    assert parse_target(text) == SAID[text]


@pytest.mark.parametrize("target", SAID.values())
def test_the_text_of_a_target_reads_back_as_the_target(target):
    assert parse_target(target_text(target)) == target


@pytest.mark.parametrize(("text", "said"), [
    ("apex = 0.4 ± 0.01", "needs an index"), ("apex 2 = 0.4", "not a target"), ("rest time 2 = 1 ± 0.1", "takes no index"),
    ("rest time = 1 ± 0.1 m", "the unit 'm'"), ("hit happens", "needs a partner"), ("jump 2 = 1 ± 1", "not a target"),
    ("inside at least 0", "needs a region"), ("rest time within 3 to 2 s", "must rise"), ("miss at most 1", "a point or a partner"),
    ("apex 2 = 0.4 ± -0.1", "from 1e-12 on"), ("__import__('os') = 1 ± 1", "not a target"), ("", "not a target"),
    ("inside (0,0,0) to (0,1,1) at least 0", "beyond the first"), ("rest time with crate = 1 ± 1", "takes no partner"),
])
def test_a_text_that_is_no_target_says_why(text, said):
    with pytest.raises(InputError) as caught:
        parse_target(text)
    assert said in str(caught.value)


@settings(max_examples=300, deadline=None)
@given(st.text(alphabet=string.printable + "±≤≥°", max_size=80))
def test_any_text_is_a_target_or_a_problem_in_words(text):
    said, target = "", None
    try:
        target = parse_target(text)
    except InputError as problem:
        said = str(problem)
    assert "expected" in said if target is None else target.outcome in OUTCOME_SPECS


@pytest.mark.parametrize(("name", "outcome", "index"), [("apex 2", "apex", 2), ("rest time", "rest time", None),
                                                        ("landing x 12", "landing x", 12)])
def test_a_measured_name_is_an_outcome_and_its_number(name, outcome, index):
    assert outcome_and_index(name) == (outcome, index)
    assert spec_of(name) is OUTCOME_SPECS[outcome]


def dropped():
    b = ball(0.05, position=(0, 0, 1.05), velocity=(1.0, 0, 0))
    return simulate(scene({"b": b, "f": floor()}, duration=3.0, restitution=0.6, friction=0.0))


@pytest.mark.parametrize(("text", "said"), [
    ("apex 1 = 0.36 ± 0.001 m", True), ("apex 1 = 0.37 ± 0.001 m", False), ("apex 1 within 0.3 to 0.4 m", True),
    ("apex 1 within 0.4 to 0.5 m", False), ("apex 1 at least 0.35 m", True), ("apex 1 at most 0.35 m", False),
    ("apex 30 happens", False), ("apex 30 never", True), ("hit with f happens", True), ("hit with f never", False),
    ("bounces at least 3", True), ("bounces at most 2", False),
])
def test_a_condition_is_met_or_not_and_its_residual_says_so(text, said):
    motion, target = dropped(), parse_target(text)
    assert is_met(target, read_target(motion, "b", target)) is said
    off = float(np.abs(target_residual(motion, target, "b")).max())
    if target.condition == "equal":
        assert (off <= 1.0) is said
    else:
        assert (off == 0.0) is said
