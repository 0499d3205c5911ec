"""The optimisers have one interface: options first, then a problem and a start."""

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa.case import Unknown
from yapa.fitting.optimise.global_search import DifferentialEvolution
from yapa.fitting.optimise.jacobian import evaluate
from yapa.fitting.optimise.levenberg_marquardt import LevenbergMarquardt
from yapa.fitting.optimise.minimum_change import ClosestSolution, MinimumChange
from yapa.fitting.optimise.trust_region import TrustRegion
from yapa.fitting.problem.evaluator import evaluator_of
from yapa.fitting.problem.problem import FitProblem
from yapa.formats.target_text import parse_target

E = "surfaces.both.restitution"
ROOT = (0.6 - 0.1) / 0.85  # of the box: e = √(0.612 / 1.7) = 0.6


@pytest.fixture
def problem():
    case = scene({"b": ball(0.04, position=(0, 0, 1.74)), "f": floor()}, duration=2.0, restitution=0.8)
    return FitProblem(case.model_copy(update={
        "targets": (parse_target("apex 1 = 0.612 ± 0.001 m"),), "unknowns": (Unknown(path=E, low=0.1, high=0.95),)}))


@pytest.fixture(params=["descent", "trust region", "population", "minimum change"])
def optimiser(request, problem):
    with evaluator_of(problem, threads=1) as runs:
        yield {"descent": LevenbergMarquardt(most=60), "trust region": TrustRegion(),
               "population": DifferentialEvolution(runs, 3, 1e-8),
               "minimum change": MinimumChange(problem.vector(), 60)}[request.param]


def test_every_optimiser_finds_the_root_and_reports_ever_better_points(problem, optimiser):
    heard = []
    found = optimiser.minimise(problem, np.array([0.9]), lambda point: heard.append(point.cost))
    assert found.settled
    assert found.point.p[0] == pytest.approx(ROOT, abs=5e-4)
    assert heard == sorted(heard, reverse=True)
    assert heard[-1] == found.point.cost < evaluate(problem, np.array([0.9])).cost


def test_a_start_is_a_vector_or_a_point_and_a_vector_outside_begins_on_the_wall(problem, optimiser):
    wall = evaluate(problem, np.array([1.0]))
    ends = [optimiser.minimise(problem, start).point for start in (wall, np.array([1.0]), np.array([7.0]))]
    assert ends[0].p == ends[1].p == ends[2].p


@pytest.mark.parametrize("hold", [LevenbergMarquardt(fixed=np.array([True])), TrustRegion(fixed=np.array([True]))])
def test_what_is_held_does_not_move(problem, hold):
    assert hold.minimise(problem, np.array([0.3])).point.p == [0.3]


def test_where_nothing_is_nearer_the_walk_returns_its_start(problem):
    met = LevenbergMarquardt(most=60, enough=1e-9).minimise(problem, np.array([0.5])).point
    found = ClosestSolution(met.p).minimise(problem, met)
    assert found.point is met
    assert not found.settled
