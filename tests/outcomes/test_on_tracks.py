"""Every outcome on noisy tracks: within three of its own standard deviations of the truth, or not resolved."""

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene
from benchmarks.situations import SITUATIONS, tracked, truths

from yapa import api
from yapa.case import Samples, Track
from yapa.demo import DATA
from yapa.engine import simulate
from yapa.outcomes import read
from yapa.tracking.reconstruct import Support, measured_motion
from yapa.tracking.track_data import track_data

G = np.array([0.0, 0.0, -9.80665])
SEEDS = 12


@pytest.mark.parametrize("rate", [30, 60, 120])
@pytest.mark.parametrize("situation", SITUATIONS)
def test_an_outcome_of_a_track_is_within_three_of_its_deviations_or_not_resolved(situation, rate):
    motion = simulate(SITUATIONS[situation])
    truth = truths(motion)
    rng = np.random.default_rng(rate)
    far, said = [], 0
    for _ in range(SEEDS):
        measured = tracked(motion, rate, rng)
        for (name, asked), true in truth.items():
            reading = read(measured, name, "b", query=asked)
            if reading.value is None:
                continue
            said += 1
            if true.value is None or abs(reading.value - true.value) > 3 * max(reading.std or 0.0, 1e-9):
                far.append((name, asked.index, reading.value, true.value, reading.std))
    assert said > 15 * SEEDS
    assert len(far) <= 0.015 * said + 1, [f[:2] for f in far]


@pytest.mark.parametrize("rate", [60, 120])
def test_where_the_frames_suffice_the_first_bounces_are_told(rate):
    motion = simulate(SITUATIONS["throw"])
    rng = np.random.default_rng(5)
    for _ in range(4):
        measured = tracked(motion, rate, rng)
        for name in ("apex", "bounce time", "kept restitution", "impact speed", "landing"):
            for k in (1, 2):
                assert read(measured, name, "b", k).value == pytest.approx(read(motion, name, "b", k).value, rel=0.02)


def test_contacts_too_fast_for_the_frames_are_not_resolved_and_it_says_from_when():
    measured = tracked(simulate(SITUATIONS["throw"]), 30, np.random.default_rng(1))
    reading = read(measured, "bounces", "b")
    assert reading.value is None
    assert "not resolved: from 1." in reading.missing


def test_what_slides_up_a_slope_and_back_has_hit_nothing():
    """Where it turns round, friction turns with it: another acceleration before and after, and no jump of its speed."""
    seen = next(iter(api.measured_motions(api.load(DATA / "crate-chute.yapa")).values()))
    along = seen.trajectory("crate").position(seen.times)[:, 0]
    assert along.max() > along[-1] + 0.5  # it did turn round
    assert list(seen.contacts) == []


@pytest.mark.parametrize("rate", [60.0, 120.0])
def test_when_a_roll_comes_to_rest_is_read_off_its_deceleration(rate):
    """Speeds of a track are too rough near the end: its places say to milliseconds when an even deceleration is over."""
    from benchmarks.apart.planar import lane

    off, told = [], []
    for seed in range(10):
        rng = np.random.default_rng(seed)
        mu, c, v, r = rng.uniform(0.1, 0.4), rng.uniform(0.02, 0.05), rng.uniform(0.8, 2.2), 0.05
        fine = np.arange(0, 10, 1e-3)
        stop = fine[np.flatnonzero(lane(fine, v, 0.0, r, mu, c)[:, 1] > 0.005)[-1]]
        t = np.arange(0, stop + 0.6, 1 / rate)
        x = lane(t, v, 0.0, r, mu, c)[:, 0] + 1e-3 * rng.normal(size=len(t))
        track = Track(name="t", body="b", sigma=1e-3, samples=Samples(t=tuple(t.tolist()), x=tuple(x.tolist()), z=(r,) * len(t)))
        case = scene({"b": ball(r, mass=0.2, position=(0, 0, r)), "f": floor()})
        motion = measured_motion(track_data(track), simulate(case).body("b"), Support(np.array([0, 0, 1.0]), r, "f"), G)
        reading = read(motion, "rest time", "b")
        assert reading.value is not None, (seed, reading.missing, mu, c, v)
        off.append(reading.value - stop)
        told.append(reading.std)
    assert np.abs(off).max() < 0.012
    assert np.sqrt(np.mean((np.array(off) / told) ** 2)) < 2.0
