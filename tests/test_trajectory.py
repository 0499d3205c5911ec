"""A body's curve between its knots: places, velocities, tops, and what it is at a contact."""

from __future__ import annotations

import numpy as np
import pytest
from benchmarks.scenes import G, ball, floor, scene
from hypothesis import given, settings
from hypothesis import strategies as st

from yapa.engine import simulate
from yapa.motion import Trajectory

UP = np.array([0.0, 0.0, 1.0])


def through(t, x, v):
    """A curve with one velocity at each knot."""
    return Trajectory(np.asarray(t), np.asarray(x), np.asarray(v), np.asarray(v), np.asarray(x), np.asarray(v), np.asarray(v))


def some_curve(seed, knots=12):
    rng = np.random.default_rng(seed)
    t = np.cumsum(rng.uniform(0.01, 0.2, knots))
    return through(t, rng.normal(size=(knots, 3)), rng.normal(size=(knots, 3)) * 3)


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 2**31))
def test_a_curve_goes_through_its_knots_and_its_velocity_is_its_slope(seed):
    path = some_curve(seed)
    assert path.position(path.t) == pytest.approx(path.x)
    times = np.linspace(path.t[0], path.t[-1], 203)[1:-1]
    apart = np.abs(times[:, None] - path.t).min(axis=1) > 1e-5
    slope = (path.position(times + 1e-6) - path.position(times - 1e-6)) / 2e-6
    assert path.velocity(times)[apart] == pytest.approx(slope[apart], abs=1e-3)
    turn = (path.rotation(times + 1e-6) - path.rotation(times - 1e-6)) / 2e-6
    assert path.angular_velocity(times)[apart] == pytest.approx(turn[apart], abs=1e-3)


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 2**31))
def test_outside_its_knots_a_curve_stands_still(seed):
    path = some_curve(seed)
    before, after = path.position(np.array([path.t[0] - 1.0, path.t[-1] + 1.0]))
    assert before == pytest.approx(path.x[0])
    assert after == pytest.approx(path.x[-1])


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 2**31))
def test_the_highest_place_is_that_of_a_fine_search(seed):
    path = some_curve(seed)
    low, high = path.t[0] + 0.03, path.t[-1] - 0.03
    value, when = path.maximum_along(UP, low, high)
    fine = np.linspace(low, high, 20001)
    z = path.position(fine)[:, 2]
    assert value >= z.max() - 1e-9 or value == pytest.approx(z.max(), abs=2e-4)
    assert path.position(np.array([when]))[0, 2] == pytest.approx(value, abs=1e-9)


def test_at_a_contact_the_velocity_is_that_after_it_and_the_place_is_one():
    motion = simulate(scene({"b": ball(0.05, position=(0, 0, 1.05)), "f": floor()}, duration=1.0, restitution=0.5))
    path, when = motion.trajectory("b"), motion.contacts[0].time
    assert path.velocity(np.array([when]))[0, 2] == pytest.approx(0.5 * np.sqrt(2 * G), rel=1e-9)
    assert path.velocity(np.array([when - 1e-9]))[0, 2] == pytest.approx(-np.sqrt(2 * G), rel=1e-6)
    assert path.position(np.array([when]))[0, 2] == pytest.approx(0.05, abs=1e-12)


def test_a_curve_of_few_samples_is_that_of_many():
    """Between its knots the curve is the motion: how often it was sampled enters nothing but rounding without drag."""
    case = scene({"b": ball(0.05, position=(0, 0, 1.05), velocity=(1.0, 0, 2.0)), "f": floor()}, duration=1.5, restitution=0.6)
    times = np.linspace(0, 1.5, 400)
    few = simulate(case, times=np.linspace(0, 1.5, 16)).trajectory("b")
    many = simulate(case, times=np.linspace(0, 1.5, 1600)).trajectory("b")
    assert few.position(times) == pytest.approx(many.position(times), abs=1e-10)
    assert few.velocity(times) == pytest.approx(many.velocity(times), abs=1e-8)


def test_between_keeps_both_ends_and_the_knots_inside():
    path = some_curve(3, knots=5)
    found = path.knots_between(path.t[1] - 1e-3, path.t[3] + 1e-3)
    assert found.tolist() == [path.t[1] - 1e-3, *path.t[1:4].tolist(), path.t[3] + 1e-3]
