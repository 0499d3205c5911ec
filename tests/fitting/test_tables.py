"""Tables of trials: what is found of known truths, published measurements, and what is refused."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene
from benchmarks.tables import TABLES, E

from yapa.case import Body, Box, Samples, Take, Track, Unknown, with_numbers
from yapa.case.constants import Constant
from yapa.case.model import Case
from yapa.case.trial_table import Measured, TrialTable
from yapa.engine import simulate
from yapa.errors import InputError
from yapa.fitting import Cancel, fit
from yapa.fitting.tables.fit_table import fit_table
from yapa.formats.table_options import with_table

CARS = Path(__file__).parent.parent / "data" / "cars.csv"
HEIGHT = "bodies.ball.position.z"


def car() -> Case:
    crate = Body(shapes=(Box(kind="box", size=(2.0, 1.5, 0.5), surface="both"),), mass=900.0, position=(0, 0, 0.25),
                 velocity=(5.0, 0, 0))
    return scene({"car": crate, "road": floor()}, duration=6.0, friction=0.3).model_copy(
        update={"unknowns": (Unknown(path="surfaces.both.friction", low=0.05, high=1.0),)})


def test_the_cars_of_the_twenties_by_friction_alone():
    case, _ = with_table(car(), CARS, ["bodies.car.velocity.x=speed"], ["slide distance=distance"])
    result = fit(case)
    friction, report = result.estimates["surfaces.both.friction"], result.table
    assert (round(friction.value, 3), round(friction.std, 3)) == (0.218, 0.010)
    assert report.scatter[0].value == pytest.approx(4.76, abs=0.005)
    assert report.adequacy.test.dof == (18, 31)
    assert pytest.approx(1.316, abs=5e-4) == report.adequacy.test.F
    assert report.adequacy.test.p == pytest.approx(0.244, abs=5e-4)
    assert report.adequacy.adequate
    assert report.stands_out.row == 23
    assert json.loads(json.dumps(result.as_dict()))["table"]["levels"] == 19


def test_the_cars_with_a_reaction_time():
    case, _ = with_table(car(), CARS, ["bodies.car.velocity.x=speed"], ["slide distance + reaction_time * speed=distance"],
                         ["reaction_time=0..3 s"])
    result = fit(case)
    friction, late = result.estimates["surfaces.both.friction"], result.estimates["constants.reaction_time"]
    assert (round(late.value, 2), round(late.std, 2)) == (0.84, 0.38)
    assert (round(friction.value, 2), round(friction.std, 2)) == (0.37, 0.12)
    assert result.table.scatter[0].value == pytest.approx(4.58, abs=0.005)
    (needed,) = result.table.constants
    assert needed.test.dof == (1, 48)
    assert (round(needed.test.F, 2), round(needed.test.p, 3)) == (4.90, 0.032)
    assert any("go together" in sentence for sentence in result.table.sentences())


@pytest.mark.parametrize("name", TABLES)
def test_a_known_truth_is_found(name):
    case, truth = TABLES[name](np.random.default_rng(1))
    result = fit(case)
    assert result.stopped == "converged"
    for path, true in truth.items():
        assert abs(result.estimates[path].value - true) < 4 * result.estimates[path].std


def dropped(heights, rebounds, sigma=None, **changes) -> Case:
    table = TrialTable(columns={"height": tuple(heights), "rebound": tuple(rebounds)}, settings={HEIGHT: "height m + 0.04"},
                       measured=(Measured(outcome="apex 1", value="rebound m", sigma=sigma),))
    case = scene({"ball": ball(0.04, position=(0, 0, 1.04), mass=0.2), "floor": floor()}, duration=1.6, restitution=0.6)
    tree = case.model_dump() | {"table": table.model_dump(), "unknowns": ({"path": E, "low": 0.1, "high": 1.0},)} | changes
    return Case.model_validate(tree)


HEIGHTS = np.repeat([0.3, 0.5, 0.8, 1.2], 3)


def noisy(seed=0, e=0.75, sigma=0.004):
    return e**2 * HEIGHTS + np.random.default_rng(seed).normal(size=12) * sigma


def test_a_missing_value_is_dropped_and_a_missing_setting_refused_by_its_row():
    rebounds = noisy().tolist()
    assert fit(dropped(HEIGHTS, [*rebounds[:-1], None])).table.values == 11
    with pytest.raises(InputError, match=r"row 3.*no number for bodies.ball.position.z"):
        fit(dropped([0.3, 0.3, None, *HEIGHTS[3:]], rebounds))
    with pytest.raises(InputError, match=r"row 2.*bodies.ball.position.z, which lies"):
        fit(dropped([0.3, 1e9, *HEIGHTS[2:]], rebounds))
    with pytest.raises(InputError, match=r"row 1.*'x'"):
        fit(dropped(["x", *HEIGHTS[1:]], rebounds))


def test_equal_settings_are_run_once():
    case = dropped(HEIGHTS, noisy())
    from yapa.fitting.tables.joint import joint_problem

    problem = joint_problem(case, Cancel())
    problem.residuals(problem.start)
    assert problem.simulations == 4
    problem.residuals(problem.start)
    assert problem.simulations == 4


def test_a_level_left_out_is_predicted_as_a_fit_without_it_does():
    rebounds = noisy()
    level = fit(dropped(HEIGHTS, rebounds)).table.by_level[-1]
    without = fit(dropped(HEIGHTS[:9], rebounds[:9]))
    predicted = simulate(with_numbers(dropped(HEIGHTS, rebounds), {E: without.values[E], HEIGHT: 1.24}))
    from yapa.outcomes import read

    assert level.rows == (10, 11, 12)
    assert level.left_out == pytest.approx(read(predicted, "apex", "ball", 1).value, abs=2e-4)
    assert abs(level.left_out - level.predicted) > 1e-4


def test_lack_of_fit_is_seen_and_an_outlier_stands_out():
    curved = noisy() + 0.05 * (HEIGHTS - 0.6) ** 2
    assert not fit(dropped(HEIGHTS, curved)).table.adequacy.adequate
    wild = noisy()
    wild[4] += 0.06
    row = fit(dropped(HEIGHTS, wild)).table.stands_out
    assert (row.row, row.is_outlier) == (5, True)
    assert row.residual == pytest.approx(0.06, abs=0.02)
    assert not fit(dropped(HEIGHTS, noisy())).table.stands_out.is_outlier


def test_adequacy_without_replicates_needs_a_sigma():
    heights = [0.3, 0.5, 0.8, 1.0, 1.2]
    rebounds = [0.5625 * h for h in heights]
    assert fit(dropped(heights, rebounds)).table.adequacy.words.startswith("adequacy cannot be judged")
    given = fit(dropped(heights, [r + 0.003 * (-1) ** k for k, r in enumerate(rebounds)], sigma="3 mm"))
    assert given.table.adequacy.judged_by == "sigma"
    assert given.table.adequacy.adequate
    far = fit(dropped(heights, [r + 0.03 * (-1) ** k for k, r in enumerate(rebounds)], sigma="3 mm"))
    assert not far.table.adequacy.adequate
    assert far.estimates[E].std > 5 * given.estimates[E].std  # widened by the excess


def test_an_unknown_may_be_own_to_a_group_of_rows():
    truth = {"red": 0.6, "blue": 0.8}
    balls = ["red", "blue"] * 6
    rebounds = [truth[b] ** 2 * h + 1e-3 * (-1) ** k for k, (b, h) in enumerate(zip(balls, HEIGHTS, strict=True))]
    case = dropped(HEIGHTS, rebounds)
    table = case.table.model_copy(update={"columns": {**case.table.columns, "ball": tuple(balls)}, "free_per": {"ball": (E,)}})
    result = fit(case.model_copy(update={"table": table}))
    assert not result.estimates
    for name, e in truth.items():
        assert result.own[f"ball {name}"][E].value == pytest.approx(e, abs=3e-3)


def test_an_outcome_that_does_not_occur_counts_by_its_shortfall():
    """A drop that ends before its bounce says nothing but that: the fit goes on, and tells the row."""
    case = dropped([*HEIGHTS[:11], 30.0], noisy())
    result = fit(case)
    assert result.values[E] == pytest.approx(0.75, abs=0.02) or result.table.missing
    assert "row 12: apex 1 does not occur" in " ".join(result.table.missing)


def test_the_cases_own_track_counts_once_beside_the_table():
    rng = np.random.default_rng(3)
    t = np.arange(0, 1.2, 1 / 100)
    case = dropped(HEIGHTS, noisy())
    motion = simulate(with_numbers(case, {E: 0.75}))
    z = motion.trajectory("ball").position(t)[:, 2] + rng.normal(size=len(t)) * 1e-3
    track = Track(name="video", body="ball", sigma=1e-3, samples=Samples(t=tuple(t.tolist()), z=tuple(z.tolist())))
    both, alone = fit(case.model_copy(update={"tracks": (track,)})), fit(case)
    assert both.misfit == pytest.approx(1.0, abs=0.2)
    assert both.estimates[E].std < 0.5 * alone.estimates[E].std
    assert both.values[E] == pytest.approx(0.75, abs=4 * both.estimates[E].std)


def test_takes_hold_rows_with_values_and_unknowns_of_their_own():
    e = {"dry": 0.7, "wet": 0.55}
    rebounds = [e["dry" if k < 6 else "wet"] ** 2 * h for k, h in enumerate(HEIGHTS)]
    rebounds = (np.array(rebounds) + np.random.default_rng(2).normal(size=12) * 1e-3).tolist()
    case = dropped(HEIGHTS, rebounds)
    takes = (Take(name="dry", rows=tuple(range(1, 7)), free_per_take=(E,)),
             Take(name="wet", rows=tuple(range(7, 13)), free_per_take=(E,)))
    result = fit(case.model_copy(update={"takes": takes}))
    for name, true in e.items():
        assert result.own[name][E].value == pytest.approx(true, abs=5e-3)
    with pytest.raises(InputError, match="row 3 is in two takes"):
        _checked(case, ((1, 2, 3), (3,)))
    with pytest.raises(InputError, match="there is no row 13"):
        _checked(case, ((1, 13),))


def _checked(case, rows):
    from yapa.case.validation import checked

    return checked(case.model_copy(update={"takes": tuple(Take(name=f"t{k}", rows=r) for k, r in enumerate(rows))}), "the case")


def test_same_bits_whatever_the_threads_and_a_stop_keeps_the_best():
    case, _ = TABLES["collision speeds"](np.random.default_rng(0))
    one, two = fit(case, threads=1), fit(case, threads=3)
    assert one.values == two.values
    assert one.table.as_dict() == two.table.as_dict()
    stop = Cancel()
    result = fit_table(case, lambda p: stop.set() if p.fraction > 0.3 else None, stop)
    assert result.stopped == "cancelled"
    assert set(result.values) == set(one.values)
    assert fit(case, limit=5).stopped == "limit reached"


def test_units_that_do_not_fit_are_refused():
    case = dropped(HEIGHTS, noisy())
    for settings, outcome, words in (({HEIGHT: "height s"}, "apex 1", "which is in s; expected m"),
                                     ({HEIGHT: "height m"}, "bounce time 1", "expected s"),
                                     ({HEIGHT: "height m"}, "height * 2", "no outcome in it"),
                                     ({HEIGHT: "height m"}, "apex 1 + late", "late")):
        table = case.table.model_copy(update={"settings": settings, "measured": (Measured(outcome=outcome, value="rebound m"),)})
        with pytest.raises(InputError, match=words):
            fit(case.model_copy(update={"table": table}))


def test_a_constant_is_at_home_in_settings_and_kept_by_a_result():
    case = dropped(HEIGHTS, noisy() + 0.0, constants={"zero": {"unit": "m", "value": 0.01}})
    assert case.constants["zero"] == Constant(value=0.01, unit="m")
    assert with_numbers(case, {"constants.zero": 0.02}).constants["zero"].value == 0.02


def test_trust_works_on_rows_and_on_takes_of_rows():
    from yapa.fitting.confidence.validation import trust

    rng = np.random.default_rng(4)
    rebounds = (0.5625 * HEIGHTS + rng.normal(size=12) * 2e-3).tolist()
    report = trust(dropped(HEIGHTS, rebounds), count=5)
    assert report.stopped == "complete"
    assert any("lack of fit" in sentence for sentence in report.sentences(False))
    assert report.left_out == []
    takes = tuple(Take(name=f"day {k}", rows=tuple(range(4 * k - 3, 4 * k + 1))) for k in (1, 2, 3))
    report = trust(dropped(HEIGHTS, rebounds).model_copy(update={"takes": takes}), count=5)
    assert [one.name for one in report.left_out] == ["day 1", "day 2", "day 3"]
    assert all(0.2 < one.misfit < 3.0 for one in report.left_out)
    wet = [*rebounds[:8], *(r - 0.1 for r in rebounds[8:])]
    odd = trust(dropped(HEIGHTS, wet).model_copy(update={"takes": takes}), count=5)
    assert odd.left_out[2].misfit > 5 * odd.left_out[2].alone
    assert "does not hold" in " ".join(odd.sentences(False))
