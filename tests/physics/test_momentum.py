"""What nothing from outside pushes keeps its momentum, in either regime and however fast the observer moves."""

from __future__ import annotations

import numpy as np
import pytest
from benchmarks.clusters import SHAPES, cluster, drifts
from benchmarks.scenes import ball, floor, scene

from yapa.case import Body, Box, Precise, Sphere, Stepped
from yapa.engine import simulate
from yapa.engine.compile.mass_properties import rotation_matrix


@pytest.mark.parametrize("boost", [0.0, 100.0])
@pytest.mark.parametrize("shape", list(SHAPES))
@pytest.mark.parametrize(("restitution", "friction"), [(0.5, 0.3), (0.0, 0.5), (1.0, 0.0)])
def test_momentum_is_kept_in_either_regime(shape, restitution, friction, boost):
    for seed in range(3):
        motion = simulate(cluster(seed, shape, boost, restitution=restitution, friction=friction))
        assert motion.status == "complete"
        assert drifts(motion)[0] <= 1e-12


@pytest.mark.parametrize("shape", list(SHAPES))
def test_angular_momentum_is_kept_where_bodies_meet_by_impacts_only(shape):
    by_impacts = [motion for motion in (simulate(cluster(seed, shape, restitution=0.5, friction=0.3)) for seed in range(6))
                  if motion.regime_switches == 0 and not motion.contact_intervals]
    assert by_impacts
    assert max(drifts(motion)[1] for motion in by_impacts) <= 1e-10
    assert drifts(simulate(cluster(0, shape, restitution=1.0)))[1] <= 1e-10


def tray(kind, friction, step):
    """A frame of four planks that spins in free space, and a body that slides along the inside of one, pressed out against it."""
    planks = [((0.02, 1.0, 0.1), (0.5, 0, 0)), ((0.02, 1.0, 0.1), (-0.5, 0, 0)), ((1.0, 0.02, 0.1), (0, 0.5, 0)),
              ((1.0, 0.02, 0.1), (0, -0.5, 0))]
    frame = Body(shapes=tuple(Box(kind="box", size=size, position=at, surface="both") for size, at in planks), mass=2.0,
                 angular_velocity=(0, 0, 3.0))
    shape = (Sphere(kind="sphere", radius=0.05, surface="both") if kind == "ball"
             else Box(kind="box", size=(0.1, 0.1, 0.08), surface="both"))
    inside = Body(shapes=(shape,), mass=0.5, position=(0.44, 0.1, 0), velocity=(-0.3, 1.62, 0), angular_velocity=(0, 0, 3.0))
    return scene({"frame": frame, "inside": inside}, duration=0.5, gravity=0.0, friction=friction,
                 profile=Precise(restitution_threshold=1e-3, step=step))


@pytest.mark.parametrize("kind", ["ball", "box"])
@pytest.mark.parametrize("friction", [0.0, 0.2, 0.6])
def test_in_sustained_contact_the_error_of_angular_momentum_falls_with_the_square_of_the_step(kind, friction):
    usual = simulate(tray(kind, friction, Precise().step))
    assert usual.contact_intervals
    assert usual.regime_switches == 0
    assert drifts(usual)[1] <= 1e-5
    errors = [drifts(simulate(tray(kind, friction, step)))[1] for step in (1 / 960, 1 / 1920, 1 / 3840)]
    assert errors[0] > 3.5 * errors[1] > 3.5**2 * errors[2] > 0.0


def test_a_crowd_that_touches_nothing_fixed_keeps_its_momentum_and_gains_no_energy():
    found = 0
    for seed in range(12):
        motion = simulate(cluster(seed, "box", friction=0.5))
        if motion.regime_switches:
            found += 1
            momentum, turning = drifts(motion)
            total = motion.energy().total
            assert momentum <= 1e-12
            assert turning < 0.01
            assert (total - np.minimum.accumulate(total)).max() <= 1e-7 * total[0]
    assert found > 3


def test_what_a_guard_takes_leaves_momentum_and_angular_momentum_alone():
    """The kernel itself, on bodies that move and turn anyhow."""
    from yapa.engine import program_for
    from yapa.engine.kernels.dynamics.energy import take_inside

    program = program_for(cluster(5, "can"))
    states, props = program.state.copy(), program.props
    order = np.arange(6)

    def momenta():
        mass = (1 / props[:, 0])[:, None]
        turning = mass * np.cross(states[:, :3], states[:, 7:10])
        for i in range(6):
            axes = rotation_matrix(states[i, 3:7])
            turning[i] += axes @ (props[i, 1:4] * (axes.T @ states[i, 10:13]))
        return (mass * states[:, 7:10]).sum(axis=0), turning.sum(axis=0)

    before = momenta()
    taken = take_inside.host(0.5, 0.0, 100.0, 6, order, states, props)
    after = momenta()
    assert taken == 0.5
    assert np.allclose(before[0], after[0], rtol=0, atol=1e-12)
    assert np.allclose(before[1], after[1], rtol=0, atol=1e-12)


def test_the_order_of_the_bodies_in_a_case_changes_no_outcome():
    """A row of balls in contact that one hits: what is solved first is told first, whatever stands first in the file."""
    from itertools import permutations

    from yapa import api

    bodies = {f"ball {k}": ball(0.03, mass=0.1, position=(0.06 * k if k else -0.3, 0, 0), velocity=(0.0 if k else 1.0, 0, 0),
                                linear_damping=0.3) for k in range(4)}

    def outcomes(names):
        motion = simulate(scene({name: bodies[name] for name in names}, duration=3.0, gravity=0.0, restitution=0.9))
        return {(body, key): reading.value for body, rows in api.measure_motion(motion, every=True).items()
                for key, reading in rows.items()}

    first = outcomes(list(bodies))
    for names in list(permutations(bodies))[1::5]:
        again = outcomes(names)
        for key, value in first.items():
            assert (again[key] is None) == (value is None), key
            assert value is None or abs(again[key] - value) <= 1e-12, key


def rolling_and_heaped(names=None):
    """Touching balls that roll on a floor, crates that topple onto each other."""
    bodies = {f"ball {k}": ball(0.03, mass=0.1, position=(0.06 * k if k else -0.3, 0, 0.03), velocity=(0.0 if k else 1.0, 0, 0))
              for k in range(4)}
    box = Box(kind="box", size=(0.1, 0.1, 0.1), surface="both")
    bodies |= {f"crate {k}": Body(shapes=(box,), mass=0.5 + k, position=(1.2 + 0.03 * k, 0.02 * k, 0.2 + 0.12 * k))
               for k in range(3)} | {"floor": floor()}
    return bodies if names is None else {name: bodies[name] for name in names}


@pytest.mark.parametrize("profile", [None, Stepped()], ids=["precise", "stepped"])
def test_what_rolls_touching_and_what_is_heaped_is_the_same_to_the_bit_in_any_order(profile):
    """Rounding, which a row of touching balls and a heap magnify, does not depend on what stands first in the file."""
    laws = {"restitution": 0.9, "friction": 0.3, "rolling_resistance": 0.004, "duration": 1.5, "profile": profile}
    first = simulate(scene(rolling_and_heaped(), **laws))
    for names in (first.names[::-1], sorted(first.names, key=lambda name: name[::-1])):
        again = simulate(scene(rolling_and_heaped(names), **laws))
        assert again.names == names
        for name in names:
            mine, theirs = (motion.states[:, motion.names.index(name)] for motion in (first, again))
            assert np.array_equal(mine, theirs), name
        assert [(c.time, c.body, c.partner) for c in first.contacts] == [(c.time, c.body, c.partner) for c in again.contacts]
