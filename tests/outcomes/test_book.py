"""The books: what a contact takes and gives, and what happens between contacts."""

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa.engine import simulate
from yapa.outcomes.balance import contact_book, flight_book


def dropped(**changes):
    orange = ball(0.05, mass=0.2, position=(0, 0, 1.05), **changes)
    return simulate(scene({"b": orange, "f": floor()}, duration=1.5, restitution=0.6, friction=0.3))


def test_a_drop_loses_one_minus_e_squared_of_its_energy_at_the_plate():
    entry = contact_book(dropped(), "b")[0]
    energy = 0.2 * 9.80665 * 1.0
    assert entry.restitution == pytest.approx(0.6, rel=1e-9)
    assert entry.energy_before == pytest.approx(energy, rel=1e-9)
    assert entry.energy_change == pytest.approx(-energy * (1 - 0.36), rel=1e-9)
    assert entry.momentum_normal == pytest.approx(0.2 * 1.6 * np.sqrt(2 * 9.80665), rel=1e-9)
    assert entry.momentum_across == pytest.approx(0.0, abs=1e-12)


def test_gripping_takes_momentum_across_and_turning_is_in_the_book():
    entry = contact_book(dropped(velocity=(0.5, 0, 0)), "b")[0]
    taken = 0.2 * 0.5 * 2 / 7
    assert entry.momentum_across == pytest.approx(taken, rel=1e-9)
    turning = 0.5 * 0.2 * 0.5**2 * (1 - 5 / 7)  # a ball that grips keeps 5/7 of its energy of travel
    assert entry.energy_change == pytest.approx(-0.2 * 9.80665 * 0.64 - turning, rel=1e-9)


def test_nothing_is_lost_in_a_flight_without_air_and_drag_takes_some():
    free, braked = flight_book(dropped(), "b"), flight_book(dropped(linear_damping=0.3), "b")
    assert all(abs(e.energy_change) < 1e-9 and e.momentum_change < 1e-9 for e in free[:3])
    assert braked[0].energy_change < -0.05
    assert braked[0].momentum_change > 0.01


def test_both_balls_of_a_hit_are_in_the_book_of_either():
    motion = simulate(scene({"a": ball(0.05, mass=0.2, position=(0, 0, 0.05), velocity=(1, 0, 0)),
                             "b": ball(0.05, mass=0.2, position=(0.3, 0, 0.05)), "f": floor()}, duration=0.5, restitution=0.5,
                            friction=0.0))
    ours, theirs = contact_book(motion, "a")[0], contact_book(motion, "b")[0]
    assert ours.energy_change == pytest.approx(theirs.energy_change) == pytest.approx(-0.5 * 0.2 * (1 - 0.25) / 2)
    assert ours.momentum_normal == pytest.approx(theirs.momentum_normal) == pytest.approx(0.2 * 0.75)
