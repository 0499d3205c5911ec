"""Finite differences and Broyden's correction, against derivatives that are known."""

from __future__ import annotations

import numpy as np
import pytest

from yapa.fitting.optimise.differences import broyden, central, forward

A = np.array([[1.0, -2.0, 0.5], [0.0, 3.0, 1.0]])


def curved(p):
    return A @ p + np.array([p[0] ** 2, p[1] * p[2]])


def slope(p):
    return A + np.array([[2 * p[0], 0.0, 0.0], [0.0, p[2], p[1]]])


@pytest.mark.parametrize("p", [(0.3, 0.5, 0.7), (0.0, 0.0, 0.0), (1.0, 1.0, 1.0)])
def test_differences_are_the_derivative_also_at_the_walls_of_the_box(p):
    p = np.array(p)
    seen = []

    def inside(q):
        seen.append(q)
        return curved(q)

    for j in range(3):
        assert forward(inside, p, curved(p), j, 1e-6) == pytest.approx(slope(p)[:, j], abs=3e-6)
        assert central(inside, p, j, 1e-5) == pytest.approx(slope(p)[:, j], abs=3e-5)
    assert all((q >= 0).all() and (q <= 1).all() for q in seen)


def test_a_central_difference_of_a_parabola_is_exact():
    p = np.array([0.4, 0.5, 0.6])
    assert central(curved, p, 0, 1e-3) == pytest.approx(slope(p)[:, 0], abs=1e-12)


def test_a_corrected_jacobian_gives_the_change_that_was_seen_and_is_the_same_across_the_step():
    step, change = np.array([0.1, -0.2, 0.05]), np.array([0.7, -0.3])
    J = broyden(A, step, change)
    assert J @ step == pytest.approx(change, abs=1e-12)
    across = np.array([2.0, 1.0, 0.0])  # at a right angle to the step
    assert J @ across == pytest.approx(A @ across, abs=1e-12)
