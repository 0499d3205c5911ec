"""What can be met is found, even at a single point; what cannot is said so only after a look everywhere."""

from __future__ import annotations

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa import api
from yapa.api import fit, solve, trust
from yapa.case import Body, Box, Case, Cylinder, Plane, Sphere, Stepped, Target, Unknown
from yapa.engine.runner import Program
from yapa.fitting import Cancel
from yapa.fitting.problem.result import TargetReport

E, VX = "surfaces.both.restitution", "bodies.b.velocity.x"


def dropped(*targets, free=(E,), **change):
    ranges = {E: (0.05, 0.95), VX: (-3.0, 3.0)}
    case = scene({"b": ball(0.05, mass=0.2, position=(0, 0, 1.05), velocity=(0.5, 0, 0)), "f": floor()}, duration=3.0,
                 restitution=0.5, friction=0.2)
    return case.model_copy(update={"targets": targets, "unknowns": tuple(Unknown(path=p, low=ranges[p][0], high=ranges[p][1])
                                                                         for p in free), **change})


def test_a_plank_on_a_round_fulcrum_is_balanced_by_the_one_mass_that_does():
    """A slope leads nowhere: on either side it topples."""
    plank = Body(shapes=(Box(kind="box", size=(2.0, 0.2, 0.04), surface="both"),), mass=4.0, position=(0, 0, 0.12))
    def weight(x):
        return Body(shapes=(Box(kind="box", size=(0.1, 0.1, 0.1), surface="both"),), mass=5.0, position=(x, 0, 0.19))
    fulcrum = Body(motion="static", shapes=(Cylinder(kind="cylinder", radius=0.1, length=0.4, surface="both"),),
                   orientation=(np.sqrt(0.5), np.sqrt(0.5), 0.0, 0.0))
    case = scene({"plank": plank, "left": weight(-0.4).model_copy(update={"mass": 16.0}), "right": weight(0.8), "fulcrum": fulcrum},
                 duration=0.6, friction=0.8)
    case = case.model_copy(update={
        "targets": (Target(outcome="tilt", body="plank", condition="at most", value=0.015, tolerance=1e-3),),
        "unknowns": (Unknown(path="bodies.right.mass", low=1.0, high=40.0),)})
    found = solve(case)
    assert found.stopped == "converged"
    assert found.nearest.values["bodies.right.mass"] == pytest.approx(8.0, abs=0.1)


def test_a_seesaw_is_levelled_by_a_place_where_its_turn_changes_sign():
    from yapa.fitting.problem.problem import FitProblem
    from yapa.fitting.targets.sign_changes import sign_changes

    plank = Body(shapes=(Box(kind="box", size=(1.0, 0.2, 0.02), surface="both"),), mass=1.0, position=(0.05, 0, 0.21))
    wedge = Body(motion="static", shapes=(Cylinder(kind="cylinder", radius=0.1, length=0.4, surface="both"),), position=(0, 0, 0.1),
                 orientation=(np.sqrt(0.5), np.sqrt(0.5), 0.0, 0.0))
    case = scene({"plank": plank, "wedge": wedge}, duration=0.5, friction=0.8).model_copy(update={
        "targets": (Target(outcome="tilt", body="plank", condition="at most", value=0.005, tolerance=1e-3),),
        "unknowns": (Unknown(path="bodies.plank.position.x", low=-0.3, high=0.37),)})
    problem = FitProblem(case)
    points = list(sign_changes(problem, problem.vector()))
    assert [problem.values(p.p)["bodies.plank.position.x"] for p in points] == pytest.approx([0.0], abs=1e-5)
    assert abs(solve(case).nearest.values["bodies.plank.position.x"]) < 0.02


def test_what_is_met_already_is_said_at_once():
    case = dropped(Target(outcome="apex", index=1, condition="at least", value=0.1, tolerance=0.01))
    found = solve(case)
    assert found.stopped == "converged"
    assert found.simulations <= 4
    assert found.nearest.change == 0.0
    assert found.nearest.values[E] == pytest.approx(0.5)


def test_what_meets_more_of_the_targets_is_told_beside_the_closest():
    targets = (Target(outcome="apex", index=1, value=0.5, tolerance=0.002),
               Target(outcome="apex", index=1, value=0.9, tolerance=0.002),
               Target(outcome="landing", index=1, value=0.3, tolerance=0.01))
    found = solve(dropped(*targets, free=(E, VX)))
    assert found.stopped == "not reachable"
    assert found.most_met is not None
    assert sum(t.met for t in found.most_met.targets) == 2
    assert sum(t.met for t in found.closest.targets) < 2
    assert found.as_dict()["most_met"]["values"] == found.most_met.values


def test_a_search_that_is_cut_short_does_not_say_that_nothing_is_there():
    found = solve(dropped(Target(outcome="apex", index=1, value=2.0, tolerance=0.01)), limit=10)
    assert found.stopped == "limit reached"


@pytest.mark.parametrize(("target", "now", "miss", "words"), [
    (Target(outcome="apex", index=1, condition="at most", value=0.4), 0.65, 250.0, "by 0.25 m"),
    (Target(outcome="bounces", condition="at least", value=5, tolerance=0.5), 3.0, -4.0, "by 2"),
])
def test_a_miss_is_told_in_the_outcomes_own_unit(target, now, miss, words):
    assert TargetReport(target, "b", now, False, miss).how_missed == words


def test_a_number_at_the_end_of_its_range_is_told_to_be_widened():
    found = solve(dropped(Target(outcome="apex", index=1, value=2.0, tolerance=0.01)))
    assert found.stopped == "not reachable"
    assert any("restitution · both stands at the end of its range, 0.95: widen it" in w for w in found.why)
    assert any("misses apex 1 by 1." in w for w in found.why)


@pytest.mark.parametrize("what", [fit, solve, trust])
def test_a_run_that_stops_at_its_start_ends_in_words(what, monkeypatch):
    case = dropped(Target(outcome="apex", index=1, value=0.4, tolerance=0.01),
                   Target(outcome="rest time", value=1.0, tolerance=0.1))
    made = Program.__init__

    def poisoned(self, case):
        made(self, case)
        self.state[0, 0] = np.nan  # a place that is none, so that every run stops where it begins

    monkeypatch.setattr(Program, "__init__", poisoned)
    result = what(case, limit=400)
    told = result.result if what is trust else result
    assert told.stopped in ("not converged", "not reachable", "limit reached")


@pytest.mark.parametrize("what", [fit, solve, trust])
def test_a_stop_before_the_start_ends_in_words(what):
    cancel = Cancel()
    cancel.set()
    case = dropped(Target(outcome="apex", index=1, value=0.4, tolerance=0.01))
    assert what(case, None, cancel).stopped == "cancelled"


@pytest.mark.parametrize(("form", "rate"), [("per_step", -np.log(0.98) * 60), ("power", -np.log(0.98))])
def test_compare_tells_a_difference_of_units_from_an_error_of_the_step(form, rate):
    body = ball(0.05, mass=0.2, position=(0, 0, 1.05), velocity=(2.0, 0, 0), linear_damping=0.02)
    case = scene({"b": body, "f": floor()}, duration=1.0, gravity=0.0, profile=Stepped(damping=form))
    both = api.compare(case)
    assert any(f"{rate:.4g} per second in precise" in note for note in both.notes)
    stepped, precise = next((a, b) for name, a, b in both.rows if name == "b travel")
    assert stepped == pytest.approx(precise, rel=0.02)
    plain = api.compare(case.model_copy(update={"profile": Stepped(damping="exponential")}))
    assert plain.notes == ()


def test_a_wish_that_nothing_free_can_move_is_not_reachable_at_once_with_the_nearest_miss():
    ball = Body(shapes=(Sphere(kind="sphere", radius=0.05, surface="rind"),), position=(0.0, 0.0, 1.0))
    floor = Body(motion="static", shapes=(Plane(kind="plane", surface="rind"),))
    case = Case(title="wish", bodies={"floor": floor, "ball": ball}, surfaces={"rind": {"restitution": 0.6}},
                unknowns=[Unknown(path="surfaces.rind.friction", low=0.1, high=0.9)],
                targets=[Target(outcome="apex", index=1, body="ball", value=0.9, tolerance=0.01)])
    result = fit(case)
    assert result.stopped == "not reachable"
    assert result.simulations < 60
    assert "the nearest misses by 0.55" in " ".join(result.findings)


def test_a_search_ends_after_as_much_work_as_it_may_do(monkeypatch):
    monkeypatch.setattr("yapa.fitting.targets.search.MAX_BODY_STEPS", 3000)
    ball = Body(shapes=(Sphere(kind="sphere", radius=0.05, surface="rind"),), position=(0.0, 0.0, 1.0))
    floor = Body(motion="static", shapes=(Plane(kind="plane", surface="rind"),))
    case = Case(title="wish", bodies={"floor": floor, "ball": ball}, surfaces={"rind": {"restitution": 0.6}},
                unknowns=[Unknown(path="surfaces.rind.restitution", low=0.1, high=0.7)],
                targets=[Target(outcome="apex", index=1, body="ball", value=0.9, tolerance=0.01)])
    found = solve(case)
    assert found.stopped == "limit reached"
    assert found.simulations < 200  # 395 without
