"""Restitutions beside the one where a fit ended: a crate's comb of answers, and what has none."""

from __future__ import annotations

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa import api
from yapa.case import Body, Box, Samples, Track, Unknown, with_numbers
from yapa.case.unknowns import from_unit_box
from yapa.engine import simulate
from yapa.fitting.optimise.jacobian import evaluate
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.tracks.restitution_scan import REACH, scan_restitutions

E, VX = "surfaces.both.restitution", "bodies.b.velocity.x"
SIGMA = 1e-3


def crate():
    turned = (np.cos(0.2), 0.0, np.sin(0.2), 0.0)
    shape = Box(kind="box", size=(0.14, 0.2, 0.1), surface="both")
    return Body(shapes=(shape,), mass=1.0, position=(0, 0, 0.6), orientation=turned, velocity=(0.8, 0, 0))


def seen(body, restitution, duration=0.75, seed=1):
    """A case whose track shows a body thrown onto a floor; its restitution is unknown."""
    case = scene({"b": body, "f": floor()}, duration=duration, restitution=restitution, friction=0.5)
    t = np.arange(0, duration, 1 / 120)
    path, rng = simulate(case).trajectory("b"), np.random.default_rng(seed)
    place, turn = path.position(t), path.rotation(t)[:, 1]
    x, z = (tuple((place[:, k] + SIGMA * rng.normal(size=len(t))).tolist()) for k in (0, 2))
    start = 2 * np.arctan2(body.orientation[2], body.orientation[0])
    angle = tuple((turn + start + 0.01 * rng.normal(size=len(t))).tolist())
    track = Track(name="camera", body="b", sigma=SIGMA, sigma_angle=0.01,
                  samples=Samples(t=tuple(t.tolist()), x=x, z=z, angle=angle if body.shapes[0].kind == "box" else None))
    unknowns = (Unknown(path=E, low=0.0, high=0.9), Unknown(path=VX, low=0, high=2))
    return case.model_copy(update={"tracks": (track,), "unknowns": unknowns})


def at(problem, restitution, velocity=0.8):
    return evaluate(problem, problem.vector({E: restitution, VX: velocity}))


@pytest.mark.parametrize("truth", [0.15, 0.27, 0.4])
def test_a_crate_is_found_from_the_dents_beside(truth):
    problem = FitProblem(seen(crate(), truth))
    for away in (-0.05, -0.03, 0.03, 0.05):
        found = scan_restitutions(problem, at(problem, truth + away))
        assert problem.values(found.p)[E] == pytest.approx(truth, abs=2e-3)


def test_the_better_one_is_looked_from_again():
    """From farther than one look reaches, dent by dent."""
    problem = FitProblem(seen(crate(), 0.35))
    found = scan_restitutions(problem, at(problem, 0.35 - 1.5 * REACH))
    assert problem.values(found.p)[E] == pytest.approx(0.35, abs=2e-3)


def test_what_is_best_already_stays():
    problem = FitProblem(seen(crate(), 0.3))
    best = at(problem, 0.3)
    found = scan_restitutions(problem, best)
    assert found.cost <= best.cost
    assert abs(from_unit_box(problem.unknowns[0], found.p[0]) - 0.3) < 2e-3


def test_round_bodies_and_locked_restitutions_cost_nothing():
    round_body = seen(ball(0.05, position=(0, 0, 0.6), velocity=(0.8, 0, 0)), 0.5)
    problem = FitProblem(round_body)
    point = at(problem, 0.4)
    before = problem.simulations
    assert scan_restitutions(problem, point) is point
    assert problem.simulations - before <= 1  # one look at what it meets
    case = seen(crate(), 0.3)
    locked = tuple(u.model_copy(update={"fixed": u.path == E}) for u in case.unknowns)
    problem = FitProblem(case.model_copy(update={"unknowns": locked}))
    point = evaluate(problem, problem.vector({VX: 0.7}))
    before = problem.simulations
    assert scan_restitutions(problem, point) is point
    assert problem.simulations == before


def test_a_crate_that_only_slides_has_no_comb():
    flat = crate().model_copy(update={"orientation": (1.0, 0.0, 0.0, 0.0), "position": (0, 0, 0.05)})
    problem = FitProblem(seen(flat, 0.3))
    point = at(problem, 0.5)
    before = problem.simulations
    assert scan_restitutions(problem, point) is point
    assert problem.simulations - before <= 1


@pytest.mark.parametrize("truth", [0.12, 0.33])
def test_a_whole_fit_of_a_thrown_crate_tells_its_restitution(truth):
    result = api.fit(seen(crate(), truth, seed=4))
    e = result.estimates[E]
    assert e.determined
    assert abs(e.value - truth) < max(5 * (e.std or 0.0), 1e-3)
    case = with_numbers(seen(crate(), truth), {p: x.value for p, x in result.estimates.items()})
    assert case.surfaces["both"].restitution == e.value
