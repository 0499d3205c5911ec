"""What is read off a track before anything is simulated: clock, launch, spin, friction, and which frames to leave out.

The tracks are those of a generator of its own, apart from the engine.
"""

import numpy as np
import pytest
from benchmarks.fit.flights import START, Throw, drawn, fly
from benchmarks.fit.thrown import LATE, PATHS, Nuisance, case_of, recorded, scene

from yapa.case import with_numbers
from yapa.engine import simulate
from yapa.fitting.initial import read_tracks
from yapa.fitting.initial.clock import from_frame, time_of_release, to_case_frame, with_nuisances
from yapa.fitting.initial.seen import Guess
from yapa.fitting.initial.spin import MAX_PATTERNS, patterns_of, spin_axis
from yapa.fitting.problem.problem import FitProblem
from yapa.tracking.ballistic import clear_of_outliers

SEEDS = range(8)


def read_of(seed, hard=True, what=None, rate=240.0):
    what = what or Nuisance()
    rng = np.random.default_rng([seed, 91])
    throw, end = drawn(rng, hard)
    samples, late = recorded(rng, throw, end, rate, what)
    problem = FitProblem(case_of(samples, what.late, end))
    return throw, end, late, problem, read_tracks(problem)


@pytest.mark.parametrize("seed", SEEDS)
def test_the_generator_and_the_engine_agree_on_a_throw(seed):
    throw, end = drawn(np.random.default_rng([seed, 90]), True)
    t = np.arange(0.0, end, 1 / 240)
    flown = fly(throw, t)
    case = with_numbers(scene(), {PATHS[k]: getattr(throw, k) for k in PATHS}).model_copy(update={"duration": end})
    motion = simulate(case, times=t)
    assert np.abs(motion.states[:, 0, 0] - flown.x).max() < 2e-6
    assert np.abs(motion.states[:, 0, 2] - flown.z).max() < 2e-6
    assert [c.time for c in motion.contacts][: len(flown.hits)] == pytest.approx([h[0] for h in flown.hits], abs=1e-6)


@pytest.mark.parametrize("seed", SEEDS)
def test_spin_and_friction_that_nobody_measured_are_read_off_the_bounces(seed):
    throw, end, _, _, read = read_of(seed)
    first = read.starts[0]
    assert first.slides == tuple(fly(throw, np.array([0.0, end])).slides)[: len(first.slides)]
    assert first.values[PATHS["friction"]] == pytest.approx(throw.friction, abs=0.01)
    assert first.values[PATHS["spin"]] == pytest.approx(throw.spin, abs=3.0)
    assert first.values[PATHS["restitution"]] == pytest.approx(throw.restitution, abs=0.006)
    assert first.values[PATHS["vx"]] == pytest.approx(throw.vx, abs=0.02)
    assert PATHS["friction"] in read.compared


@pytest.mark.parametrize("seed", SEEDS)
def test_where_every_bounce_grips_the_plateau_is_among_the_starts(seed):
    rng = np.random.default_rng([seed, 92])
    while True:
        throw, end = drawn(rng, False)
        if not any(fly(throw, np.array([0.0, end])).slides):
            break
    samples, _ = recorded(rng, throw, end, 240.0, Nuisance())
    starts = read_tracks(FitProblem(case_of(samples, False, end))).starts
    grip = next(s for s in starts if not any(s.slides))
    assert grip.values[PATHS["friction"]] > 0.3
    assert grip.price < starts[0].price + 6.0


@pytest.mark.parametrize("seed", SEEDS)
def test_a_late_clock_is_read_off_the_held_frames(seed):
    _, _, late, problem, read = read_of(seed, what=Nuisance(late=True))
    assert read.starts[0].values[LATE] == pytest.approx(-late, abs=1.5e-3)
    data = problem.tracks[0]
    assert abs(time_of_release(problem, data) - late) < 0.08


@pytest.mark.parametrize("seed", SEEDS)
def test_frames_that_stand_off_their_flight_are_left_out_and_hardly_another(seed):
    throw, end, late, problem, read = read_of(seed, what=Nuisance(outliers=0.04, missing=0.2))
    data = problem.tracks[0]
    true = fly(throw, np.maximum(data.t - late, 0.0))
    off = np.hypot(data.x[:, 0] - true.x, data.x[:, 2] - true.z)
    seen = np.isfinite(off)
    bad, far = seen & (off > 0.03), read.far["camera"]
    assert (far & bad).sum() >= 0.85 * bad.sum()
    assert (far & ~bad).sum() <= 0.02 * seen.sum()


def test_a_bounce_is_no_outlier_and_a_pair_of_them_is():
    t = np.arange(0, 0.8, 1 / 120)
    z = np.abs(4.0 * (t - 0.4))  # a sharp turn
    x = np.column_stack([t, z])
    assert clear_of_outliers(t, x, 1e-3).all()
    x[30:32, 1] += 0.09
    x[60, 0] -= 0.05
    clear = clear_of_outliers(t, x, 1e-3)
    assert set(np.flatnonzero(~clear)) == {30, 31, 60}


def test_few_frames_are_never_called_outliers():
    t = np.arange(0, 0.1, 1 / 120)
    assert clear_of_outliers(t[:10], np.random.default_rng(0).normal(size=(10, 2)), 1e-3).all()


def test_a_known_offset_scale_and_shift_lay_a_track_on_the_scene():
    throw, end = Throw(0.7, 0.2, 1.5, 0.5, 20.0, 0.3), 1.2
    samples, _ = recorded(np.random.default_rng(1), throw, end, 120.0, Nuisance())
    case = case_of(samples, False, end)
    track = case.tracks[0].model_copy(update={"time_offset": -0.1, "scale": 2.0, "translation": (0.5, 0.0, 0.0)})
    problem = FitProblem(case)
    data = to_case_frame(track, problem.tracks[0])
    assert data.t[0] >= 0.0
    assert len(data.t) == int((np.array(samples.t) - 0.1 >= 0.5 / 120).sum())
    first = len(samples.t) - len(data.t)
    assert data.x[0, 0] == pytest.approx(2.0 * samples.x[first] + 0.5)
    assert to_case_frame(case.tracks[0], problem.tracks[0]) is problem.tracks[0]
    found = with_nuisances(track, {"tracks.camera.time_offset": 0.02, "tracks.camera.translation.z": -0.1,
                                   "tracks.other.scale": 3.0})
    assert (found.time_offset, found.scale, found.translation) == (0.02, 2.0, (0.5, 0.0, -0.1))
    assert from_frame(problem.tracks[0], 0.5).t[0] == pytest.approx(0.5, abs=1e-9)


def test_no_release_is_read_where_the_start_is_free_or_never_left():
    throw, end = Throw(0.7, 0.2, 1.5, 0.5, 20.0, 0.3), 1.2
    samples, _ = recorded(np.random.default_rng(1), throw, end, 120.0, Nuisance(late=True))
    case = case_of(samples, True, end)
    problem = FitProblem(case)
    assert time_of_release(problem, problem.tracks[0]) is not None
    count = len(samples.t)
    still = samples.model_copy(update={"x": (START[0],) * count, "z": tuple(START[1] + 1e-5 * k for k in range(count))})
    resting = FitProblem(case.model_copy(update={"tracks": (case.tracks[0].model_copy(update={"samples": still}),)}))
    assert time_of_release(resting, resting.tracks[0]) is None


def test_a_box_and_a_ball_that_never_bounces_have_no_spin_to_read():
    _, _, _, problem, read = read_of(0)
    seen = read.seen[0]
    guess = Guess(problem)
    assert 1 <= len(patterns_of(guess, seen)) <= MAX_PATTERNS
    d, axis = spin_axis(seen)
    assert abs(d @ axis) < 1e-12
    assert axis @ np.array([0, 1, 0]) == pytest.approx(1.0)
    from dataclasses import replace

    alone = replace(seen, motion=replace(seen.motion, contacts=()))
    assert spin_axis(alone) is None
    assert patterns_of(guess, alone) == []

