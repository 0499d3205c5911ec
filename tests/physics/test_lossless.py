"""Impacts that take no energy: as many as there are, however they cluster, and nothing lost."""

from __future__ import annotations

from threading import Timer

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa.case import Body, Box
from yapa.engine import simulate


def kept(motion):
    """Share of the energy of the start that is there at the end, less one."""
    total = motion.energy().total
    return total[-1] / total[0] - 1.0


def walls(half):
    normals = [(1, 0, 0), (-1, 0, 0), (0, 1, 0), (0, -1, 0), (0, 0, 1), (0, 0, -1)]
    return {f"wall {k}": floor(n, position=tuple(-half * c for c in n)) for k, n in enumerate(normals)}


def squeezed(mass, speed=1.0):
    """A light ball between a wall and a heavy ball that comes in."""
    return scene({"heavy": ball(0.2, mass=mass, position=(1.0, 0, 0), velocity=(-speed, 0, 0)),
                  "light": ball(0.05, mass=1.0, position=(0.4, 0, 0)), "wall": floor((1, 0, 0))},
                 duration=3.0, gravity=0.0, restitution=1.0)


@pytest.mark.parametrize(("digits", "contacts"), [(0, 3), (1, 31), (2, 314), (3, 3141), (4, 31415)])
def test_a_light_ball_between_a_heavy_one_and_a_wall_counts_the_digits_of_pi(digits, contacts):
    """Galperin, Playing pool with π: 1 : 100ⁿ gives the first n + 1 digits."""
    motion = simulate(squeezed(100.0**digits))
    assert motion.status == "complete"
    assert motion.regime_switches == 0
    assert len(motion.contacts) == contacts
    assert abs(kept(motion)) < 1e-10


def test_a_ball_between_two_of_ten_tons_bounces_until_they_part():
    """The count is that of a loop over one dimension, event by event."""
    x, v, m = np.array([-0.75, 0.0, 0.9]), np.array([1.0, 0.0, -0.7]), np.array([1e4, 1.0, 1e4])
    gaps, count = np.array([0.25, 0.25]), 0
    while True:
        closing = v[:2] - v[1:]
        with np.errstate(divide="ignore"):
            when = np.where(closing > 0, (x[1:] - x[:2] - gaps) / closing, np.inf)
        k = int(np.argmin(when))
        if not np.isfinite(when[k]):
            break
        x = x + v * max(when[k], 0.0)
        j = 2 * closing[k] / (1 / m[k] + 1 / m[k + 1])
        v[k], v[k + 1] = v[k] - j / m[k], v[k + 1] + j / m[k + 1]
        count += 1
    bodies = {name: ball(r, mass=mass, position=(at, 0, 0), velocity=(speed, 0, 0)) for name, r, mass, at, speed in (
        ("left", 0.2, 1e4, -0.75, 1.0), ("light", 0.05, 1.0, 0.0, 0.0), ("right", 0.2, 1e4, 0.9, -0.7))}
    motion = simulate(scene(bodies, duration=3.0, gravity=0.0, restitution=1.0))
    assert len(motion.contacts) == count == 222
    assert np.allclose(motion.states[-1, :3, 7], v, atol=1e-9)
    assert abs(kept(motion)) < 1e-12


@pytest.mark.parametrize(("seed", "gravity"), [(0, 0.0), (1, 0.0), (2, 9.81)])
def test_fifteen_balls_of_any_mass_keep_their_energy_in_a_closed_box(seed, gravity):
    rng = np.random.default_rng(seed)
    bodies = {
        f"ball {k}": ball(float(rng.uniform(0.04, 0.1)), mass=float(10 ** rng.uniform(-2, 2)),
                          position=(0.25 * (k % 3 - 1), 0.25 * (k // 3 % 3 - 1), 0.3 * (k // 9) - 0.15),
                          velocity=tuple((3 * rng.normal(size=3)).tolist()))
        for k in range(15)}
    motion = simulate(scene({**bodies, **walls(0.4)}, duration=5.0, gravity=gravity, restitution=1.0, restitution_threshold=1e-5))
    assert motion.status == "complete"
    assert motion.regime_switches == 0
    assert not motion.remarks
    assert abs(kept(motion)) < 1e-9
    assert len(motion.contacts) > 3000


def test_a_row_of_twenty_balls_in_contact_passes_on_what_five_bring():
    """Seventy-five impacts at one instant: none of them is without restitution."""
    places = [0.1 * k for k in range(20)] + [-1.0 - 0.1 * k for k in range(5)]
    bodies = {f"ball {k}": ball(0.05, mass=0.2, position=(x, 0, 0), velocity=(1.0 if x < 0 else 0.0, 0, 0))
              for k, x in enumerate(places)}
    motion = simulate(scene(bodies, duration=2.0, gravity=0.0, restitution=1.0))
    speeds = np.sort(motion.states[-1, :, 7])
    assert np.allclose(speeds[-5:], 1.0, atol=1e-9)
    assert np.allclose(speeds[:-5], 0.0, atol=1e-9)


def test_lossless_boxes_keep_their_energy_where_an_edge_crosses_a_face():
    rng = np.random.default_rng(1)
    bodies = {}
    for k in range(15):
        mass, velocity = float(10 ** rng.uniform(-2, 2)), tuple((3 * rng.normal(size=3)).tolist())
        bodies[f"box {k}"] = Body(
            shapes=(Box(kind="box", size=(0.1, 0.12, 0.08), surface="both"),), mass=mass, velocity=velocity,
            position=(0.25 * (k % 3 - 1), 0.25 * (k // 3 % 3 - 1), 0.3 * (k // 9) - 0.15),
            angular_velocity=tuple(rng.normal(size=3).tolist()))
    motion = simulate(scene({**bodies, **walls(0.4)}, duration=1.2, gravity=0.0, restitution=1.0, restitution_threshold=1e-5))
    assert motion.regime_switches == 0
    assert abs(kept(motion)) < 1e-9


def without_end():
    """1 : 1e15: a hundred million impacts."""
    return scene({"heavy": ball(0.2, mass=1e9, position=(1.0, 0, 0), velocity=(-1.0, 0, 0)),
                  "light": ball(0.05, mass=1e-6, position=(0.4, 0, 0)), "wall": floor((1, 0, 0))},
                 duration=3.0, gravity=0.0, restitution=1.0)


def test_a_stop_is_heard_while_impacts_cluster():
    flag = np.zeros(1, np.int64)
    Timer(0.2, flag.__setitem__, (0, 1)).start()
    motion = simulate(without_end(), cancel=flag)
    assert motion.status.startswith("cancelled")
    assert len(motion.contacts) > 50


def test_a_run_whose_impacts_have_no_end_is_stopped_and_says_why():
    stopped = simulate(without_end())
    assert stopped.status.startswith(("too many contacts", "more than a million impacts"))
    assert np.isfinite(stopped.states).all()
