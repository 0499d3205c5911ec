"""Free flight against closed forms."""

import numpy as np
import pytest
from benchmarks.scenes import G, ball, floor, scene

from yapa.case import Air, Body, Box, Fields
from yapa.engine import simulate


def test_a_drop_follows_the_bounce_series():
    e, h, r = 0.8, 1.0, 0.05
    motion = simulate(scene({"b": ball(r, position=(0.0, 0.0, h + r)), "f": floor()}, duration=5.0, restitution=e))
    t1 = np.sqrt(2 * h / G)
    want = t1 + np.concatenate([[0.0], np.cumsum(2 * e ** np.arange(1, 12) * t1)])
    got = np.array([c.time for c in motion.contacts[:12]])
    assert np.abs(got - want).max() < 1e-12
    up = np.array([0.0, 0.0, 1.0])
    for k in range(8):
        top, _ = motion.trajectory("b").maximum_along(up, got[k], got[k + 1])
        assert top - r == pytest.approx(e ** (2 * (k + 1)) * h, abs=1e-10)
    assert motion.contacts[-1].time == pytest.approx(t1 * (1 + e) / (1 - e), abs=3e-3)  # the cut-off ends it early
    assert motion.states[-1, 0, 2] == pytest.approx(r, abs=1e-9)


def test_quadratic_drag_from_rest():
    mass, r, cd, rho = 0.1, 0.05, 0.5, 1.2041
    case = scene({"b": ball(r, mass=mass, drag_coefficient=cd, position=(0.0, 0.0, 100.0))}, duration=3.0)
    motion = simulate(case)
    vt = np.sqrt(mass * G / (0.5 * rho * cd * np.pi * r * r))
    t = motion.times
    fall = vt**2 / G * np.log(np.cosh(G * t / vt))
    assert np.abs(100.0 - motion.states[:, 0, 2] - fall).max() < 1e-9
    assert np.abs(-motion.states[:, 0, 9] - vt * np.tanh(G * t / vt)).max() < 1e-9


@pytest.mark.parametrize("c", [0.1, 2.0, 20.0])
def test_linear_damping_decays_exactly(c):
    case = scene({"b": ball(velocity=(3.0, 0.0, 0.0), angular_velocity=(0.0, 7.0, 0.0), linear_damping=c, angular_damping=c)},
                 gravity=0.0)
    motion = simulate(case)
    t = motion.times
    assert np.abs(motion.states[:, 0, 7] - 3.0 * np.exp(-c * t)).max() < 1e-9
    assert np.abs(motion.states[:, 0, 0] - 3.0 / c * -np.expm1(-c * t)).max() < 1e-9
    assert np.abs(motion.states[:, 0, 14] - 7.0 / c * -np.expm1(-c * t)).max() < 1e-9


def test_damping_and_drag_together_agree_with_the_fine_solution():
    from scipy.integrate import solve_ivp

    body = ball(0.05, mass=0.1, drag_coefficient=0.6, linear_damping=1.5, velocity=(6.0, 1.0, 4.0), position=(0, 0, 9.0))
    case = scene({"b": body}, duration=1.0)
    case = case.model_copy(update={"fields": Fields(air=Air(wind=(2.0, -1.0, 0.0)))})
    k = 0.5 * 1.2041 * 0.6 * np.pi * 0.05**2 / 0.1
    wind = np.array([2.0, -1.0, 0.0])

    def rate(_t, y):
        u = y[3:] - wind
        return np.concatenate([y[3:], [0, 0, -G] - 1.5 * y[3:] - k * np.linalg.norm(u) * u])

    exact = solve_ivp(rate, (0, 1), [0, 0, 9, 6, 1, 4], method="DOP853", rtol=1e-12, atol=1e-12).y[:, -1]
    got = simulate(case).states[-1, 0]
    assert np.abs(got[:3] - exact[:3]).max() < 1e-9
    assert np.abs(got[7:10] - exact[3:]).max() < 1e-9


def test_a_torque_free_box_keeps_energy_and_momentum_while_its_middle_axis_flips():
    size = np.array([0.3, 0.2, 0.1])
    body = Body(shapes=(Box(kind="box", size=tuple(size)),), mass=1.0, angular_velocity=(1e-3, 5.0, 1e-3))
    motion = simulate(scene({"b": body}, duration=20.0, gravity=0.0))
    inertia = 1 / 12 * np.array([size[1] ** 2 + size[2] ** 2, size[0] ** 2 + size[2] ** 2, size[0] ** 2 + size[1] ** 2])
    q, w = motion.states[:, 0, 3:7], motion.states[:, 0, 10:13]
    R = np.stack([_turn(q, np.eye(3)[i]) for i in range(3)], axis=2)
    local = np.einsum("tji,tj->ti", R, w)
    energy = 0.5 * (inertia * local**2).sum(axis=1)
    momentum = np.einsum("tij,tj->ti", R, inertia * local)
    assert np.abs(energy / energy[0] - 1).max() < 1e-6
    assert np.abs(momentum - momentum[0]).max() < 1e-12
    assert local[:, 1].min() < -4.9  # it flipped


def _turn(q, v):
    w, u = q[:, :1], q[:, 1:]
    t = 2 * np.cross(u, v)
    return v + w * t + np.cross(u, t)
