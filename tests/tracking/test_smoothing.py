"""Local polynomials, held to SciPy's."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.signal import savgol_filter

from yapa.tracking.smoothing import local_polynomials


@pytest.mark.parametrize(("count", "window", "order"), [(40, 7, 2), (9, 9, 3), (25, 5, 1), (30, 3, 2), (12, 11, 4)])
def test_values_and_slopes_are_those_of_the_polynomial_through_each_window(count, window, order):
    x = np.random.default_rng(3).normal(size=(count, 3)).cumsum(axis=0)
    value, slope = local_polynomials(x, window, order, 0.01)
    assert value == pytest.approx(savgol_filter(x, window, order, axis=0), abs=1e-12)
    assert slope == pytest.approx(savgol_filter(x, window, order, deriv=1, delta=0.01, axis=0), abs=1e-9)


def test_a_polynomial_is_its_own():
    t = np.arange(50) * 0.02
    x = np.column_stack([1 + 2 * t - 4.9 * t**2, t])
    value, slope = local_polynomials(x, 9, 2, 0.02)
    assert value == pytest.approx(x, abs=1e-12)
    assert slope[:, 0] == pytest.approx(2 - 9.8 * t, abs=1e-10)
