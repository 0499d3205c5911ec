"""The contact law of an island: solved to rounding, whatever the masses and frictions."""

from __future__ import annotations

import numpy as np
import pytest
from benchmarks.instances import instance, solve


@pytest.mark.parametrize("family", ["neighbours", "stack", "tetrahedra"])
def test_random_islands_are_solved_to_rounding(family):
    rng = np.random.default_rng(5)
    errors = [solve(*instance(rng, family))[0] for _ in range(400)]
    assert np.mean(np.array(errors) > 1e-10) <= 0.0025  # 1 of 400: the long run stands in docs/benchmarks.md
    assert np.median(errors) < 1e-14


@pytest.mark.parametrize("family", ["neighbours", "stack", "tetrahedra"])
def test_a_solution_meets_signorini_and_coulomb(family):
    rng = np.random.default_rng(8)
    for _ in range(60):
        W, b, friction = instance(rng, family)
        error, force, speed = solve(W, b, friction)
        if error > 1e-12:
            continue
        size = np.abs(b).max() + np.abs(W @ force).max()
        n, u = force[::3], speed[::3]
        assert (n >= -1e-12 * np.abs(force).max()).all()
        assert (u >= -1e-11 * size).all()
        assert np.abs(n * u).max() <= 1e-10 * size * max(np.abs(force).max(), 1e-30)
        tangential = np.hypot(force[1::3], force[2::3])
        assert (tangential <= friction * n + 1e-9 * np.abs(force).max()).all()
        slip = np.stack([speed[1::3], speed[2::3]], axis=1)
        for k in np.flatnonzero((np.linalg.norm(slip, axis=1) > 1e-7 * size) & (n > 1e-9 * n.max())):
            pull = force[[3 * k + 1, 3 * k + 2]]
            assert pull @ slip[k] <= 0  # friction against the slip, at its bound
            assert np.linalg.norm(pull) == pytest.approx(friction[k] * n[k], rel=1e-6, abs=1e-9 * n.max())


def flat_box(mu, mass=1.0, v=(1.0, 0.3, -2.0)):
    """A box landing flat on four corners."""
    inverse = np.diag([1 / mass] * 3 + [600 / mass] * 3)
    rows = []
    for sx in (-1, 1):
        for sy in (-1, 1):
            r = np.array([0.05 * sx, 0.05 * sy, -0.05])
            rows += [np.concatenate([d, np.cross(r, d)]) for d in np.eye(3)[[2, 0, 1]]]
    J = np.array(rows)
    return J @ inverse @ J.T, J @ np.array([*v, 0, 0, 0]), np.full(4, mu)


@pytest.mark.parametrize("mu", [0.0, 0.3, 5.0])
def test_a_flat_landing_shares_its_force_evenly_where_nothing_tells_the_corners_apart(mu):
    error, force, speed = solve(*flat_box(mu, v=(0.0, 0.0, -2.0)))
    assert error < 1e-12
    assert force[::3] == pytest.approx([0.5] * 4, rel=1e-6)  # rounding over the ε of the least-norm step
    assert np.abs(speed).max() < 1e-12


def test_a_flat_landing_with_friction_beyond_grip_is_a_hard_case_that_solves():
    error, _, speed = solve(*flat_box(5.0))
    assert error < 1e-12
    assert speed[::3].min() > -1e-12


def face_to_face(ratio):
    """Two free boxes meeting face to face; the second is ``ratio`` times heavier."""
    inverse = np.diag([1.0] * 3 + [600.0] * 3 + [1 / ratio] * 3 + [600 / ratio] * 3)
    rows = []
    for sy in (-1, 1):
        for sz in (-1, 1):
            ra, rb = np.array([-0.05, 0.05 * sy, 0.05 * sz]), np.array([0.05, 0.05 * sy, 0.05 * sz])
            for d in (np.array([1.0, 0, 0]), np.array([0, 1.0, 0]), np.array([0, 0, 1.0])):
                rows.append(np.concatenate([d, np.cross(ra, d), -d, -np.cross(rb, d)]))
    J = np.array(rows)
    return J, inverse


@pytest.mark.parametrize("ratio", [1.0, 1e2, 1e4, 1e6])
def test_a_central_hit_face_to_face_keeps_momentum_and_makes_no_spin(ratio):
    J, inverse = face_to_face(ratio)
    v = np.array([-1.0, 0, 0, 0, 0, 0] + [0.0] * 6)
    b = J @ v
    b[::3] *= 2  # restitution 1: as much again
    error, force, _ = solve(J @ inverse @ J.T, b, np.zeros(4))
    after = v + inverse @ J.T @ force
    assert error < 1e-12
    assert after[0] == pytest.approx(-1 + 2 * ratio / (1 + ratio), abs=1e-12)
    assert after[6] == pytest.approx(-2 / (1 + ratio), rel=1e-9)
    assert np.abs(after[[3, 4, 5, 9, 10, 11]]).max() < 1e-12
