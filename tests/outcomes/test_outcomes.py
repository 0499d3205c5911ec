"""Outcomes against closed forms, on simulated motions and on noisy tracks of the same motions."""

from __future__ import annotations

import numpy as np
import pytest
from benchmarks.scenes import G, ball, crate_on_slope, floor, scene

from yapa.case import Body, Box, Case, Plane, Samples, Sphere, Surface, Track
from yapa.case.scene import Pairing
from yapa.engine import simulate
from yapa.motion import BodyInfo
from yapa.outcomes import measure, read
from yapa.tracking.reconstruct import Support, measured_motion
from yapa.tracking.track_data import track_data

R = 0.05
E, H = 0.7, 1.0
T1 = np.sqrt(2 * H / G)


def drop(duration=4.0, e=E):
    return simulate(scene({"b": ball(R, position=(0, 0, H + R)), "f": floor()}, duration=duration, restitution=e))


def height(t):
    """The bounce series in closed form."""
    t0, v = T1, E * G * T1
    z = np.where(t < T1, H - G * t * t / 2, 0.0)
    for _ in range(40):
        span = 2 * v / G
        inside = (t >= t0) & (t < t0 + span)
        z = np.where(inside, v * (t - t0) - G * (t - t0) ** 2 / 2, z)
        t0, v = t0 + span, v * E
    return z + R


def noisy(t, sigma, seed):
    rng = np.random.default_rng(seed)
    z = height(t) + rng.normal(0, sigma, t.shape)
    track = Track(name="t", body="b", sigma=sigma, samples=Samples(t=tuple(t.tolist()), z=tuple(z.tolist())))
    account = BodyInfo("b", True, "sphere", (R, R, R), R)
    return measured_motion(track_data(track), account, Support(np.array([0, 0, 1.0]), R), np.array([0, 0, -G]))


def test_apexes_follow_the_series():
    motion = drop()
    for k in (1, 2, 3, 4):
        assert read(motion, "apex", "b", k).value == pytest.approx(E ** (2 * k) * H, rel=1e-6)


def test_a_bounce_series_rests_at_its_limit():
    assert read(drop(), "rest time", "b").value == pytest.approx(T1 * (1 + E) / (1 - E), rel=1e-6)


def test_bounces_are_counted_down_to_five_millimetres():
    want = sum(1 for k in range(1, 60) if E ** (2 * k) * H >= 0.005)
    assert read(drop(), "bounces", "b").value == want


def test_a_missing_apex_says_so_and_still_shows_the_way():
    low, high = read(drop(e=0.2), "apex", "b", 4), read(drop(e=0.3), "apex", "b", 4)
    assert low.value is None
    assert "no bounce 4" in low.missing
    assert low.shortfall > high.shortfall > 0


def test_a_clip_that_ends_too_early_says_when_it_would_rest():
    reading = read(drop(duration=1.5), "rest time", "b")
    assert reading.value is None
    assert reading.surrogate == pytest.approx(T1 * (1 + E) / (1 - E), rel=1e-6)


def test_sliding_stop_gives_distance_time_and_travel():
    mu, v = 0.3, 2.0
    motion = simulate(crate_on_slope(0.0, v, 3.0, friction=mu))
    whole = v * v / (2 * mu * G)
    assert read(motion, "travel", "crate").value == pytest.approx(whole, rel=1e-6)
    late = 0.005  # below 5 mm/s it no longer counts as sliding
    assert read(motion, "slide distance", "crate").value == pytest.approx(whole - late**2 / (2 * mu * G), rel=1e-6)
    assert read(motion, "rest time", "crate").value == pytest.approx((v - late) / (mu * G), rel=1e-6)
    assert read(motion, "peak speed", "crate").value == pytest.approx(v)


def test_slide_then_roll_share_the_way():
    mu, c, v = 0.2, 0.02, 2.0
    case = scene({"b": ball(R, position=(0, 0, R), velocity=(v, 0, 0)), "f": floor()}, duration=8.0, friction=mu,
                 rolling_resistance=c)
    motion = simulate(case)
    change = (2 * v - 2 * 0.005) / ((7 * mu - 5 * c) * G)
    slid = v * change - mu * G * change**2 / 2
    assert read(motion, "slide distance", "b").value == pytest.approx(slid, rel=1e-4)
    both = read(motion, "slide distance", "b").value + read(motion, "roll distance", "b").value
    assert both == pytest.approx(read(motion, "travel", "b").value, rel=1e-6)


def test_landings_are_measured_from_the_start():
    b = ball(R, position=(0.5, 0, H + R), velocity=(0.8, 0.6, 0))
    motion = simulate(scene({"b": b, "f": floor()}, restitution=E))
    assert read(motion, "landing", "b", 1).value == pytest.approx(T1, rel=1e-9)
    assert read(motion, "landing", "b", 2).value == pytest.approx(T1 * (1 + 2 * E), rel=1e-9)


@pytest.mark.parametrize("fps", [30, 60, 120])
def test_contacts_of_a_noisy_track_are_found_between_the_frames(fps):
    late = []
    for seed in range(12):
        motion = noisy(np.arange(0, 1.9, 1 / fps), 0.001, seed)
        want = [T1, T1 * (1 + 2 * E), T1 * (1 + 2 * E + 2 * E * E)]
        got = [c for c in motion.contacts if c.time < 1.6]
        assert len(got) == sum(w < 1.6 for w in want)
        late += [(c.time - w) / c.time_std for c, w in zip(got, want, strict=False)]
        for k in (1, 2):
            reading = measure(motion, "b")[f"apex {k}"]
            assert abs(reading.value - E ** (2 * k) * H) < 4 * reading.std
    assert np.abs(late).max() < 4
    assert 0.4 < np.std(late) < 1.6  # its stated uncertainty is neither boast nor excuse


def test_a_gap_and_an_outlier_make_no_contact():
    t = np.arange(0, 1.5, 1 / 120)
    rng = np.random.default_rng(5)
    z = height(t) + rng.normal(0, 0.001, t.shape)
    z[30] += 0.08
    cells = [None if 70 <= k < 78 else float(v) for k, v in enumerate(z)]
    track = Track(name="t", body="b", sigma=0.001, samples=Samples(t=tuple(t.tolist()), z=tuple(cells)))
    account = BodyInfo("b", True, "sphere", (R, R, R), R)
    motion = measured_motion(track_data(track), account, Support(np.array([0, 0, 1.0]), R), np.array([0, 0, -G]))
    times = [c.time for c in motion.contacts if c.time < 1.3]
    assert times == pytest.approx([T1, T1 * (1 + 2 * E)], abs=1e-3)


def test_noise_is_estimated_from_the_track():
    t = np.arange(0, 1.9, 1 / 120)
    rng = np.random.default_rng(1)
    z = height(t) + rng.normal(0, 0.002, t.shape)
    data = track_data(Track(name="t", body="b", samples=Samples(t=tuple(t.tolist()), z=tuple(z.tolist()))))
    assert data.sigma == pytest.approx(0.002, rel=0.2)
    assert not data.sigma_given


@pytest.mark.parametrize("name", ["orange-drop", "orange-throw"])
def test_demo_tracks_show_their_contacts(name, truth):
    from yapa import api
    from yapa.demo import DATA

    case = api.load(DATA / f"{name}.yapa")
    motion = next(iter(api.measured_motions(case).values()))
    want = [t for t in truth[name]["contact_times"]][: len(motion.contacts)]
    assert len(want) >= 4
    for c, w in zip(motion.contacts, want, strict=True):
        assert abs(c.time - w) < 1e-3


def test_a_landing_that_does_not_rebound_is_a_landing():
    """A ball bounces off a hard step and comes down dead on a dull floor: its second landing is there."""
    surfaces = {"hard": Surface(restitution=0.9, friction=0.0), "dull": Surface(restitution=0.0, friction=0.0)}
    step = Body(motion="static", position=(0.0, 0.0, 0.05), shapes=(Box(kind="box", size=(0.3, 0.3, 0.1), surface="hard"),))
    thrown = Body(shapes=(Sphere(kind="sphere", radius=0.03, surface="hard"),), position=(0.0, 0.0, 0.53), velocity=(0.5, 0.0, 0.0))
    down = Body(motion="static", shapes=(Plane(kind="plane", surface="dull"),))
    case = Case(surfaces=surfaces, bodies={"ball": thrown, "step": step, "floor": down}, duration=2.0,
                pairing=Pairing(restitution="smaller"))
    motion = simulate(case)
    first, second, third = (read(motion, "landing x", "ball", k) for k in (1, 2, 3))
    fall = (2 * 0.4 / 9.80665) ** 0.5
    up = 0.9 * 9.80665 * fall / 9.80665
    down_again = (2 * (0.1 + 0.5 * 9.80665 * up**2) / 9.80665) ** 0.5
    assert first.value == pytest.approx(0.5 * fall, abs=1e-9)
    assert second.value == pytest.approx(0.5 * (fall + up + down_again), abs=1e-9)
    assert third.value is None
    assert read(motion, "bounces", "ball").value == 1
