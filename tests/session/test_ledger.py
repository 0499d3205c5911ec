"""The ledger: what is kept of every set of values, and what is told of a change."""

from __future__ import annotations

import pytest

from yapa import api
from yapa.case import Trial, with_numbers
from yapa.demo import DATA
from yapa.engine import ENGINE_VERSION
from yapa.fitting import fit
from yapa.session import ledger as trials

RESTITUTION, DRAG = "pairs.rind+pad.restitution", "bodies.orange.drag_coefficient"


def test_the_first_trial_keeps_how_a_case_came(demo):
    case = demo("orange-drop")
    trial = trials.as_set_up(case)
    assert trial.source == "as set up"
    assert trial.values == trials.present_values(case)
    assert trial.misfit > 50
    assert trial.outcomes["apex 1"] == pytest.approx(0.6, abs=0.05)
    assert len(trial.curve) == trials.CURVE_POINTS
    assert trial.engine_version == ENGINE_VERSION


def test_hand_edits_share_one_trial_until_it_is_pinned_renamed_or_followed_by_a_fit(demo):
    case = trials.add_trial(demo("orange-drop"), trials.as_set_up(demo("orange-drop")))
    for value in (0.7, 0.72, 0.74):
        case = with_numbers(case, {RESTITUTION: value})
        case = trials.add_trial(case, trials.hand_trial(case))
    assert [t.name for t in case.trials] == ["as set up", "by hand"]
    assert case.trials[-1].values[RESTITUTION] == 0.74
    pinned = case.trials[-1].model_copy(update={"pinned": True})
    case = case.model_copy(update={"trials": (*case.trials[:-1], pinned)})
    case = trials.add_trial(case, trials.hand_trial(with_numbers(case, {RESTITUTION: 0.6})))
    assert len(case.trials) == 3
    assert case.trials[1].pinned


def test_a_fit_leaves_a_trial_with_its_estimates_and_what_it_changed(demo):
    case = demo("orange-drop")
    case = trials.add_trial(case, trials.as_set_up(case))
    result = fit(case)
    after = api.with_result(case, result)
    trial = after.trials[-1]
    assert trial.name == "fit 1"
    assert trial.estimates[RESTITUTION].std == result.estimates[RESTITUTION].std
    assert "restitution" in trial.summary
    assert trial.misfit < case.trials[0].misfit / 50
    assert api.with_result(after, result).trials[-1].name == "fit 2"


def test_what_changed_names_the_largest_change_first_and_at_most_three(demo):
    case = demo("orange-throw")
    before = trials.present_values(case)
    after = {path: value * 1.01 + 0.001 for path, value in before.items()}
    after["pairs.rind+rubber.restitution"] = before["pairs.rind+rubber.restitution"] - 0.4
    text = trials.what_changed(case, before, after)
    assert text.startswith("restitution 0.7 → 0.3")
    assert "and 5 more" in text
    assert trials.what_changed(case, before, before) == ""


def test_a_thumbnail_shows_travel_where_the_height_does_not_change(demo):
    motion = api.simulate(demo("grapefruit-lane"))
    curve = trials.thumbnail(motion, "grapefruit")
    assert curve[-1][1] - curve[0][1] > 2.5  # travel, not height
    assert curve[0][0] == 0.0


def test_targets_are_counted_as_met_or_not(demo):
    case = demo("orange-wanted")
    misfit, hit, count = trials.score(case)
    assert misfit is None
    assert (hit, count) == (0, 2)
    misfit, hit, _ = trials.score(case, fit(case).values)
    assert hit == 2


def test_trials_survive_the_file(demo, tmp_path):
    case = demo("orange-drop")
    case = trials.add_trial(case, trials.as_set_up(case))
    api.save(case, tmp_path / "kept.yapa")
    (tmp_path / "orange-drop.csv").write_bytes((DATA / "orange-drop.csv").read_bytes())  # the track is read beside the case
    back = api.load(tmp_path / "kept.yapa")
    assert back.trials == case.trials
    assert isinstance(back.trials[0], Trial)
