"""A track divided into parabolas."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from yapa.tracking.change_points import _misfits, jumps, pieces


def sampled(rate, seconds, *curves, sigma=1e-3, seed=0):
    rng = np.random.default_rng(seed)
    t = np.arange(0, seconds, 1 / rate)
    return t, np.column_stack([np.vectorize(curve)(t) for curve in curves]) + rng.normal(size=(len(t), len(curves))) * sigma


@settings(max_examples=30, deadline=None)
@given(st.integers(4, 40), st.integers(0, 1000))
def test_misfits_are_those_of_a_least_squares_parabola(n, seed):
    rng = np.random.default_rng(seed)
    t, x = np.sort(rng.uniform(0, 3, n)), rng.normal(size=(n, 2))
    ends = np.array([n - 1, n])
    for end, got in zip(ends, _misfits(t, x, ends), strict=True):
        for i in range(end - 3):
            want = sum(np.sum((c[i:end] - np.polyval(np.polyfit(t[i:end], c[i:end], 2), t[i:end])) ** 2) for c in x.T)
            assert got[end - i - 1] == pytest.approx(want, rel=1e-6, abs=1e-9)
        assert (got[:3] == 0).all()


@pytest.mark.parametrize("rate", [30, 60, 240])
def test_one_flight_is_one_piece(rate):
    t, x = sampled(rate, 1.0, lambda s: 2 * s, lambda s: 1 + s - 4.9 * s * s)
    assert pieces(t, x, 1e-3) == [0]
    assert jumps(t, x, 1e-3) == []


@pytest.mark.parametrize("rate", [30, 60, 240])
def test_a_bounce_is_a_jump_between_its_two_frames(rate):
    hit, v = 0.5031, 4.9
    t, x = sampled(rate, 1.0, lambda s: 1.0 * s, lambda s: v * abs(s - hit) - 4.9 * (s - hit) ** 2)
    found = jumps(t, x, 1e-3)
    assert len(found) == 1
    assert t[found[0].before] <= hit + 1 / rate
    assert abs(found[0].time - hit) <= 1 / rate
    assert found[0].by == pytest.approx([0.0, 2 * v], abs=0.1)


def test_a_change_of_acceleration_is_no_jump():
    def braked(s):
        return 1.5 * s - 0.98 * s * s if s < 0.5 else 1.5 * 0.5 - 0.98 * 0.25 + (1.5 - 1.96 * 0.5) * (s - 0.5)

    t, x = sampled(120, 1.5, braked)
    assert len(pieces(t, x, 1e-3)) == 2
    assert jumps(t, x, 1e-3) == []


def test_a_sideways_push_jumps_sideways():
    t, x = sampled(120, 1.0, lambda s: 0.5 * s + max(0.0, s - 0.4) * 0.8, lambda s: 0.04)
    found = jumps(t, x, 1e-3)
    assert [abs(j.time - 0.4) < 0.02 for j in found] == [True]
    assert found[0].by[0] == pytest.approx(0.8, abs=0.05)


def test_a_long_track_is_divided_as_a_short_one():
    period = 0.8
    t, x = sampled(480, 8.0, lambda s: 3.0 * (s % period) - 3.75 * (s % period) ** 2)
    found = [j.time for j in jumps(t, x, 1e-3)]
    assert np.allclose(found, period * np.arange(1, 10), atol=0.01)
