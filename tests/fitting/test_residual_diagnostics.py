"""A model that is not as the recording was leaves signs; a right one leaves none."""

from dataclasses import replace

import numpy as np
import pytest
from benchmarks.fit.flights import R, drawn, fly
from benchmarks.fit.thrown import Nuisance, case_of, recorded

from yapa.fitting import fit
from yapa.fitting.confidence.residual_diagnostics import autocorrelation
from yapa.fitting.problem.problem import FitProblem

SIGNS = ("misses the track", "hangs together", "turns round", "restitution depends on speed")


def told(seed, what=None, **change):
    rng = np.random.default_rng([seed, 23])
    while True:
        throw, end = drawn(rng, True)
        throw = replace(throw, **change)
        if len(fly(throw, np.array([0.0, end])).hits) < 12:
            break
    samples, _ = recorded(rng, throw, end, 240.0, what or Nuisance())
    return [f for f in fit(case_of(samples, False, end)).findings if any(s in f for s in SIGNS)]


@pytest.mark.parametrize("seed", range(5))
def test_a_right_model_leaves_no_sign(seed):
    assert told(seed) == []


@pytest.mark.parametrize("seed", range(3))
@pytest.mark.parametrize(("change", "word"), [
    ({"radius": 1.02 * R}, "turns round"), ({"floor": -0.01}, "mm lower than its size and the height of floor"),
    ({"growth": 0.02}, ""),
])
def test_a_wrong_size_height_or_law_is_told(seed, change, word):
    found = told(seed, **change)
    assert any(word in f for f in found)


def test_noise_that_hangs_together_is_told_and_widens_what_is_said():
    rng = np.random.default_rng(3)
    throw, end = drawn(rng, True)
    results = []
    for correlation in (0.0, 0.8):
        samples, _ = recorded(np.random.default_rng(5), throw, end, 240.0, Nuisance(correlation=correlation))
        results.append(fit(case_of(samples, False, end)))
    assert any("hangs together" in f for f in results[1].findings)
    path = "surfaces.s.restitution"
    assert results[1].estimates[path].std > 2 * results[0].estimates[path].std


def test_autocorrelation_is_that_of_the_columns_and_gaps_are_left_out():
    rng = np.random.default_rng(4)
    throw, end = drawn(rng, True)
    samples, _ = recorded(rng, throw, end, 240.0, Nuisance(missing=0.3))
    problem = FitProblem(case_of(samples, False, end))
    n = problem.track_residuals
    white = rng.normal(size=n)
    rho, count = autocorrelation(problem, white)
    assert abs(rho) < 4 / np.sqrt(count)
    assert count == int(np.isfinite(problem.residual_times).sum())
    assert autocorrelation(problem, np.ones(n))[0] > 0.98
