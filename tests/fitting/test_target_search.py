"""Wanted outcomes: the nearest solution, others that differ, and why nothing is found where nothing is."""

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa import api
from yapa.case import Stepped, Unknown, with_numbers
from yapa.engine import simulate
from yapa.errors import InputError
from yapa.fitting import Cancel
from yapa.fitting.optimise.jacobian import evaluate
from yapa.fitting.optimise.minimum_change import ClosestSolution, MinimumChange, meets_with_margin
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.targets.search import Search
from yapa.formats.target_text import parse_target
from yapa.outcomes import read
from yapa.outcomes.target_form import BOUND_MARGIN

E, MU, VX, VZ = "surfaces.both.restitution", "surfaces.both.friction", "bodies.b.velocity.x", "bodies.b.velocity.z"
RANGES = {E: (0.1, 0.95), MU: (0.0, 0.8), VX: (0.0, 4.0), VZ: (-3.0, 3.0)}


def wish(*texts, free=(E, VX, VZ), **values):
    case = scene({"b": ball(0.04, position=(0, 0, 1.04), velocity=(1.0, 0, 0)), "f": floor()}, duration=3.0, restitution=0.5,
                 friction=0.3)
    return with_numbers(case, values).model_copy(update={
        "targets": tuple(parse_target(t) for t in texts),
        "unknowns": tuple(Unknown(path=p, low=RANGES[p][0], high=RANGES[p][1]) for p in free)})


def test_of_two_solutions_the_nearer_comes_first_and_both_are_told_apart():
    # a peak speed is that of the fall: thrown up or down at the same speed the ball comes down alike
    found = api.solve(wish("peak speed = 5.2 ± 0.01 m/s", "landing 1 = 0.9 ± 0.005 m", free=(VX, VZ), **{VZ: 0.6}))
    assert len(found.found) >= 2
    assert all(s.met for s in found.found)
    assert [s.change for s in found.found] == sorted(s.change for s in found.found)
    assert "smallest change" in found.found[0].distinguished_by
    ways = [s.values[VZ] for s in found.found]
    assert min(ways) < 0 < max(ways)
    slow = min(found.found, key=lambda s: abs(s.values[VX]))
    assert "slowest launch along x" in slow.distinguished_by


def test_the_nearest_of_a_curve_of_solutions_is_found():
    """A drop with e and height free: apex 1 = e² h alone; the nearest point of the curve, against a fine search along it."""
    case = scene({"b": ball(0.04, position=(0, 0, 1.04)), "f": floor()}, duration=3.0, restitution=0.5)
    case = case.model_copy(update={"targets": (parse_target("apex 1 = 0.5 ± 0.005 m"),), "unknowns": (
        Unknown(path=E, low=0.1, high=0.95), Unknown(path="bodies.b.position.z", low=0.5, high=2.0))})
    found = api.solve(case).nearest
    e = np.linspace(0.1, 0.95, 200001)
    u = np.column_stack([(e - 0.1) / 0.85, (0.5 / e**2 + 0.04 - 0.5) / 1.5])
    inside = (u >= 0).all(axis=1) & (u <= 1).all(axis=1)
    best = np.linalg.norm(u[inside] - [(0.5 - 0.1) / 0.85, (1.04 - 0.5) / 1.5], axis=1).min()
    assert found.met
    assert found.change == pytest.approx(best, rel=0.01)


def test_inside_a_bound_the_nearest_is_walked_to():
    """A bound has no slope where it is met, so a descent stops at the first point inside; the nearest lies on its edge."""
    case = scene({"b": ball(0.04, position=(0, 0, 1.74)), "f": floor()}, duration=3.0, restitution=0.8)
    case = case.model_copy(update={"targets": (parse_target("apex 1 at most 0.3 m"),), "unknowns": (
        Unknown(path=E, low=0.1, high=0.95), Unknown(path="bodies.b.position.z", low=0.5, high=2.0))})
    found = api.solve(case).nearest
    aimed = 0.3 - BOUND_MARGIN * case.targets[0].tolerance
    e = np.linspace(0.1, 0.95, 200001)
    u = np.column_stack([(e - 0.1) / 0.85, (aimed / e**2 + 0.04 - 0.5) / 1.5])
    inside = (u >= 0).all(axis=1) & (u <= 1).all(axis=1)
    best = np.linalg.norm(u[inside] - [(0.8 - 0.1) / 0.85, (1.74 - 0.5) / 1.5], axis=1).min()
    assert found.met
    assert found.change == pytest.approx(best, rel=0.01)


def test_a_walk_ends_nearer_and_keeps_what_was_met():
    case = wish("waypoints (0.8, 0, 0.3), (1.4, 0, 0.2) at most 0.02 m", free=(E, MU, VX, VZ))
    problem = FitProblem(case)
    home = problem.vector()
    first = MinimumChange(home).minimise(problem, evaluate(problem, home)).point
    assert meets_with_margin(problem, first)
    nearer = ClosestSolution(home).minimise(problem, first).point
    assert meets_with_margin(problem, nearer)
    assert np.linalg.norm(nearer.p - home) <= np.linalg.norm(first.p - home)


def test_with_more_unknowns_than_wishes_it_says_so():
    found = api.solve(wish("apex 2 = 0.25 ± 0.005 m"))
    assert any("points among many" in n for n in found.notes)
    assert found.first < 60


def test_a_wish_out_of_reach_names_the_wall():
    found = api.solve(wish("apex 1 = 3 ± 0.01 m", free=(E,)))
    assert found.stopped == "not reachable"
    assert found.nearest is None
    assert found.closest.values[E] == pytest.approx(0.95)
    assert any("the closest misses b apex 1" in w or "the closest misses apex 1" in w for w in found.why)
    assert any("stands at the end of its range, 0.95: widen it" in w for w in found.why)


def test_two_wishes_at_odds_are_named():
    found = api.solve(wish("apex 1 = 0.6 ± 0.005 m", "apex 2 = 0.2 ± 0.005 m", free=(E,)))
    assert found.stopped == "not reachable"
    assert sum("in conflict" in w for w in found.why) == 2


@pytest.mark.parametrize("text", [
    "bounces = 4 ± 0.4", "bounces at most 2", "waypoints (0.5, 0, 0.4), (1.1, 0, 0.5) at most 0.02 m",
    "inside (0.8, -1, 0) to (1.2, 1, 1) at least 0.02 m", "landing 2 at least 1.5 m", "apex ratio 2 within 0.3 to 0.32",
    "miss of (0.7, 0, 0.6) at most 0.01 m",
])
def test_every_kind_of_wish_is_met_strictly(text):
    case = wish(text, free=(E, MU, VX, VZ))
    found = api.solve(case)
    assert found.nearest is not None, found.why
    motion = simulate(with_numbers(case, {k: float(v) for k, v in found.nearest.values.items()}), times=np.linspace(0, 3.0, 361))
    from yapa.outcomes import read_target
    from yapa.outcomes.judging import is_met

    target = case.targets[0]
    assert is_met(target, read_target(motion, "b", target))


def test_the_same_seed_gives_the_same_bits_at_any_number_of_threads():
    case = wish("landing 2 = 1.1 ± 0.01 m", "apex 1 = 0.4 ± 0.005 m")
    one, two = api.solve(case, threads=1), api.solve(case, threads=2)
    assert [s.values for s in one.found] == [s.values for s in two.found]
    assert one.simulations == two.simulations


def test_a_stopped_search_keeps_the_best_so_far():
    cancel = Cancel()
    seen = []

    def progress(p):
        seen.append(p)
        if p.simulations > 12:
            cancel.set()

    found = api.solve(wish("landing 3 = 2.2 ± 0.001 m", "bounces = 6 ± 0.4"), progress, cancel)
    assert found.stopped == "cancelled"
    assert set(found.closest.values) == {E, VX, VZ}
    assert [t.target.outcome for t in found.closest.targets] == ["landing", "bounces"]
    assert (found.nearest is not None) == found.closest.met
    assert seen[-1].values


def test_nothing_wanted_is_refused():
    with pytest.raises(InputError, match="target"):
        api.solve(wish().model_copy(update={"targets": ()}))


def test_a_stepped_profile_is_tuned_to_what_precise_gives():
    case = wish("apex 2 = 0.2 ± 0.02 m", "landing 2 = 0.9 ± 0.02 m", free=(E, VX)).model_copy(update={"profile": Stepped()})
    both = api.compare(case)
    step = next(row for row in both.rows if row[0].endswith("apex 2"))
    assert abs(step[1] - step[2]) > 0.01
    assert both.moved > 1
    found = api.corrected(case)
    assert found.nearest.met
    corrected = simulate(with_numbers(case, {k: float(v) for k, v in found.nearest.values.items()}))
    assert read(corrected, "apex", "b", 2).value == pytest.approx(step[2], abs=0.02)


def test_precise_is_not_compared_with_itself():
    with pytest.raises(InputError, match="stepped profile"):
        api.compare(wish("apex 1 = 0.3 ± 0.01 m"))


def search_with(case, points):
    """A search that has found so much already."""
    search = Search(case)
    for values in points:
        search._take(evaluate(search.problem, search.problem.vector(values)))
    return search


def test_a_valley_of_solutions_nearer_than_the_nearest_is_looked_for():
    """A ball thrown up or down lands at one place; from a solution far off, the near one is found by starts inside its distance."""
    case = wish("landing 1 = 1.2 ± 0.005 m", free=(VX, VZ), **{VZ: 0.6})
    far = {VX: 0.0, VZ: 0.0}
    for vz in np.linspace(-3.0, 3.0, 13):  # the farthest of the solutions along the curve
        motion = simulate(with_numbers(case, {VX: 1.0, VZ: float(vz)}), times=np.linspace(0, 3.0, 361))
        vx = 1.2 / read(motion, "landing", "b", 1).value
        if vx <= 4.0 and abs(vz - 0.6) > abs(far[VZ] - 0.6):
            far = {VX: float(vx), VZ: float(vz)}
    search = search_with(case, [far])
    assert len(search.points) == 1
    before = search._change(search.points[0])
    search._nearer(None, 1)
    nearest = min(search.points, key=search._change)
    assert search._change(nearest) < 0.7 * before
    assert search.solution(nearest).met
    assert search._change(nearest) == pytest.approx(api.solve(case).nearest.change, rel=0.02)


def test_nothing_is_looked_for_where_nothing_was_found():
    search = Search(wish("peak speed at most 0.1 m/s", free=(VX,)))
    before = search.problem.simulations
    search._nearer(None, 1)
    assert search.problem.simulations == before
    assert not search.points
