"""Vectors and quaternions of the kernels, against NumPy and SciPy, and the order of their sums."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from yapa.engine.kernels.math import vectors as v

sizes = st.floats(-1e3, 1e3)
threes, fours = st.tuples(sizes, sizes, sizes), st.tuples(sizes, sizes, sizes, sizes)
seeds = st.integers(0, 2**31)
quick = settings(max_examples=60, deadline=None)


@quick
@given(threes, threes, sizes)
def test_sums_and_products_are_those_of_numpy(a, b, s):
    p, q = np.array(a), np.array(b)
    assert v.plus(a, b) == tuple(p + q)
    assert v.minus(a, b) == tuple(p - q)
    assert v.negative(a) == tuple(-p)
    assert v.times(s, a) == tuple(s * p)
    assert v.each(a, b) == tuple(p * q)
    assert v.ahead(a, s, b) == tuple(p + s * q)
    assert v.ahead(a, -s, b) == tuple(p - s * q)
    assert v.dot(a, b) == pytest.approx(p @ q, abs=1e-8)
    assert v.cross(a, b) == pytest.approx(np.cross(p, q), abs=1e-8)
    if abs(s) > 1e-3:
        assert v.over(a, s) == tuple(p / s)


def test_sums_are_taken_from_left_to_right():
    """(1e16 + 1) - 1e16 is 0, and 1e16 - 1e16 + 1 is 1: one order, wherever a function is used."""
    assert v.dot((1e16, 1.0, -1e16), (1.0, 1.0, 1.0)) == 0.0
    assert v.dot((1e16, -1e16, 1.0), (1.0, 1.0, 1.0)) == 1.0
    assert v.carried((1e16, 0.0, 0.0), (0.0, 1.0, 1.0), (0.0, 1e16, 1.0))[0] == 0.0


@quick
@given(threes, threes, threes)
def test_a_point_is_carried_by_the_spin_of_its_body(velocity, spin, arm):
    expected = np.array(velocity) + np.cross(spin, arm)
    assert v.carried(velocity, spin, arm) == pytest.approx(expected, abs=1e-8)


@quick
@given(seeds)
def test_lengths_units_and_what_stands_aside(seed):
    a, n = np.random.default_rng(seed).normal(size=(2, 3))
    n /= np.linalg.norm(n)
    assert v.length(tuple(a)) == pytest.approx(np.linalg.norm(a))
    assert v.unit(tuple(a)) == pytest.approx(a / np.linalg.norm(a))
    aside = np.array(v.aside(tuple(a), tuple(n)))
    assert aside @ n == pytest.approx(0.0, abs=1e-14)
    assert aside + (a @ n) * n == pytest.approx(a)
    assert v.unit(v.ZERO) == v.ZERO


def turned(seed):
    rng = np.random.default_rng(seed)
    q, a = rng.normal(size=4), rng.normal(size=3)
    return tuple(q / np.linalg.norm(q)), tuple(a)


@quick
@given(seeds)
def test_a_quaternion_turns_as_scipy_turns(seed):
    q, a = turned(seed)
    turn = Rotation.from_quat(q, scalar_first=True)
    assert v.rotate(q, a) == pytest.approx(turn.apply(a), abs=1e-14)
    assert v.rotate_back(q, a) == pytest.approx(turn.inv().apply(a), abs=1e-14)


@quick
@given(seeds, seeds)
def test_turns_follow_each_other(seed, other):
    (q, a), (turn, _) = turned(seed), turned(other)
    assert v.rotate(v.turned_on(turn, q), a) == pytest.approx(v.rotate(turn, v.rotate(q, a)), abs=1e-13)


@quick
@given(seeds, st.floats(0.0, 3.0))
def test_turning_at_a_rate_is_the_exponential(seed, s):
    _, rate = turned(seed)
    q = np.array(v.quaternion_of(rate, s))
    expected = Rotation.from_rotvec(s * np.array(rate))
    assert np.linalg.norm(q) == pytest.approx(1.0, abs=1e-14)
    assert v.rotate(tuple(q), (0.3, -0.2, 0.9)) == pytest.approx(expected.apply((0.3, -0.2, 0.9)), abs=1e-13)
    h = 1e-6  # its rate at the start of a turn
    step = (np.array(v.quaternion_of(rate, h)) - (1.0, 0.0, 0.0, 0.0)) / h
    assert v.quaternion_rate(rate, (1.0, 0.0, 0.0, 0.0)) == pytest.approx(step, abs=1e-5)


@quick
@given(fours, fours, sizes)
def test_quaternions_add_and_are_made_unit(p, q, s):
    total = v.further(p, s, q)
    assert total == tuple(np.array(p) + s * np.array(q))
    if np.linalg.norm(total) > 1e-3:
        assert v.unit_quaternion(total) == pytest.approx(np.array(total) / np.linalg.norm(total))


def test_what_stands_in_a_row_is_read_and_written_from_a_column_on():
    table = np.zeros((3, 6))
    v.put(table, 1, 2, (1.0, 2.0, 3.0))
    v.add(table, 1, 2, (10.0, 20.0, 30.0))
    assert v.vector(table, 1, 2) == (11.0, 22.0, 33.0)
    v.put_quaternion(table, 2, 1, (1.0, 2.0, 3.0, 4.0))
    assert v.quaternion(table, 2, 1) == (1.0, 2.0, 3.0, 4.0)
    assert table.tolist() == [[0.0] * 6, [0, 0, 11, 22, 33, 0], [0, 1, 2, 3, 4, 0]]
