"""Outcomes are smooth in every unknown away from branchings: a fit can take derivatives."""

from __future__ import annotations

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa.engine import simulate
from yapa.outcomes import measure


def throw():
    b = ball(0.04, mass=0.15, position=(0, 0, 0.9), velocity=(1.8, 0, 1.0), angular_velocity=(0, -60.0, 0), drag_coefficient=0.5)
    return scene({"b": b, "f": floor()}, duration=3.0, rate=60.0, restitution=0.65, friction=0.2, rolling_resistance=0.02)


def drop():
    return scene({"b": ball(0.04, mass=0.15, position=(0, 0, 1.04), drag_coefficient=0.5), "f": floor()}, duration=2.5, rate=240.0,
                 restitution=0.65, friction=0.2)


def third_apex(case, values):
    """Exact between contacts: the highest place of the dense motion."""
    motion = simulate(case, values)
    hits = [c.time for c in motion.contacts]
    return motion.trajectory("b").maximum_along(np.array([0, 0, 1.0]), hits[2], hits[3])[0]


def rest_place(case, values):
    return simulate(case, values).states[-1, 0, 0]


CASES = [
    (throw, rest_place, "surfaces.both.restitution", 0.65), (throw, rest_place, "surfaces.both.friction", 0.2),
    (throw, third_apex, "surfaces.both.restitution", 0.65), (drop, third_apex, "surfaces.both.restitution", 0.65),
]


@pytest.mark.parametrize(("make", "outcome", "path", "centre"), CASES)
def test_an_outcome_lies_on_a_local_cubic(make, outcome, path, centre):
    case = make()
    x = centre * (1 + 1e-3 * np.linspace(-1, 1, 81))
    y = np.array([outcome(case, {path: float(v)}) for v in x])
    rough = []
    for k in range(0, 80, 16):  # branchings apart, the pieces between them are smooth
        piece = slice(k, k + 17)
        cubic = np.polynomial.Polynomial.fit(x[piece], y[piece], 3)
        rough.append(np.abs(cubic(x[piece]) - y[piece]).max())
    assert np.median(rough) < 1e-8


@pytest.mark.parametrize(("make", "outcome", "path", "centre"), CASES[2:])
def test_central_differences_agree_over_three_decades(make, outcome, path, centre):
    case = make()
    slopes = [(outcome(case, {path: centre * (1 + d)}) - outcome(case, {path: centre * (1 - d)})) / (2 * d * centre)
              for d in (1e-6, 1e-5, 1e-4, 1e-3)]
    assert max(slopes) - min(slopes) < 1e-4 * abs(slopes[1])


def test_measured_outcomes_of_a_motion_do_not_depend_on_its_samples():
    case = drop()
    few = measure(simulate(case, times=np.linspace(0, 2.5, 301)), "b")
    many = measure(simulate(case, times=np.linspace(0, 2.5, 1201)), "b")
    for name in ("apex 1", "apex 2", "landing 1"):
        assert few[name].value == pytest.approx(many[name].value, abs=1e-7)
