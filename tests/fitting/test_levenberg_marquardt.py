"""The descent: least squares in a box with few simulations."""

import numpy as np
import pytest
from benchmarks.fit.flights import drawn
from benchmarks.fit.thrown import PATHS, Nuisance, case_of, recorded, wanted

from yapa.fitting.initial import read_tracks
from yapa.fitting.optimise.jacobian import Point, evaluate, jacobian
from yapa.fitting.optimise.levenberg_marquardt import LevenbergMarquardt
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.problem.residual_layout import ResidualLayout


class Line:
    """A stand-in for a problem: residuals A p - b, perhaps bent."""

    def __init__(self, A, b, bend=0.0):
        self.A, self.b, self.bend = np.array(A, dtype=float), np.array(b, dtype=float), bend
        self.unknowns = [None] * self.A.shape[1]
        self.offsets, self.size, self.evidence, self.layout = 0, self.A.shape[1], [], ResidualLayout.of([])
        self.coarse = False
        self.simulations = 0

    def residuals(self, p, horizon=None):
        self.simulations += 1
        r = self.A @ p - self.b
        return r + self.bend * r**3


A = [[40.0, 3.0], [-5.0, 60.0], [10.0, 10.0]]


def test_a_straight_problem_is_solved_in_one_step_and_believed_after_one_look():
    truth = np.array([0.3, 0.6])
    line = Line(A, np.array(A) @ truth)
    found = LevenbergMarquardt().minimise(line, np.array([0.9, 0.1]))
    assert found.settled
    assert found.point.p == pytest.approx(truth, abs=1e-3)
    assert line.simulations <= 12


def test_steps_stay_in_the_box_and_an_unknown_rests_at_its_wall():
    line = Line(A, np.array(A) @ np.array([1.4, 0.5]))
    found = LevenbergMarquardt().minimise(line, np.array([0.2, 0.5]))
    assert found.point.p[0] == 1.0
    free = np.linalg.lstsq(line.A[:, 1:], line.b - line.A[:, 0], rcond=None)[0]
    assert found.point.p[1] == pytest.approx(float(free[0]), abs=1e-3)


def test_a_held_unknown_does_not_move():
    line = Line(A, np.array(A) @ np.array([0.3, 0.6]))
    found = LevenbergMarquardt(fixed=np.array([True, False])).minimise(line, np.array([0.8, 0.1]))
    assert found.point.p[0] == 0.8
    assert found.J[:, 0] == pytest.approx(np.zeros(3))


def test_a_bent_problem_measures_its_slope_again_where_a_step_disappoints():
    line = Line(A, np.array(A) @ np.array([0.3, 0.6]), bend=0.05)
    found = LevenbergMarquardt(most=40).minimise(line, np.array([0.95, 0.05]))
    assert found.settled
    assert found.point.cost < 0.02


def test_it_stops_once_the_cost_asked_for_is_reached_and_gives_up_where_it_cannot_be():
    line = Line([*A, [0.0, 0.0]], [*(np.array(A) @ np.array([0.3, 0.6])), 30.0])  # a residual that nothing takes away
    reach = LevenbergMarquardt(reach=1e9).minimise(line, np.array([0.9, 0.1]))
    assert np.array_equal(reach.point.p, [0.9, 0.1])
    before = line.simulations
    LevenbergMarquardt(hopeless=1.0, most=40).minimise(line, np.array([0.9, 0.1]))
    assert line.simulations - before < 14


def test_a_point_and_its_slope_may_be_handed_over_and_nothing_is_measured_twice():
    line = Line(A, np.array(A) @ np.array([0.3, 0.6]))
    here = evaluate(line, np.array([0.35, 0.55]))
    assert isinstance(here, Point)
    J = jacobian(line, here.p, here.r)
    before = line.simulations
    found = LevenbergMarquardt(J=J).minimise(line, here)
    assert found.point.p == pytest.approx([0.3, 0.6], abs=1e-3)
    assert line.simulations - before <= 5


@pytest.mark.parametrize("seed", range(4))
def test_from_what_was_read_a_throw_takes_fewer_than_thirty_simulations(seed):
    rng = np.random.default_rng([seed, 17])
    throw, end = drawn(rng, True)
    samples, late = recorded(rng, throw, end, 240.0, Nuisance())
    case = case_of(samples, False, end)
    problem = FitProblem(case)
    start = problem.vector(read_tracks(problem).starts[0].values)
    found = LevenbergMarquardt().minimise(problem, start)
    truth = wanted(throw, late, case)
    told = problem.values(found.point.p)
    assert problem.simulations < 30
    assert told[PATHS["restitution"]] == pytest.approx(truth[PATHS["restitution"]], abs=2e-3)
    assert told[PATHS["friction"]] == pytest.approx(truth[PATHS["friction"]], abs=2e-3)
    assert found.point.clipped < 1.2
