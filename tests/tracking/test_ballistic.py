"""Flights read off a track: against flights integrated another way, with noise, outliers, and contacts between the frames."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from yapa.tracking.ballistic import Arc, clear_of_outliers, fit_arcs, jump_times, meeting_time
from yapa.tracking.track_data import TrackData

G = np.array([0.0, 0.0, -9.80665])
UP = np.array([0.0, 0.0, 1.0])
SIGMA, RATE = 5e-4, 120.0


def flown(x0, v0, k, times):
    """Places of a flight with quadratic drag at rising times after its start, by a general solver."""
    def rate(_t, y):
        return np.concatenate([y[3:], G - k * np.linalg.norm(y[3:]) * y[3:]])

    out = solve_ivp(rate, (0.0, max(times) + 1e-9), np.concatenate([x0, v0]), t_eval=times, rtol=1e-10, atol=1e-12)
    return out.y[:3].T, out.y[3:].T


def bounced(e=0.7, k=0.0, height=1.0, vx=0.8, end=2.0, sigma=SIGMA, seed=0):
    """A track of a ball dropped onto z = 0 and bouncing, and the times of its contacts."""
    rng, t = np.random.default_rng(seed), np.arange(0, end, 1 / RATE)
    x, v, start = np.array([0.0, 0.0, height]), np.array([vx, 0.0, 0.0]), 0.0
    places, hits = np.zeros((len(t), 3)), []
    while start < end:
        fine = np.linspace(0, end - start + 1.5, 6000)
        way, speed = flown(x, v, k, fine)
        down = np.flatnonzero((way[:, 2] <= 0) & (speed[:, 2] < 0))
        i = int(down[0])
        share = way[i - 1, 2] / (way[i - 1, 2] - way[i, 2])
        lasts = fine[i - 1] + share * (fine[i] - fine[i - 1])
        inside = (t >= start) & (t < start + lasts)
        if inside.any():
            places[inside] = flown(x, v, k, t[inside] - start)[0]
        start += lasts
        x = way[i - 1] + share * (way[i] - way[i - 1])
        v = (speed[i - 1] + share * (speed[i] - speed[i - 1])) * [1, 1, -e]
        if start < end:
            hits.append(start)
    return tracked(t, places + rng.normal(size=places.shape) * [sigma, 0, sigma], sigma), hits


def tracked(t, x, sigma=SIGMA):
    return TrackData("camera", "b", t, x, None, (True, False, True), sigma, 1e-6, True)


@pytest.mark.parametrize("k", [0.0, 0.02, 0.3])
def test_a_flight_is_that_of_a_general_solver(k):
    x0, v0 = np.array([0.1, 0.0, 1.0]), np.array([1.5, 0.0, 2.0])
    arc = Arc(0.0, 0.6, 0.0, x0, v0, k, G, np.zeros((2, 2)), 60)
    t = np.linspace(0.01, 0.6, 30)
    x, v = flown(x0, v0, k, t)
    assert arc.at(t)[0] == pytest.approx(x, abs=2e-4)  # at k = 0.3; a flight is read at half its length from its origin
    assert arc.at(t)[1] == pytest.approx(v, abs=2e-3)
    near = t <= 0.3
    assert arc.at(t[near])[0] == pytest.approx(x[near], abs=1e-5)


def test_long_before_it_began_a_flight_with_drag_is_nowhere_and_says_nothing(recwarn):
    arc = Arc(0.0, 0.5, 0.25, np.zeros(3), np.array([3.0, 0.0, 4.0]), 4.0, G, np.zeros((2, 2)), 60)
    far = arc.at(-500.0)[0]
    assert not np.isfinite(far).all() or np.abs(far).max() > 1e3
    assert not recwarn.list


@settings(max_examples=20, deadline=None)
@given(st.integers(0, 2**31))
def test_a_flight_is_fitted_within_its_own_deviations(seed):
    rng = np.random.default_rng(seed)
    x0, v0 = rng.normal(size=3) * [1, 0, 1], rng.normal(size=3) * [2, 0, 2]
    t = np.arange(0, 0.5, 1 / RATE)
    x = flown(x0, v0, 0.0, t)[0] + rng.normal(size=(len(t), 3)) * [SIGMA, 0, SIGMA]
    (arc,) = fit_arcs(tracked(t, x), [], G, [False])
    truth = flown(x0, v0, 0.0, [arc.origin])
    place, speed = arc.std(arc.origin)
    assert np.abs(arc.x0 - truth[0][0])[[0, 2]].max() < 5 * place
    assert np.abs(arc.v0 - truth[1][0])[[0, 2]].max() < 5 * speed
    if arc.k == 0.0:  # by chance one in hundreds shows a drag, and is less sure for it
        assert place == pytest.approx(SIGMA / np.sqrt(len(t)), rel=0.05)
    later, _ = arc.std(arc.origin + 0.5)
    assert later > 2 * place  # beyond its frames it is known less


def test_drag_is_found_over_all_flights_and_none_is_invented():
    heavy, hits = bounced(e=0.8, k=0.15, height=1.5, end=2.0)
    arcs = [a for a in fit_arcs(heavy, hits, G, [False] * (len(hits) + 1)) if a is not None]
    assert {a.k for a in arcs} == {arcs[0].k}
    assert arcs[0].k == pytest.approx(0.15, rel=0.15)
    none, hits = bounced(e=0.8, k=0.0, height=1.5, end=2.0)
    assert {a.k for a in fit_arcs(none, hits, G, [False] * (len(hits) + 1)) if a is not None} == {0.0}


def test_frames_far_off_weigh_nothing():
    track, hits = bounced(e=0.8, end=1.2)
    clean = fit_arcs(track, hits, G, [False] * (len(hits) + 1))
    x = track.x.copy()
    x[[10, 60, 61]] += [0.05, 0.0, -0.08]
    spoilt = fit_arcs(tracked(track.t, x), hits, G, [False] * (len(hits) + 1))
    for a, b in zip(clean, spoilt, strict=True):
        assert (a is None) == (b is None)
        if a is not None and b is not None:
            assert np.abs(a.x0 - b.x0).max() < 1e-3


def test_what_is_held_or_too_short_is_no_flight():
    track, hits = bounced(e=0.8, end=1.2)
    held = [False] * (len(hits) + 1)
    held[1] = True
    assert fit_arcs(track, hits, G, held)[1] is None
    cuts = [0.2, 0.2 + 4 / RATE]  # four frames between them
    assert fit_arcs(track, cuts, G, [False] * 3)[1] is None


def test_a_flight_that_does_not_follow_its_frames_is_left_out_only_when_asked_to():
    track, hits = bounced(e=0.8, end=1.2)
    whole = fit_arcs(track, [], G, [False])  # one flight through every bounce
    assert whole[0] is not None
    assert fit_arcs(track, [], G, [False], strict=True) == [None]
    assert all(a is not None for a in fit_arcs(track, hits, G, [False] * (len(hits) + 1), strict=True)[:2])


@pytest.mark.parametrize("seed", range(5))
@pytest.mark.parametrize("e", [0.7, 0.85])
def test_every_bounce_shows_as_a_jump_and_nothing_else_does(e, seed):
    track, hits = bounced(e=e, end=1.4, seed=seed)
    found = jump_times(track, UP, 0.0)
    seen = [t for t, following in zip(hits, [*hits[1:], 1.4], strict=True) if following - t > 0.12 and t < 1.35]
    for t in seen:
        assert min(abs(t - f) for f in found) < 2 / RATE
    assert all(min(abs(t - f) for t in hits) < 3 / RATE for f in found)


def test_a_jump_upward_high_above_the_support_is_an_outlier_and_one_sideways_is_a_hit():
    t = np.arange(0, 0.6, 1 / RATE)
    rng = np.random.default_rng(2)
    x = flown(np.array([0.0, 0, 1.0]), np.array([1.5, 0, 2.0]), 0.0, t)[0]
    turned = x.copy()
    late = t > 0.3
    turned[late, 0] = turned[late][0, 0] - 0.9 * (t[late] - t[late][0])  # back from a wall
    noise = rng.normal(size=x.shape) * [SIGMA, 0, SIGMA]
    found = jump_times(tracked(t, turned + noise), UP, 0.0)
    assert len(found) == 1
    assert found[0] == pytest.approx(0.3, abs=2 / RATE)
    lifted = x.copy()
    lifted[late, 2] += 3.0 * (t[late] - 0.3)
    assert jump_times(tracked(t, lifted + noise), UP, 0.0) == []
    assert len(jump_times(tracked(t, lifted + noise), UP, None)) == 1  # without a support it may be anything


def test_frames_that_stand_off_both_sides_go_and_bounces_stay():
    track, _ = bounced(e=0.8, end=1.1)
    shown = track.x[:, [0, 2]]
    assert clear_of_outliers(track.t, shown, SIGMA).all()
    x = shown.copy()
    x[40] += 0.03
    x[90] -= 0.05
    kept = clear_of_outliers(track.t, x, SIGMA)
    assert np.flatnonzero(~kept).tolist() == [40, 90]


def test_two_flights_meet_where_their_heights_are_one():
    down = Arc(0.0, 0.4, 0.0, np.array([0, 0, 1.0]), np.zeros(3), 0.0, G, np.diag([1e-8, 1e-6]), 40)
    up = Arc(0.4, 0.9, 0.6, np.array([0, 0, 0.6]), np.array([0.0, 0, 0.5]), 0.0, G, np.diag([1e-8, 1e-6]), 40)
    t, std = meeting_time(down, up, UP, 0.45, 0.2)
    assert down.at(t)[0][0, 2] == pytest.approx(up.at(t)[0][0, 2], abs=1e-10)
    rate = float((up.at(t)[1][0] - down.at(t)[1][0])[2])
    assert std == pytest.approx(1.2 * np.hypot(down.std(t)[0], up.std(t)[0]) / abs(rate))  # a little more than the flights' own
    assert meeting_time(down, up, UP, 0.45 + 5.0, 0.2) is None  # too far from the guess
    assert meeting_time(down, down, UP, 0.2, 0.1) is None  # the same flight meets itself everywhere


def test_a_frame_far_off_moves_a_flight_no_more_than_leaving_it_out():
    """One frame twenty deviations off, in the middle and near an end: the flight is that of the other frames."""
    track, hits = bounced(seed=4)
    clean = fit_arcs(track, hits, G, [False] * (len(hits) + 1))[0]
    for frame in (10, 45):
        x = track.x.copy()
        x[frame, 2] += 20 * SIGMA
        gap = track.x.copy()
        gap[frame] = np.nan
        moved = fit_arcs(tracked(track.t, x), hits, G, [False] * (len(hits) + 1))[0]
        without = fit_arcs(tracked(track.t, gap), hits, G, [False] * (len(hits) + 1))[0]
        assert moved.x0 == pytest.approx(without.at(moved.origin)[0][0], abs=0.05 * SIGMA)
        assert np.abs(moved.v0 - without.at(moved.origin)[1][0]).max() < 0.2 * clean.std(clean.origin)[1]
