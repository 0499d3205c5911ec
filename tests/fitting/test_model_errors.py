"""Errors of the model are named: which number explains what is left over, and by how much."""

from __future__ import annotations

from math import degrees, radians

import numpy as np
import pytest
from benchmarks.apart.families import record
from benchmarks.apart.fits import case_of
from benchmarks.scenes import ball, floor, scene

from yapa.case import Pair, Samples, Track, Unknown, get_number, with_numbers
from yapa.case.parameters import numbers
from yapa.engine import simulate
from yapa.fitting import fit
from yapa.fitting.confidence.model_errors import _of_its_own, _vertex
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.problem.track_residuals import track_slopes

DRAWN = {"rate": 240.0, "sigma": 1e-3, "noise": "white", "flaw": "none", "told": True}


def thrown(seed=1, **change):
    """A ball thrown onto a floor, seen with 1 mm; the case that is fitted has none of the changes."""
    def case(tilt=0.0, radius=0.04, falloff=0.0):
        turned = (np.cos(tilt / 2), 0.0, np.sin(tilt / 2), 0.0)
        made = scene({"b": ball(radius, mass=0.15, position=(0, 0, 0.9), velocity=(1.8, 0, 1.0), drag_coefficient=0.4),
                      "f": floor().model_copy(update={"orientation": turned})}, duration=1.6, restitution=0.7, friction=0.4)
        surface = made.surfaces["both"].model_copy(update={"restitution_falloff": falloff})
        return made.model_copy(update={"surfaces": {"both": surface}})

    t = np.arange(0, 1.6, 1 / 120)
    late, scale = change.pop("late", 0.0), change.pop("scale", 1.0)
    x = simulate(case(**change), times=np.maximum(t - late, 0.0)[t >= late] if late else t).states[:, 0, :3]
    if late:
        x = np.vstack([np.repeat(x[:1], int((t < late).sum()), axis=0), x])
    x = x * scale + 1e-3 * np.random.default_rng(seed).normal(size=x.shape)
    track = Track(name="camera", body="b", sigma=1e-3, samples=Samples(t=tuple(t.tolist()), x=tuple(x[:, 0].tolist()),
                                                                       z=tuple(x[:, 2].tolist())))
    free = [("surfaces.both.restitution", 0.1, 1.0), ("bodies.b.velocity.x", -5.0, 5.0), ("bodies.b.velocity.z", -5.0, 5.0)]
    free += [] if late else [("bodies.b.position.x", -0.5, 0.5), ("bodies.b.position.z", 0.5, 1.5)]
    return case().model_copy(update={"tracks": (track,), "unknowns": tuple(Unknown(path=p, low=a, high=b) for p, a, b in free)})


@pytest.mark.parametrize(("change", "kind", "value"), [
    ({"tilt": radians(1.0)}, "tilt", lambda v: degrees(v) == pytest.approx(1.0, abs=0.1)),
    ({"scale": 1.01}, "scale", lambda v: v == pytest.approx(1 / 1.01, abs=2e-3)),
    ({"radius": 0.0408}, "radius", lambda v: v == pytest.approx(0.0408, abs=4e-4)),
    ({"falloff": 0.15}, "restitution by speed", lambda v: v == pytest.approx(0.15, abs=0.03)),
    ({"late": 0.01}, "clock", lambda v: v == pytest.approx(-0.01, abs=1e-3)),
])
def test_the_number_that_is_wrong_is_named_with_its_value(change, kind, value):
    case = thrown(**change)
    result = fit(case)
    assert [e.kind for e in result.explained] == [kind]
    told = result.explained[0]
    assert value(told.value)
    assert told.gain > 10
    assert any("explains what is left over" in f for f in result.findings)
    assert result.as_dict()["explained"][0]["kind"] == kind
    after = told.edit(case)
    if told.path is not None:
        assert after.unknowns[-1].path == told.path
        assert get_number(after, told.path) == pytest.approx(told.value, rel=1e-6)
        again = fit(after)
        assert again.misfit < result.misfit
        assert again.explained == []
    else:
        assert after.surfaces["both"].restitution_falloff == pytest.approx(told.value)


@pytest.mark.parametrize("name", ["scale", "time_offset"])
def test_derivatives_by_a_tracks_own_numbers_take_no_runs_of_their_own(name):
    """They are those of differences, with samples left out and an angle seen."""
    case, _ = case_of(record("throw, spin seen", 3, DRAWN | {"rate": 60.0, "flaw": "gaps"}))
    problem, path, step = FitProblem(case), f"tracks.track.{name}", 1e-7
    problem.robust_weights = np.where(np.arange(problem.track_residuals) % 7 == 0, 0.0, 1.0)
    p = problem.vector()
    now = numbers(case)[path]
    other = FitProblem(with_numbers(case, {path: now + step}))
    other.robust_weights = problem.robust_weights
    before = problem.simulations
    slopes = track_slopes(problem, p)
    assert problem.simulations == before + 1
    difference = (other.residuals(p) - problem.residuals(p)) / step
    assert np.abs(slopes[path] - difference).max() < 2e-3 * np.abs(difference).max()


def test_a_falloff_of_one_pair_leaves_the_other_pairs_of_its_ball():
    case = scene({"b": ball(position=(0, 0, 1), mass=0.1), "f": floor()})
    case = case.model_copy(update={"pairs": tuple(Pair(surfaces=("ball", name), restitution=0.5) for name in ("floor", "wall"))})
    assert _of_its_own(case, ["ball", "wall"]) == ["wall"]
    assert _of_its_own(case.model_copy(update={"pairs": case.pairs[:1]}), ["ball", "floor"]) == ["ball", "floor"]


@pytest.mark.parametrize(("known", "vertex"), [
    ([(2.0, 9.0 + 2.0 * (2.0 - 1.5) ** 2)], 1.5), ([(2.0, 9.5), (1.0, 9.5)], 1.5), ([(2.0, 9.5), (2.0, 9.5)], 2.0),
    ([(2.0, np.inf), (1.0, 9.5)], 1.0)])
def test_the_least_of_a_parabola_is_found_from_what_is_known_of_it(known, vertex):
    """9 + 2 (x - 1.5)², of which the value and the slope at zero are known; points that are none leave the lowest."""
    assert _vertex(13.5, -6.0, known) == pytest.approx(vertex)


@pytest.mark.parametrize("seed", range(6))
def test_a_right_model_needs_no_explanation(seed):
    assert fit(thrown(seed)).explained == []


@pytest.mark.parametrize("family", ["drop", "throw, spin seen", "lane", "box to a wall"])
def test_noise_that_hangs_together_explains_nothing(family):
    for seed in range(3):
        recorded = record(family, 50 + seed, DRAWN | {"rate": 60.0, "noise": "hanging together"})
        assert fit(case_of(recorded)[0]).explained == []


def test_on_a_lane_the_numbers_carry_the_error_of_the_scale():
    """Places that are 1% too large make friction, rolling resistance and launch 1% too large, and nothing shows it."""
    result = fit(case_of(record("lane", 3, DRAWN))[0])
    told = next(f for f in result.findings if "wrong scale" in f)
    assert "friction · body on support by +1.0%" in told
    assert "launch, along x · body by +1.0%" in told
    assert "carry its error" in told
