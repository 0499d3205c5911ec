"""What is read off a simulation does not depend on how often it is sampled."""

from __future__ import annotations

import pytest

from yapa import api
from yapa.demo import DATA
from yapa.formats.case_file import load_case


def outcomes(case):
    motion = api.simulate(case)
    return motion, {(body, key): reading.value for body, rows in api.measure_motion(motion, every=True).items()
                    for key, reading in rows.items()}


@pytest.mark.parametrize("name", ["sweeper-bar", "crate-chute", "grapefruit-lane", "orange-drop"])
def test_outcomes_are_those_of_the_motion_not_of_its_samples(name):
    case = load_case(DATA / f"{name}.yapa")[0]
    _, first = outcomes(case)
    for rate in (30.0, 100.0, 333.0, 1000.0):
        motion, again = outcomes(case.model_copy(update={"output_rate": rate}))
        assert len(motion.times) == len(motion.states) == pytest.approx(case.duration * rate, abs=2)
        for key, value in first.items():
            assert (again[key] is None) == (value is None), (key, rate)
            assert value is None or abs(again[key] - value) <= 1e-9, (key, rate)
