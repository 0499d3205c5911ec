"""The numbers people check against: rest times, stops, slopes, hits."""

from __future__ import annotations

from math import cos, radians, sin

import numpy as np
import pytest
from benchmarks.scenes import G, ball, floor, scene, slope

from yapa.case import Body, Box
from yapa.engine import simulate
from yapa.outcomes import CATALOGUE, measure


@pytest.mark.parametrize(("e", "seconds"), [(0.5, 1.35), (0.65, 2.13), (0.8, 4.06), (0.95, 17.6)])
def test_rest_time_of_a_ball_dropped_from_a_metre(e, seconds):
    case = scene({"b": ball(0.02, position=(0, 0, 1.02)), "f": floor()}, duration=20.0, gravity=9.81, restitution=e)
    reading = measure(simulate(case), "b")["rest time"]
    assert reading.value == pytest.approx(np.sqrt(2 / 9.81) * (1 + e) / (1 - e), rel=2e-3)
    assert reading.value == pytest.approx(seconds, abs=0.05)


@pytest.mark.parametrize(("mu", "v"), [(0.2, 1.0), (0.5, 2.0), (0.8, 1.5)])
def test_a_sliding_crate_stops_after_v_squared_over_two_mu_g(mu, v):
    crate = Body(shapes=(Box(kind="box", size=(0.3, 0.3, 0.1), surface="both"),), position=(0, 0, 0.05), velocity=(v, 0, 0))
    outcomes = measure(simulate(scene({"c": crate, "f": floor()}, duration=2.0, friction=mu)), "c")
    assert outcomes["slide distance"].value == pytest.approx(v * v / (2 * mu * G), rel=2e-3)
    assert outcomes["travel"].value == pytest.approx(v * v / (2 * mu * G), abs=1e-7)
    assert outcomes["rest time"].value == pytest.approx(v / (mu * G), abs=0.006)
    assert outcomes["peak speed"].value == pytest.approx(v)


def test_a_ball_on_a_slope_of_one_and_a_half_degrees():
    angle = radians(1.5)
    case = scene({"b": ball(0.05), "f": floor(slope(1.5), placed_under="b")}, duration=2.0, gravity=9.81, friction=0.5)
    s = simulate(case).states[:, 0]
    acceleration = np.linalg.norm(s[-1, 7:10]) / 2.0
    assert acceleration == pytest.approx(0.183, abs=5e-4)
    assert acceleration == pytest.approx(5 / 7 * 9.81 * sin(angle), rel=1e-9)


@pytest.mark.parametrize(("m1", "m2", "e"), [(1.0, 1.0, 1.0), (1.0, 3.0, 0.5), (5.0, 0.2, 0.8), (1e-3, 1e3, 0.9)])
def test_a_central_hit_gives_one_plus_e_times_its_share(m1, m2, e):
    bodies = {"a": ball(0.05, mass=m1, position=(-0.5, 0, 0), velocity=(2.0, 0, 0)), "b": ball(0.05, mass=m2)}
    motion = simulate(scene(bodies, duration=1.0, gravity=0.0, restitution=e))
    assert motion.states[-1, 1, 7] == pytest.approx((1 + e) * m1 / (m1 + m2) * 2.0, rel=1e-9)
    momentum = motion.states[:, 0, 7] * m1 + motion.states[:, 1, 7] * m2
    assert np.abs(momentum - 2.0 * m1).max() < 1e-12 * max(m1, m2)


def test_a_flight_lands_where_range_says():
    v, a = 4.0, radians(50)
    case = scene({"b": ball(0.02, position=(0, 0, 0.02), velocity=(v * cos(a), 0, v * sin(a))), "f": floor()}, duration=1.0,
                 restitution=0.5, friction=0.1)
    outcomes = measure(simulate(case), "b")
    assert outcomes["landing 1"].value == pytest.approx(v * v * sin(2 * a) / G, rel=1e-9)
    assert outcomes["peak speed"].value == pytest.approx(v, rel=1e-6)


def test_slide_then_roll_share_the_way():
    v, mu = 1.4, 0.2
    outcomes = measure(simulate(scene({"b": ball(0.05, position=(0, 0, 0.05), velocity=(v, 0, 0)), "f": floor()}, duration=1.0,
                                      friction=mu)), "b")
    t = 2 * v / (7 * mu * G)
    slid = v * t - 0.5 * mu * G * t * t
    assert outcomes["slide distance"].value == pytest.approx(slid, abs=0.01)
    assert outcomes["roll distance"].value == pytest.approx((1.0 - t) * 5 / 7 * v, abs=0.01)


def test_what_does_not_happen_says_why_and_still_guides_a_fit():
    outcomes = measure(simulate(scene({"b": ball(0.05, position=(0, 0, 9.0)), "f": floor()}, duration=0.5)), "b")
    assert outcomes["rest time"].value is None
    assert "moving" in outcomes["rest time"].missing
    assert outcomes["slide distance"].value is None
    assert np.isfinite(outcomes["rest time"].value_or_surrogate)


def test_the_catalogue_names_units_and_meanings():
    for outcome in CATALOGUE.values():
        assert outcome.unit in ("m", "s", "m/s", "rad", "rad/s", "J", "")
        assert len(outcome.meaning) > 10
