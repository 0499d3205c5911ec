"""What a target wants, as a range, a hinge, and a way to go."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.scenes import ball, floor, scene
from yapa import api
from yapa.case import Target, Unknown
from yapa.case.target_text import parse_target
from yapa.engine import simulate
from yapa.fitting.goals import judge, met, missed_by, outside, target_residual, wanted_range
from yapa.outcomes.reading import Reading, absent

INFINITE = float("inf")


@pytest.mark.parametrize(("text", "low", "high"), [
    ("travel = 1 ± 0.1 m", 0.9, 1.1), ("travel within 1 to 2 m", 1.0, 2.0), ("travel at least 1 m", 1.0, INFINITE),
    ("travel at most 1 m", -INFINITE, 1.0), ("travel happens", -INFINITE, INFINITE),
])
def test_a_target_wants_a_range(text, low, high):
    assert wanted_range(parse_target(text)) == pytest.approx((low, high))


@given(st.floats(-5, 5), st.floats(-3, 3), st.floats(0.01, 2))
def test_a_bound_is_a_hinge(value, low, width):
    target = Target(outcome="travel", condition="within", value=low, upper=low + width)
    off = outside(target, value)
    assert off == pytest.approx(min(value - low, 0.0) + max(value - low - width, 0.0))
    assert met(target, Reading(value)) == (abs(off) < 1e-9)
    assert missed_by(target, Reading(value)) == abs(off)


def test_never_is_met_by_what_does_not_occur_and_happens_is_not():
    gone = absent("there is none", 0.0, 0.5)
    assert met(parse_target("hit with f never"), gone)
    assert not met(parse_target("hit with f happens"), gone)
    assert missed_by(parse_target("hit with f happens"), gone) is None
    report = judge(parse_target("apex 3 happens"), "b", gone)
    assert not report.met
    assert report.missing == "there is none"


def residual(text, e):
    motion = simulate(scene({"b": ball(position=(0, 0, 1.05)), "f": floor()}, duration=3.0, restitution=e))
    return np.abs(target_residual(motion, parse_target(text), "b")).max()


@pytest.mark.parametrize("text", ["apex 4 happens", "apex 4 = 0.1 ± 0.01 m", "bounces at least 5"])
def test_a_missing_event_is_felt_nearer_as_it_comes_nearer(text):
    sizes = [residual(text, e) for e in (0.15, 0.25, 0.35, 0.45)]
    assert all(a > b for a, b in zip(sizes, sizes[1:], strict=False))


def test_one_bounce_too_many_is_felt_less_as_it_fades():
    assert residual("bounces at most 2", 0.6) > residual("bounces at most 2", 0.5) > residual("bounces at most 2", 0.42)


@pytest.mark.parametrize("text", [
    "apex 2 within 0.2 to 0.25 m", "rest time at most 2 s", "bounces at least 6", "peak speed at least 4 m/s",
    "apex ratio 2 = 0.5 ± 0.01", "kept restitution 1 = 0.8 ± 0.01", "z at 0.8 s = 0.4 ± 0.01 m",
    "inside (-1, -1, 0) to (1, 1, 1) at least 0",
])
def test_a_fit_meets_every_kind_of_wish(text):
    case = scene({"b": ball(position=(0, 0, 1.05)), "f": floor()}, duration=3.0, restitution=0.4)
    case = case.model_copy(update={"targets": (parse_target(text),),
                                   "unknowns": (Unknown(path="surfaces.both.restitution", low=0.05, high=0.95),)})
    assert api.fit(case).targets[0].met
