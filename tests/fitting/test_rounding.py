"""Values with no more digits than what was asked for can tell."""

from __future__ import annotations

import pytest
from benchmarks.scenes import ball, floor, scene

from yapa.case import Target, Unknown, get_number
from yapa.engine import simulate
from yapa.fitting import Cancel
from yapa.fitting.problem.cancel import Cancelled
from yapa.fitting.targets.rounding import rounded_values
from yapa.outcomes import read_target

E, Z = "surfaces.both.restitution", "bodies.b.position.z"


def dropped():
    case = scene({"b": ball(0.04, mass=0.2, position=(0, 0, 1.04)), "f": floor()}, duration=2.5, restitution=0.7)
    return case.model_copy(update={"unknowns": (Unknown(path=E, low=0.2, high=0.95), Unknown(path=Z, low=0.5, high=2.0))})


def apexes(tolerance):
    return [Target(outcome="apex", index=k, value=0.3, tolerance=tolerance, body="b") for k in (1, 2)]


@pytest.mark.parametrize("tolerance", [0.05, 0.005, 1e-5])
def test_no_outcome_changes_by_more_than_a_tenth_of_its_tolerance(tolerance):
    case, values = dropped(), {E: 0.712345678912, Z: 1.0456789123}
    found = rounded_values(case, values, apexes(tolerance))
    exact, rounded = (simulate(case, v) for v in (values, found))
    for target in apexes(tolerance):
        before, after = (read_target(m, "b", target).value for m in (exact, rounded))
        assert abs(after - before) <= 0.1 * tolerance
    digits = [len(repr(v)) for v in found.values()]
    assert max(digits) <= (6 if tolerance > 0.01 else 8 if tolerance > 1e-4 else 12)
    for path in values:  # one decimal fewer would change too much
        places = len(repr(found[path]).partition(".")[2])
        coarser = simulate(case, {**found, path: round(values[path], places - 1)})
        changes = [abs(read_target(coarser, "b", t).value - read_target(exact, "b", t).value) for t in apexes(tolerance)]
        assert max(changes) > 0.1 * tolerance or places == 1


def test_what_was_not_moved_stays_and_what_nobody_asks_about_is_kept_to_its_range():
    case = dropped()
    found = rounded_values(case, {E: 0.712345678912, Z: get_number(case, Z)}, [])
    assert found[Z] == get_number(case, Z)
    assert found[E] == pytest.approx(0.71, abs=0.04)
    assert len(repr(found[E])) <= 4
    stop = Cancel()
    stop.set()
    with pytest.raises(Cancelled):
        rounded_values(case, {E: 0.71234, Z: 1.0}, apexes(0.01), stop)
