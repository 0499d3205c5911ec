"""Every outcome against closed forms, on motions without noise."""

from math import atan2, hypot, pi, sqrt

import numpy as np
import pytest
from benchmarks.scenes import G, ball, floor, scene
from scipy.optimize import minimize_scalar

from yapa.case import Body, Box
from yapa.case.outcome_specs import OUTCOME_SPECS
from yapa.engine import simulate
from yapa.outcomes import OutcomeQuery, read
from yapa.outcomes.kinds.energy import ending

R, E, MASS = 0.05, 0.6, 0.2
V = (1.2, 0.5, 0.8)
"""Launch of the throw from 1 m above touching."""
T1 = (V[2] + sqrt(V[2] ** 2 + 2 * G * 1.0)) / G
V1 = G * T1 - V[2]
ACROSS = hypot(V[0], V[1])


@pytest.fixture(scope="module")
def throw():
    """Without friction: the horizontal launch is kept, nothing turns."""
    b = ball(R, mass=MASS, position=(0, 0, 1 + R), velocity=V)
    return simulate(scene({"b": b, "f": floor()}, duration=4.0, restitution=E, friction=0.0))


def flown(t):
    """The first flight."""
    return np.array([V[0] * t, V[1] * t, 1 + R + V[2] * t - G * t * t / 2])


def near(point, end=T1):
    found = minimize_scalar(lambda t: float(np.linalg.norm(flown(t) - point)), bounds=(0, end), method="bounded",
                            options={"xatol": 1e-12})
    return float(found.fun), float(found.x)


def rises(k):
    return (E**k * V1) ** 2 / (2 * G)


def time_of(k):
    return T1 + sum(2 * E**j * V1 / G for j in range(1, k))


@pytest.mark.parametrize(("name", "k", "value"), [
    ("apex", 1, rises(1)), ("apex", 3, rises(3)), ("apex ratio", 1, rises(1) / (1 + V[2] ** 2 / (2 * G))), ("apex ratio", 2, E * E),
    ("bounce time", 1, T1), ("bounce time", 3, time_of(3)),
    ("flight time", 1, 2 * E * V1 / G), ("flight time", 2, 2 * E**2 * V1 / G),
    ("landing", 1, ACROSS * T1), ("landing", 2, ACROSS * time_of(2)), ("landing x", 2, V[0] * time_of(2)),
    ("landing y", 3, V[1] * time_of(3)), ("contact time", 2, time_of(2)), ("impact speed", 1, V1), ("impact speed", 3, E**2 * V1),
    ("rebound speed", 2, E**2 * V1), ("kept restitution", 1, E), ("impact energy", 2, MASS * (E * V1) ** 2 / 2),
    ("impact angle", 1, atan2(V1, ACROSS)), ("contact slip", 1, ACROSS),
])
def test_numbered_outcomes_of_a_throw(throw, name, k, value):
    assert read(throw, name, "b", k).value == pytest.approx(value, rel=1e-6)


POINT = (0.5, 0.2, 0.9)
ZONE = ((-1.0, -1.0, -1.0), (10.0, 10.0, 1.2))


@pytest.mark.parametrize(("name", "asked", "value"), [
    ("x", OutcomeQuery(time=0.4), V[0] * 0.4), ("y", OutcomeQuery(time=0.4), V[1] * 0.4),
    ("z", OutcomeQuery(time=0.4), flown(0.4)[2]),
    ("x", OutcomeQuery(), V[0] * 4.0),
    ("speed", OutcomeQuery(time=0.3), hypot(ACROSS, V[2] - G * 0.3)), ("spin", OutcomeQuery(time=0.3), 0.0),
    ("turn", OutcomeQuery(time=0.3), 0.0),
    ("tilt", OutcomeQuery(), 0.0), ("peak height", OutcomeQuery(), 1 + R + V[2] ** 2 / (2 * G)), ("peak spin", OutcomeQuery(), 0.0),
    ("peak speed", OutcomeQuery(), hypot(ACROSS, V1)), ("travel", OutcomeQuery(), ACROSS * 4.0),
    ("miss", OutcomeQuery(point=POINT), near(POINT)[0]),
    ("passage time", OutcomeQuery(point=POINT), near(POINT)[1]),
    ("passage speed", OutcomeQuery(point=POINT), hypot(ACROSS, V[2] - G * near(POINT)[1])),
    ("hit", OutcomeQuery(partner="f"), T1), ("inside", OutcomeQuery(region=ZONE), R + 1.0),
    ("stays inside", OutcomeQuery(region=ZONE), 1.2 - (1 + R + V[2] ** 2 / (2 * G))),
    ("waypoints", OutcomeQuery(waypoints=(tuple(flown(0.2)), POINT)), near(POINT)[0]), ("slide distance", OutcomeQuery(), None),
    ("bounces", OutcomeQuery(), float(sum(rises(k) >= 0.005 for k in range(1, 30)))),
    ("contacts", OutcomeQuery(), float(sum(E ** (k - 1) * V1 >= 0.01 for k in range(1, 30)))),
    ("contacts", OutcomeQuery(partner="f"), float(sum(E ** (k - 1) * V1 >= 0.01 for k in range(1, 30)))),
])
def test_other_outcomes_of_a_throw(throw, name, asked, value):
    reading = read(throw, name, "b", query=asked)
    if value is not None:
        assert reading.value == pytest.approx(value, rel=2e-6, abs=1e-8)


def test_energy_kept_by_a_bounce():
    motion = simulate(scene({"b": ball(R, position=(0, 0, 1 + R)), "f": floor()}, duration=0.6, restitution=E))
    assert read(motion, "energy kept", "b").value == pytest.approx(E * E, rel=1e-6)


def test_sliding_then_rolling_on_the_level():
    mu, v, c = 0.2, 1.5, 0.01
    b = ball(R, position=(0, 0, R), velocity=(v, 0, 0))
    motion = simulate(scene({"b": b, "f": floor()}, duration=1.0, friction=mu, rolling_resistance=c))
    until = 2 * v / ((7 * mu - 5 * c) * G)
    assert read(motion, "slide to roll", "b").value == pytest.approx(until, rel=1e-6)
    assert read(motion, "slide time", "b").value == pytest.approx(until, rel=1e-6)
    late = read(motion, "spin", "b", query=OutcomeQuery(time=0.9)).value
    assert late * R == pytest.approx(read(motion, "speed", "b", query=OutcomeQuery(time=0.9)).value, rel=1e-6)
    assert read(motion, "turn", "b").value > 5.0


def test_a_crate_tipped_over_is_toppled_and_says_which_side_is_up():
    crate = Body(shapes=(Box(kind="box", size=(0.2, 0.2, 0.6), surface="both"),), position=(0, 0, 0.3),
                 angular_velocity=(0, 8.0, 0))
    motion = simulate(scene({"c": crate, "f": floor()}, duration=3.0, friction=0.8))
    assert read(motion, "topple", "c").value == pytest.approx(pi / 4, abs=1e-3)
    assert read(motion, "tilt", "c").value == pytest.approx(pi / 2, abs=1e-3)
    sides = [read(motion, "side angle", "c", query=OutcomeQuery(arguments=(("side", side),))).value for side in ("-x", "+x")]
    assert min(sides) == pytest.approx(0.0, abs=1e-3)
    stays = simulate(scene({"c": crate.model_copy(update={"angular_velocity": (0.0, 0.3, 0.0)}), "f": floor()}, duration=3.0,
                           friction=0.8))
    reading = read(stays, "topple", "c")
    assert reading.value is None
    assert "it stands" in reading.missing
    assert reading.shortfall == pytest.approx(pi / 4, abs=0.05)


def test_a_miss_of_another_body_and_a_hit_that_does_not_happen_say_how_near():
    bodies = {"a": ball(R, position=(0, 0, 0), velocity=(1.0, 0, 0)), "b": ball(R, position=(1.0, 0.3, 0))}
    motion = simulate(scene(bodies, gravity=0.0))
    assert read(motion, "miss", "a", query=OutcomeQuery(partner="b")).value == pytest.approx(0.3, rel=1e-9)
    reading = read(motion, "hit", "a", query=OutcomeQuery(partner="b"))
    assert reading.value is None
    assert "0.3 m" in reading.missing
    assert reading.surrogate == pytest.approx(1.0, abs=1e-3)
    nearer = simulate(scene({**bodies, "b": ball(R, position=(1.0, 0.15, 0))}, gravity=0.0))
    assert read(nearer, "hit", "a", query=OutcomeQuery(partner="b")).shortfall < reading.shortfall


@pytest.mark.parametrize(("friction", "resistance", "restitution", "spin", "said"), [
    (0.3, 0.0, 0.0, 0.0, "still moving"), (0.5, 0.05, 0.0, 12.0, "rolling resistance"),
])
def test_what_ended_a_motion_is_told(friction, resistance, restitution, spin, said):
    b = ball(R, position=(0, 0, R), velocity=(0.6, 0, 0), angular_velocity=(0, spin, 0))
    motion = simulate(scene({"b": b, "f": floor()}, duration=3.0, friction=friction, rolling_resistance=resistance))
    assert said in ending(motion, "b")


def test_bounces_that_die_away_end_a_drop_and_friction_ends_a_slide():
    drop = simulate(scene({"b": ball(R, position=(0, 0, 0.5)), "f": floor()}, duration=4.0, restitution=0.5))
    assert ending(drop, "b") == "its bounces died away"
    crate = Body(shapes=(Box(kind="box", size=(0.2, 0.2, 0.1), surface="both"),), position=(0, 0, 0.05), velocity=(1.0, 0, 0))
    assert ending(simulate(scene({"c": crate, "f": floor()}, friction=0.4)), "c") == "friction stopped it"


def test_a_time_beyond_the_clip_is_told_apart_and_falls_short_by_what_is_missing(throw):
    reading = read(throw, "x", "b", query=OutcomeQuery(time=5.0))
    assert reading.value is None
    assert "ends at 4 s" in reading.missing
    assert reading.shortfall == pytest.approx(1.0)


@pytest.mark.parametrize("name", [name for name, asking in OUTCOME_SPECS.items() if "index" in asking.required])
def test_the_ninetieth_of_anything_is_missing_and_says_so(throw, name):
    reading = read(throw, name, "b", 90)
    assert reading.value is None
    assert len(reading.missing) > 10
    assert reading.shortfall > 0
