"""What a target wants, as a range, a hinge, and a way to go."""

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene
from hypothesis import example, given
from hypothesis import strategies as st

from yapa import api
from yapa.case import Target, Unknown
from yapa.engine import simulate
from yapa.fitting.problem.target_residuals import constraint_slack, evaluate_target, target_residual
from yapa.formats.target_text import parse_target
from yapa.outcomes.judging import deviation, is_met, missed_by
from yapa.outcomes.target_form import wanted_range
from yapa.outcomes.value import OutcomeValue, missing_event

INFINITE = float("inf")


@pytest.mark.parametrize(("text", "low", "high"), [
    ("travel = 1 ± 0.1 m", 0.9, 1.1), ("travel within 1 to 2 m", 1.0, 2.0), ("travel at least 1 m", 1.0, INFINITE),
    ("travel at most 1 m", -INFINITE, 1.0), ("travel happens", -INFINITE, INFINITE),
])
def test_a_target_wants_a_range(text, low, high):
    assert wanted_range(parse_target(text)) == pytest.approx((low, high))


@given(st.floats(-5, 5), st.floats(-3, 3), st.floats(0.01, 2))
@example(0.0, 1e-9, 1.0)
@example(2e-9, 0.0, 1.0)
@example(-3e-9, 0.0, 1.0)
def test_a_bound_is_a_hinge(value, low, width):
    target = Target(outcome="travel", condition="within", value=low, upper=low + width)
    off = deviation(target, value)
    assert off == pytest.approx(min(value - low, 0.0) + max(value - low - width, 0.0))
    if not 0.5e-9 < abs(off) < 2e-9:  # the edge itself is a matter of rounding
        assert is_met(target, OutcomeValue(value)) == (abs(off) < 1e-9)
    assert missed_by(target, OutcomeValue(value)) == abs(off)


def test_never_is_met_by_what_does_not_occur_and_happens_is_not():
    gone = missing_event("there is none", 0.0, 0.5)
    assert is_met(parse_target("hit with f never"), gone)
    assert not is_met(parse_target("hit with f happens"), gone)
    assert missed_by(parse_target("hit with f happens"), gone) is None
    report = evaluate_target(parse_target("apex 3 happens"), "b", gone)
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


ROOMY = ["apex 2 within 0.2 to 0.25 m", "rest time at most 2 s", "peak speed at least 4 m/s", "bounces at least 5",
         "bounces at most 4", "apex 3 happens", "inside (-1, -1, 0) to (1, 1, 1) at least 0 m", "hit with f happens",
         "waypoints (0, 0, 0.3) at most 0.05 m", "apex 2 = 0.2 ± 0.02 m"]


@pytest.mark.parametrize("text", ROOMY)
def test_room_is_left_exactly_where_a_target_is_met(text):
    """Misses of zero and room above zero stand for residuals of zero; a residual that is felt is a miss or too little room."""
    target = parse_target(text)
    for e in np.linspace(0.2, 0.85, 14):
        motion = simulate(scene({"b": ball(position=(0, 0, 1.05)), "f": floor()}, duration=3.0, restitution=float(e)))
        misses, left = constraint_slack(motion, target, "b")
        felt = np.abs(target_residual(motion, target, "b")).max()
        if felt == 0.0:
            assert (left >= 0).all()
            assert (misses == 0).all()
        elif felt > 0.01:
            assert (left < 0).any() or (np.abs(misses) > 1e-6).any()


def test_room_goes_on_changing_inside_a_bound_where_residuals_do_not():
    def at(e):
        motion = simulate(scene({"b": ball(position=(0, 0, 1.05)), "f": floor()}, duration=3.0, restitution=e))
        target = parse_target("apex 1 at most 0.6 ± 0.1 m")
        return constraint_slack(motion, target, "b")[1][1], np.abs(target_residual(motion, target, "b")).max()

    (wide, zero), (narrow, also_zero) = at(0.62), at(0.7)
    assert zero == also_zero == 0.0
    assert wide > narrow > 0


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
