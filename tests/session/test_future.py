"""The whole future under the hand: runs within a budget of time, then whole; where chance decides; drafts that give way."""

from __future__ import annotations

import time

import numpy as np
import pytest

from yapa.demo import DATA
from yapa.engine import simulate
from yapa.engine.runner import set_after
from yapa.fitting.problem.cancel import Cancel, Cancelled
from yapa.formats.case_file import load_case
from yapa.session import preview as preview_module
from yapa.session.building import scene_edits
from yapa.session.building.arranging import scatter
from yapa.session.building.stock import thing_named
from yapa.session.chance import DISTURBANCE, chance_from, disturbed, parting
from yapa.session.new_case import empty_scene

UP = np.array([0.0, 0, 1])


def floor_and(*things, **fields):
    """A case with a floor and these things in a row."""
    case = empty_scene()
    for k, thing in enumerate(("floor", *things)):
        case = scene_edits.put_in(thing_named(thing), f"{thing} {k}", np.array([0.4 * k, 0.0, 0.0]), UP).change(case)
    return case.model_copy(update=fields)


def crowd():
    """Fruit dropped into a bin: a run of many milliseconds."""
    case = floor_and("open bin")
    case = scene_edits.put_in(thing_named("ball"), "ball", np.array([0.4, 0, 0.5]), UP).change(case)
    case = scatter("ball", 14, (0.25, -0.1, 0.3), (0.55, 0.1, 1.2), 7).change(case)
    return case.model_copy(update={"duration": 4.0})


def test_a_run_within_a_budget_ends_where_it_is_and_says_so():
    case = crowd()
    whole = simulate(case)
    part = simulate(case, budget=0.002)
    assert part.is_unfinished
    assert part.status.startswith("unfinished at")
    assert 0.0 <= part.end < whole.end
    rows = len(part.times)
    assert np.array_equal(part.states, whole.states[:rows])
    assert not simulate(floor_and("ball"), budget=30.0).is_unfinished
    flag = np.zeros(1, np.int64)
    with set_after(60.0, flag):
        pass
    assert flag[0] == 0


def test_the_hand_sees_as_far_as_the_budget_carries_then_the_whole(desk, ear, monkeypatch):
    desk.open_case(crowd())
    ear.until(lambda: desk.jobs.idle)
    whole = desk.preview.whole
    assert whole is desk.preview.comparison
    monkeypatch.setattr(preview_module, "BUDGET", 0.002)
    heard = []
    desk.comparison_changed.connect(lambda comparison: heard.append(comparison.motion.is_unfinished))
    desk.preview.try_case(scene_edits.move_body("ball", np.array([0.41, 0.0, 0.7])).change(desk.case))
    ear.until(lambda: desk.jobs.idle)
    assert heard == [True, False]
    assert desk.preview.whole is desk.preview.comparison is not whole
    heard.clear()
    desk.preview.try_case(scene_edits.move_body("ball", np.array([0.42, 0.0, 0.7])).change(desk.case))
    ear.until(lambda: bool(heard))
    assert "the run so far" in desk.preview.comparison.detail
    desk.preview.try_case(None)  # the whole run gives way
    ear.until(lambda: desk.jobs.idle)
    assert desk.preview.draft is None
    assert np.array_equal(desk.preview.comparison.motion.states, whole.motion.states)


def test_every_start_is_moved_by_a_tenth_of_a_millimetre_and_the_same_seed_is_the_same():
    case = floor_and("ball", "crate")
    one, two = disturbed(case, 0), disturbed(case, 0)
    assert one == two != disturbed(case, 1)
    for name in case.dynamic_bodies():
        by = np.subtract(one.bodies[name].position, case.bodies[name].position)
        assert np.linalg.norm(by) == pytest.approx(DISTURBANCE)
        assert by[2] >= 0.0
    assert one.bodies["floor 0"] == case.bodies["floor 0"]


def test_chance_decides_where_a_small_disturbance_grows_and_in_a_crowd():
    drop, *_ = load_case(DATA / "orange-drop.yapa")
    assert chance_from(drop, {}, simulate(drop), Cancel()) == {}
    case = floor_and("ball", duration=3.0)
    post = scene_edits.put_in(thing_named("ball"), "post", np.zeros(3), UP).change(case)
    post = scene_edits.set_kind("post", "static").change(scene_edits.move_body("post", np.array([0.4, 0.0, 0.05])).change(post))
    post = scene_edits.move_body("ball 1", np.array([0.4, 0.0, 1.2])).change(post)
    motion = simulate(post)  # dropped exactly on the top of another ball
    found = chance_from(post, {}, motion, Cancel())
    assert 0.4 < found["ball 1"] < 2.0
    assert parting(motion, [motion]) == {}
    many = crowd()
    crowded = simulate(many)
    assert crowded.crowd_from
    found = chance_from(many, {"bodies.ball.position.z": 0.7}, crowded, Cancel())
    assert all(found[name] <= at for name, at in crowded.crowd_from.items())
    stop = Cancel()
    stop.set()
    with pytest.raises(Cancelled):
        chance_from(case, {}, simulate(case), stop)


def test_chance_is_looked_for_when_the_hand_is_still_and_given_up_when_it_moves(desk, ear):
    desk.open_case(floor_and("ball"))
    ear.until(lambda: desk.jobs.idle)
    heard = []
    desk.chance_changed.connect(lambda: heard.append(time.monotonic()))
    desk.preview.look_for_chance()
    ear.until(lambda: desk.jobs.idle)
    assert len(heard) == 1
    assert desk.preview.chance == {}
    desk.preview.look_for_chance()  # known already
    assert desk.jobs.idle
    desk.preview.request()
    assert desk.preview.chance is None
    ear.until(lambda: desk.jobs.idle)
    desk.preview.look_for_chance()
    desk.preview.request()
    ear.until(lambda: desk.jobs.idle)
    assert desk.preview.chance is None
