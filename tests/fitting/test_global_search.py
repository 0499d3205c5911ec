"""Scenes of which no closed form gives a start: the population finds one, alike in threads and in processes."""

from __future__ import annotations

from concurrent.futures import ProcessPoolExecutor, ThreadPoolExecutor

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa.case import Body, Box, Case, Samples, Track, Unknown, with_numbers
from yapa.engine import simulate
from yapa.fitting import fit
from yapa.fitting.optimise.global_search import DifferentialEvolution
from yapa.fitting.optimise.jacobian import evaluate
from yapa.fitting.problem.evaluator import evaluator_of
from yapa.fitting.problem.problem import FitProblem

TRUTH = {"surfaces.both.restitution": 0.72, "surfaces.both.friction": 0.18, "bodies.orange.velocity.x": 2.6,
         "bodies.orange.velocity.z": 0.8, "bodies.orange.angular_velocity.y": 30.0}
RANGES = {"surfaces.both.restitution": (0.3, 0.95), "surfaces.both.friction": (0.0, 0.6), "bodies.orange.velocity.x": (-4.0, 4.0),
          "bodies.orange.velocity.z": (-3.0, 3.0), "bodies.orange.angular_velocity.y": (-80.0, 80.0)}


def bin_with_walls(late: float = 0.0) -> Case:
    """An orange thrown between two walls; only what happens after ``late`` is on the track."""
    wall = Body(motion="static", shapes=(Box(kind="box", size=(0.1, 1.0, 2.0), surface="both"),), position=(0.75, 0, 1.0))
    bodies = {"orange": ball(0.04, mass=0.2, position=(0, 0, 0.9)), "plate": floor(), "right": wall,
              "left": wall.model_copy(update={"position": (-0.75, 0.0, 1.0)})}
    case = scene(bodies, duration=1.6, restitution=0.5, friction=0.3)
    motion = simulate(with_numbers(case, TRUTH))
    t = np.arange(late, 1.6, 1 / 120)
    x = motion.trajectory("orange").position(t) + np.random.default_rng(4).normal(size=(len(t), 3)) * 1e-3
    track = Track(name="camera", body="orange", sigma=1e-3,
                  samples=Samples(t=tuple(t.tolist()), x=tuple(x[:, 0].tolist()), z=tuple(x[:, 2].tolist())))
    return case.model_copy(update={"tracks": (track,), "unknowns": tuple(
        Unknown(path=p, low=a, high=b) for p, (a, b) in RANGES.items())})


def test_a_throw_between_walls_is_found_though_its_first_half_is_missing():
    result = fit(bin_with_walls(0.7))
    assert result.misfit == pytest.approx(1.0, abs=0.15)
    for path, value in TRUTH.items():
        e = result.estimates[path]
        assert e.determined, path
        assert abs(e.value - value) < 4 * e.std, path


@pytest.mark.parametrize("make", [lambda: ThreadPoolExecutor(1), lambda: ThreadPoolExecutor(3), lambda: ProcessPoolExecutor(2)])
def test_a_population_is_the_same_bits_whatever_runs_it(make):
    problem = FitProblem(bin_with_walls())
    start = evaluate(problem, problem.vector())
    with evaluator_of(problem, threads=2) as runs:
        ours = DifferentialEvolution(runs, 5, 7.0).minimise(problem, start).point
    with make() as executor, evaluator_of(problem, executor) as runs:
        theirs = DifferentialEvolution(runs, 5, 7.0).minimise(problem, start).point
    assert np.array_equal(ours.p, theirs.p)
    assert ours.cost == theirs.cost < start.cost
