"""Closed forms stand beside what a simulation does, and agree with it where they hold."""

import pytest
from benchmarks.scenes import ball, crate_on_slope, floor, scene

from yapa import api

EXACT = {
    "drop": (scene({"b": ball(position=(0, 0, 1.05)), "f": floor()}, duration=6.0, restitution=0.6), "b",
             ("apex 1", "apex 3", "bounce time 2", "rest time")),
    "slide": (crate_on_slope(0.0, 2.0, 3.0, friction=0.3), "crate", ("slide distance", "slide time")),
    "slide to roll": (scene({"b": ball(position=(0, 0, 0.05), velocity=(1.5, 0, 0)), "f": floor()}, friction=0.2,
                            rolling_resistance=0.01), "b", ("slide to roll",)),
    "roll": (scene({"b": ball(position=(0, 0, 0.05), velocity=(0.6, 0, 0), angular_velocity=(0, 12.0, 0)), "f": floor()},
                   duration=3.0,
                   friction=0.5, rolling_resistance=0.05), "b", ("roll distance",)),
    "central hit": (scene({"a": ball(position=(0, 0, 0), velocity=(1.0, 0, 0), mass=0.3),
                           "b": ball(position=(0.3, 0, 0), mass=0.2)}, gravity=1e-9, restitution=0.5), "b", ("peak speed",)),
}


@pytest.mark.parametrize("name", EXACT)
def test_a_closed_form_says_what_the_engine_does(name):
    case, body, outcomes = EXACT[name]
    motion = api.simulate(case)
    said, measured = api.predict(case, motion)[body], api.measure_motion(motion, every=True)[body]
    for outcome in outcomes:
        assert measured[outcome].value == pytest.approx(said[outcome].value, rel=2e-4 if "s" in outcome else 1e-6)
        assert len(said[outcome].form) > 3


def test_drag_makes_a_gap():
    case = scene({"b": ball(position=(0, 0, 1.05), drag_coefficient=1.0, mass=0.02), "f": floor()}, duration=4.0, restitution=0.6)
    motion = api.simulate(case)
    gap = api.measure_motion(motion)["b"]["apex 1"].value - api.predict(case, motion)["b"]["apex 1"].value
    assert gap < -0.01
