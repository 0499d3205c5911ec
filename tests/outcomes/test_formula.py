"""Arithmetic of outcomes as an outcome of its own, followed by a fit."""

from __future__ import annotations

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa.case import Unknown
from yapa.case.constants import Constant
from yapa.engine import simulate
from yapa.errors import InputError
from yapa.fitting import fit
from yapa.formats.case_json import case_text, parse_case
from yapa.formats.target_text import parse_target
from yapa.outcomes import read, read_target

E = 0.7


def dropped(**changes):
    case = scene({"orange": ball(0.05, position=(0, 0, 1.05), mass=0.2), "lemon": ball(0.03, position=(0.5, 0, 0.53), mass=0.1),
                  "floor": floor()}, duration=2.0, restitution=E)
    return case.model_copy(update=changes)


def value(case, text):
    motion = simulate(case)
    return read_target(motion, "orange", parse_target(f"{text} happens"))


def test_it_is_the_arithmetic_of_what_its_terms_are():
    motion = simulate(dropped())
    one, two = (read(motion, "apex", body, 1).value for body in ("orange", "lemon"))
    assert one == pytest.approx(E**2, rel=1e-6)
    assert parse_target("orange apex 1 / lemon apex 1 happens").outcome == "formula"
    assert value(dropped(), "orange apex 1 / lemon apex 1").value == pytest.approx(one / two, rel=1e-12)
    assert value(dropped(), "sqrt(orange apex 1 * lemon apex 1)").value == pytest.approx(np.sqrt(one * two), rel=1e-12)


def test_constants_stand_in_it():
    case = dropped(constants={"late": Constant(value=0.25, unit="s")})
    assert value(case, "orange bounce time 1 + late").value == pytest.approx(value(case, "orange bounce time 1").value + 0.25)


def test_the_deviation_of_a_track_is_propagated():
    from yapa.case.expressions import parse_expression
    from yapa.outcomes import OutcomeValue
    from yapa.outcomes.kinds.formula import combined

    found = combined(parse_expression("a * b"), {}, {"a": OutcomeValue(2.0, 0.1), "b": OutcomeValue(3.0, 0.2)})
    assert found.std == pytest.approx(np.hypot(0.3, 0.4), rel=1e-6)


def test_a_missing_term_is_told_by_the_larger_shortfall():
    found = value(dropped(), "orange hit with lemon + orange rest time")
    parts = [value(dropped(), text) for text in ("orange hit with lemon", "orange rest time")]
    worst = max((p for p in parts if p.value is None), key=lambda p: p.shortfall)
    assert found.value is None
    assert (found.missing, found.shortfall) == (worst.missing, worst.shortfall)


def test_no_value_is_told_apart_from_no_event():
    assert "arithmetic" in value(dropped(), "orange travel / (orange travel - orange travel)").missing


def test_a_fit_follows_it():
    case = dropped(targets=(parse_target("orange apex 2 / orange apex 1 = 0.36 ± 0.001"),),
                   unknowns=(Unknown(path="surfaces.both.restitution", low=0.1, high=0.95),))
    result = fit(case)
    assert result.values["surfaces.both.restitution"] == pytest.approx(0.6, abs=2e-3)
    assert result.targets[0].met


def test_a_case_keeps_it_and_refuses_names_that_are_not_there():
    case = dropped(targets=(parse_target("orange apex 2 - lemon apex 1 at least 0.1 m"),))
    assert parse_case(case_text(case), "case").targets == case.targets
    for wrong, words in (("melon apex 1 - travel = 1 ± 1", "melon"), ("orange apex 1 + late = 1 ± 1", "late")):
        bad = case_text(case.model_copy(update={"targets": (parse_target(wrong),)}))
        with pytest.raises(InputError, match=words):
            parse_case(bad, "case")


def test_adding_metres_to_seconds_is_refused_where_it_is_typed():
    with pytest.raises(InputError, match="m and s"):
        parse_target("apex 1 + rest time = 1 ± 1")
