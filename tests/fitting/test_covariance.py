"""How sure: standard deviations against closed forms, bounds, and which combinations are known."""

from __future__ import annotations

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene
from hypothesis import given
from hypothesis import strategies as st

from yapa.case import Unknown
from yapa.case.unknowns import from_unit_box, to_unit_box
from yapa.fitting.confidence.covariance import covariance_at, estimates, profile_bound
from yapa.fitting.confidence.identifiability import undetermined_directions
from yapa.fitting.optimise.jacobian import evaluate
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.tracks.slip_stick_modes import critical_frictions, friction_unknowns, plateau_value
from yapa.formats.target_text import parse_target

E, MU, MASS = "surfaces.both.restitution", "surfaces.both.friction", "bodies.b.mass"
DRAG, HEIGHT, VX = "bodies.b.drag_coefficient", "bodies.b.position.z", "bodies.b.velocity.x"
RANGES = {E: (0.1, 0.95), MU: (0.01, 0.9), MASS: (0.05, 0.5), DRAG: (0.1, 1.2), HEIGHT: (0.5, 2.0), VX: (0.2, 3.0)}


def problem_of(*texts, free=(E,), body=None, **surface):
    case = scene({"b": ball(0.05, mass=0.2, position=(0, 0, 1.05), **(body or {})), "f": floor()}, duration=3.0,
                 **{"restitution": 0.6, "friction": 0.3, **surface})
    return FitProblem(case.model_copy(update={
        "targets": tuple(parse_target(t) for t in texts),
        "unknowns": tuple(Unknown(path=p, low=RANGES[p][0], high=RANGES[p][1]) for p in free)}))


def told(problem):
    best = evaluate(problem, problem.vector())
    return estimates(problem, best, covariance_at(problem, best))


@given(st.floats(0.0, 1.0), st.booleans())
def test_a_place_in_the_box_and_a_value_undo_each_other(u, log):
    unknown = Unknown(path=E, low=0.1, high=0.9, transform="log" if log else "linear")
    value = from_unit_box(unknown, u)
    assert 0.1 - 1e-12 <= value <= 0.9 + 1e-12
    assert to_unit_box(unknown, value) == pytest.approx(u, abs=1e-9)


@given(st.floats(-100.0, 100.0))
def test_a_value_outside_its_range_stands_at_its_wall(value):
    u = to_unit_box(Unknown(path=E, low=0.1, high=0.9), value)
    assert u == pytest.approx(min(1.0, max(0.0, (value - 0.1) / 0.8)))


def test_the_deviation_from_one_apex_is_that_of_its_closed_form():
    """Apex 1 is e² h: a tolerance of τ leaves τ / (2 e h)."""
    found = told(problem_of("apex 1 = 0.36 ± 0.005 m"))[E]
    assert found.determined
    assert found.std == pytest.approx(0.005 / (2 * 0.6 * 1.0), rel=1e-4)
    assert found.high - found.value == pytest.approx(1.96 * found.std, rel=1e-9)


def test_two_tellings_of_the_same_number_weigh_as_two():
    one = told(problem_of("apex 1 = 0.36 ± 0.005 m"))[E].std
    two = told(problem_of("apex 1 = 0.36 ± 0.005 m", "apex 2 = 0.1296 ± 0.005 m"))[E].std
    slopes = np.array([2 * 0.6, 4 * 0.6**3]) / 0.005
    assert two < one
    assert two == pytest.approx(1 / np.sqrt((slopes**2).sum()), rel=1e-3)


def test_a_wide_tolerance_determines_nothing_and_leaves_a_bound():
    found = told(problem_of("apex 1 = 0.36 ± 0.4 m"))[E]
    assert not found.determined
    assert found.std is None
    assert found.reason


def test_restitution_and_height_are_known_only_together():
    problem = problem_of("apex 1 = 0.36 ± 0.002 m", free=(E, HEIGHT))
    best = evaluate(problem, problem.vector())
    [together] = undetermined_directions(problem, best, covariance_at(problem, best).weak)
    assert set(together.paths) == {E, HEIGHT}
    assert "known" in together.words
    assert "fix one of them" in together.words
    assert not any(e.determined for e in estimates(problem, best, covariance_at(problem, best)).values())


def test_mass_and_drag_are_known_as_a_ratio_and_a_collision_is_named():
    problem = problem_of("landing 1 = 1.2 ± 0.001 m", free=(MASS, DRAG), body={"velocity": (3.0, 0, 0), "drag_coefficient": 0.5})
    best = evaluate(problem, problem.vector())
    weak = covariance_at(problem, best).weak
    [together] = [c for c in undetermined_directions(problem, best, weak) if len(c.paths) == 2]
    assert "/" in together.words
    assert "collision" in together.words


def test_a_bound_stands_where_the_misfit_has_risen_by_what_it_says():
    problem = problem_of("apex 1 = 0.36 ± 0.02 m")
    best = evaluate(problem, problem.vector())
    high, low = (profile_bound(problem, best, 0, downwards) for downwards in (False, True))
    assert low < 0.6 < high
    for e in (low, high):
        assert abs(e**2 - 0.36) / 0.02 == pytest.approx(1.645, rel=0.05)


def test_a_range_within_the_tolerance_has_no_bound():
    problem = problem_of("apex 1 = 0.36 ± 5 m")
    best = evaluate(problem, problem.vector())
    assert profile_bound(problem, best, 0, True) is None
    assert profile_bound(problem, best, 0, False) is None


def test_the_critical_friction_of_a_bounce_is_that_of_its_closed_form():
    """A sphere without spin grips where μ ≥ v / (3.5 (1 + e) v_n)."""
    problem = problem_of("landing 1 = 1 ± 0.01 m", free=(MU,), body={"velocity": (1.0, 0, 0)}, friction=0.8)
    values = problem.values(problem.vector())
    first = max(critical_frictions(problem, problem.motion(values), MU))
    fall = np.sqrt(2 * 9.80665 * 1.0)
    assert first == pytest.approx(1.0 / (3.5 * 1.6 * fall), rel=1e-6)
    assert friction_unknowns(problem) == [0]


@given(st.lists(st.floats(0.02, 0.85), max_size=5))
def test_the_plateau_lies_above_every_critical_value_and_in_the_range(critical):
    unknown = Unknown(path=MU, low=0.01, high=0.9)
    value = plateau_value(unknown, critical)
    assert all(value > c for c in critical)
    assert unknown.low < value < unknown.high


def test_friction_above_the_grip_gets_a_lower_bound_only():
    case = scene({"b": ball(0.05, mass=0.2, position=(0, 0, 1.05), velocity=(0.5, 0, 0)), "f": floor()}, duration=2.0,
                 restitution=0.6, friction=0.5)
    case = case.model_copy(update={
        "targets": (parse_target("landing 2 = 0.7 ± 0.002 m"),),
        "unknowns": (Unknown(path=MU, low=0.01, high=0.9),)})
    problem = FitProblem(case)
    value = problem.target_readings(problem.values(problem.vector()))[0][2].value
    problem = FitProblem(case.model_copy(update={"targets": (parse_target(f"landing 2 = {value:.9f} ± 0.002 m"),)}))
    found = told(problem)[MU]
    assert not found.determined
    assert found.high is None
    assert 0.0 < found.low < 0.5
    assert "grip" in found.reason
