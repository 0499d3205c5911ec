"""The small kernels that everything stands on, each against its closed form or against NumPy."""

from __future__ import annotations

from math import exp, pi, sqrt

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from yapa.engine.kernels import layout as L
from yapa.engine.kernels.contact.pair_law import effective_restitution, tangents
from yapa.engine.kernels.dynamics.flight import momentum_of, place_at, spin_of, step_limit
from yapa.engine.kernels.dynamics.forces.damping import decay_factors
from yapa.engine.kernels.geometry.time_of_impact import first_meeting
from yapa.engine.kernels.math.elimination import lu_solve
from yapa.engine.runner import Program

seeds = st.integers(0, 2**31)
H = 1 / 240


def meeting(gap, rate):
    """When a ball on a floor meets it in a substep, whose height over it is a cubic: coefficients of s² and s³."""
    program = Program(scene({"ball": ball(), "floor": floor()}, duration=H))
    space = program.workspace()
    P, _, start, _ = program.prepare_run(space, None, np.array([0.0, H]), H, None)
    program.run(None, np.array([0.0, H]), H)
    flight, end = space._arrays[L.workspace_table.DENSE], space._arrays[L.workspace_table.END]
    start[0, 2] = 0.05
    flight[0], end[0] = 0.0, start[0]
    flight[0, 12], flight[0, 14], flight[0, 15] = 0.05, gap, rate
    end[0, 2] = 0.05 + H * H * (gap + H * rate)
    end[0, 9] = H * (2 * gap + 3 * H * rate)
    return first_meeting.host(0, 0, H, 0.0, start, P, space.scene, space.ws)


def test_what_presses_first_and_parts_only_then_is_held_up_to_where_its_force_comes_to_zero():
    a = 4.9
    for turn in (0.2, 0.5, 0.9):  # where in the substep it would turn back if it were let go: twice as late as it parts
        assert meeting(-a, 2 * a / (3 * turn * H)) == pytest.approx(0.5 * turn * H, rel=1e-6)


def test_what_dips_by_next_to_nothing_is_let_go():
    assert meeting(-1e-6, 0.8 * 1e-6 / H) == -1.0
    assert meeting(-1e-3, 0.8 * 1e-3 / H) > 0.0


def elimination(A, b):
    """Solve by the engine's elimination: what it says, and the solution."""
    n = len(b)
    room, x = np.full((n, n + 4), 7.0), b.copy()
    room[:, :n] = A
    return lu_solve(n, room, x), x


@settings(max_examples=60, deadline=None)
@given(seeds, st.integers(1, 40))
def test_elimination_solves_what_numpy_solves(seed, n):
    rng = np.random.default_rng(seed)
    A, b = rng.normal(size=(n, n)) + np.eye(n), rng.normal(size=n)
    told, x = elimination(A, b)
    if np.linalg.cond(A) < 1e8:
        assert told > 0
        assert np.linalg.norm(A @ x - b) <= 1e-7 * np.linalg.norm(b) * max(1.0, np.linalg.norm(x))


@pytest.mark.parametrize("n", [2, 5, 8, 13])
def test_elimination_tells_what_is_singular_and_what_is_nearly(n):
    rng = np.random.default_rng(n)
    A = rng.normal(size=(n, n))
    A[-1] = A[0]
    assert elimination(np.zeros((n, n)), np.ones(n))[0] == 0
    assert elimination(A + 1e-9 * np.eye(n), np.ones(n))[0] in (0, 2)
    assert elimination(np.eye(n), np.ones(n))[0] == 1


def test_elimination_reads_no_more_than_its_rows():
    """What stands in the spare columns of the matrix enters no answer."""
    A, b = np.array([[2.0, 1.0, 0.5], [1.0, 3.0, 0.2], [0.0, 1.0, 4.0]]), np.array([1.0, 2.0, 3.0])
    answers = []
    for rubbish in (0.0, 1e300, np.nan):
        room, x = np.full((3, 7), rubbish), b.copy()
        room[:, :3] = A
        lu_solve(3, room, x)
        answers.append(x)
    assert np.array_equal(answers[0], answers[1])
    assert np.array_equal(answers[0], answers[2])
    assert answers[0] == pytest.approx(np.linalg.solve(A, b))


def unit(seed):
    v = np.random.default_rng(seed).normal(size=3)
    return v / np.linalg.norm(v)


@settings(max_examples=100, deadline=None)
@given(seeds)
def test_tangents_make_a_right_handed_frame_with_the_normal(seed):
    n = unit(seed)
    t = np.array(tangents(tuple(n)))
    frame = np.vstack([n, t])
    assert frame @ frame.T == pytest.approx(np.eye(3), abs=1e-14)
    assert np.cross(n, t[0]) == pytest.approx(t[1], abs=1e-14)


@settings(max_examples=100, deadline=None)
@given(seeds)
def test_spin_and_momentum_undo_each_other(seed):
    rng = np.random.default_rng(seed)
    q, spin, moments = rng.normal(size=4), rng.normal(size=3) * 20, 10 ** rng.uniform(-4, 1, 3)
    q /= np.linalg.norm(q)
    momentum = momentum_of(tuple(q), tuple(spin), tuple(moments))
    R = Rotation.from_quat(q, scalar_first=True).as_matrix()
    assert momentum == pytest.approx(R @ np.diag(moments) @ R.T @ spin, rel=1e-10, abs=1e-14)
    assert spin_of(0, tuple(q), momentum, tuple(moments)) == pytest.approx(spin, rel=1e-8)


@pytest.mark.parametrize("lock", [8, 16, 32, 8 + 16, 8 + 32, 16 + 32])
def test_a_locked_axis_does_not_turn_and_what_is_left_keeps_its_momentum(lock):
    rng = np.random.default_rng(lock)
    q, moments = rng.normal(size=4), np.array([0.2, 0.5, 0.9])
    q /= np.linalg.norm(q)
    R = Rotation.from_quat(q, scalar_first=True).as_matrix()
    inertia = R @ np.diag(moments) @ R.T
    free = np.array([lock & 8 == 0, lock & 16 == 0, lock & 32 == 0])
    momentum = rng.normal(size=3)
    spin = np.array(spin_of(lock, tuple(q), tuple(momentum), tuple(moments)))
    assert (spin[~free] == 0).all()
    assert (inertia @ spin)[free] == pytest.approx(momentum[free])


@settings(max_examples=100, deadline=None)
@given(st.floats(0, 50), st.floats(1e-9, 0.2))
def test_decay_and_its_integrals(c, s):
    decay, first, second = decay_factors(c, s)
    assert decay == pytest.approx(exp(-c * s), rel=1e-12)
    if c * s > 1e-3:
        assert first == pytest.approx((1 - exp(-c * s)) / c, rel=1e-9)
        assert second == pytest.approx((s - (1 - exp(-c * s)) / c) / c, rel=1e-6)
    else:
        assert first == pytest.approx(s, rel=1e-3)
        assert second == pytest.approx(0.5 * s * s, rel=1e-3)


def law(e, falloff=0.0, reference=1.0):
    row = np.zeros(L.material.COUNT)
    row[L.material.RESTITUTION], row[L.material.FALLOFF], row[L.material.REFERENCE] = e, falloff, reference
    return row


def test_restitution_ends_smoothly_between_the_cut_off_and_twice_it():
    speeds = np.linspace(0.0, 0.3, 3001)
    e = np.array([effective_restitution(law(0.7), v, 0.1) for v in speeds])
    assert (e[speeds <= 0.1] == 0).all()
    assert (e[speeds >= 0.2] == 0.7).all()
    assert (np.diff(e) >= -1e-15).all()
    slope = np.diff(e) / np.diff(speeds)
    assert np.abs(np.diff(slope)).max() < 0.02 * slope.max()  # no kink at either end


@pytest.mark.parametrize("power", [0.1, 0.25, 1.0])
def test_restitution_may_fall_with_speed(power):
    assert effective_restitution(law(0.8, power, 2.0), 1.5, 0.01) == 0.8
    assert effective_restitution(law(0.8, power, 2.0), 4.0, 0.01) == pytest.approx(0.8 * 2.0**-power)


def flying(speed, k, gravity=9.81, up=0.0, h=1.0):
    """The step that a body with this drag constant [1/m] takes at this speed."""
    S, P, cfg = np.zeros((1, 16)), np.zeros((1, L.body.COUNT)), np.zeros(L.config.COUNT)
    S[0, 7], S[0, 9] = speed, up
    P[0, L.body.DRAG], P[0, L.body.INV_MASS], P[0, L.body.GRAVITY], P[0, L.body.BALL] = k, 1.0, 1.0, 1.0
    cfg[L.config.GRAVITY + 2] = -gravity
    return step_limit(0, S, P, cfg, h, True)


def test_steps_are_short_where_drag_turns_fast_and_without_drag_as_long_as_may_be():
    assert flying(3.0, 0.0) == 1.0
    assert flying(0.1, 0.001) < flying(0.4, 0.001) < flying(1.0, 0.001)  # slow: gravity turns the motion at once
    assert flying(40.0, 0.01) < flying(10.0, 0.01)  # fast: drag itself changes
    assert flying(1.0, 0.1) < flying(1.0, 0.01)


@settings(max_examples=60, deadline=None)
@given(st.floats(0.02, 20.0), st.floats(1e-4, 5.0), st.floats(-10.0, 10.0))
def test_a_step_keeps_what_runge_kutta_errs_within_bounds(speed, k, up):
    """One step against many small ones: the error of the velocity stays near what the limits promise."""
    def rate(v):
        return np.array([0.0, -9.81]) - k * np.linalg.norm(v) * v

    def go(v, h):
        a = rate(v)
        b = rate(v + h / 2 * a)
        c = rate(v + h / 2 * b)
        d = rate(v + h * c)
        return v + h / 6 * (a + 2 * b + 2 * c + d)

    h = min(flying(speed, k, up=up), 0.1)
    v = np.array([speed, up])
    fine = v.copy()
    for _ in range(64):
        fine = go(fine, h / 64)
    assert np.linalg.norm(go(v, h) - fine) <= 2e-6 * h + 1e-9 * np.linalg.norm(v)


def test_the_quintic_is_read_with_its_own_rate():
    D, E = np.zeros((1, L.dense.COUNT)), np.zeros((1, 16))
    D[0, :18] = np.random.default_rng(0).normal(size=18)
    for s in (0.0, 0.01, 0.3):
        place_at(0, s, D, E)
        here = E[0, :3].copy()
        rate = E[0, 7:10].copy()
        place_at(0, s + 1e-6, D, E)
        assert (E[0, :3] - here) / 1e-6 == pytest.approx(rate, abs=1e-4)


def test_the_drag_constant_of_the_flight_is_that_of_the_formula():
    """k = ½ ρ C_d A / m: the terminal speed of a ball follows from it."""
    from benchmarks.scenes import ball, scene

    from yapa.engine import simulate

    case = scene({"b": ball(0.05, mass=0.02, drag_coefficient=0.5, position=(0, 0, 200.0))}, duration=8.0)
    k = 0.5 * case.fields.air.density * 0.5 * pi * 0.05**2 / 0.02
    assert -simulate(case).states[-1, 0, 9] == pytest.approx(sqrt(case.fields.gravity / k), rel=1e-6)
