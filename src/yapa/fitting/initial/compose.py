"""All readings together: later ones win where two speak of the same unknown."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from yapa.case.parameter_path import parse_path
from yapa.fitting.initial.bounce import guess_bounces, guess_drag
from yapa.fitting.initial.clock import clock_is_free, from_frame, start_of_flight, time_of_release, to_case_frame, with_nuisances
from yapa.fitting.initial.collision import guess_collisions
from yapa.fitting.initial.launch import guess_launch
from yapa.fitting.initial.seen import Guess, ObservedTrack, gravity_of, reconstruct_tracks
from yapa.fitting.initial.spin import Pattern, patterns_of, spin_axis
from yapa.fitting.initial.support import guess_support
from yapa.fitting.problem.problem import FitProblem
from yapa.tracking.ballistic import clear_of_outliers, fit_arcs
from yapa.tracking.track_data import TrackData

PLAUSIBLE = 12.0
"""Half a squared misfit of bounces' speeds above the best at which another pattern is still tried."""


@dataclass(frozen=True)
class Start:
    """Where a fit may begin: values by path, and how much worse the bounces' speeds agree than in the best reading."""

    values: dict[str, float]
    price: float = 0.0
    slides: tuple[bool, ...] = ()


@dataclass(frozen=True)
class TrackFeatures:
    """Starts, the likeliest first; which frames of each track stand far off the flights read off it; and of which frictions
    every likely pattern of sliding is among the starts."""

    starts: list[Start]
    far: dict[str, np.ndarray]
    compared: frozenset[str] = frozenset()
    seen: tuple[ObservedTrack, ...] = ()
    dropped: bool = False
    """Whether a likely pattern is not among the starts."""


def first_guess(problem: FitProblem) -> dict[str, float]:
    """Return path → value for every unknown a track speaks of; nothing is simulated.

    Parameters
    ----------
    problem : the least-squares problem
    """
    return read_tracks(problem).starts[0].values


def read_tracks(problem: FitProblem) -> TrackFeatures:
    """Return everything the tracks say in closed form; nothing is simulated.

    Parameters
    ----------
    problem : the least-squares problem
    """
    guess = Guess(problem)
    tracks = reconstruct_tracks(problem, [on_the_clock(guess, k) for k in range(len(problem.tracks))])
    options: list[tuple[ObservedTrack, list[Pattern]]] = []
    for seen in tracks:
        guess_launch(guess, seen)
        cuts = [c.time for c in seen.motion.contacts]
        if not seen.motion.contact_intervals:
            arcs = fit_arcs(seen.data, cuts, gravity_of(problem), [False] * (len(cuts) + 1))
            k = next((arc.k for arc in arcs if arc is not None), 0.0)
            guess_drag(guess, seen, k)
        guess_bounces(guess, seen)
        guess_support(guess, seen)
        if not seen.motion.contact_intervals:
            options.append((seen, patterns_of(guess, seen)))
    guess_collisions(guess, tracks)
    plain = {path: value for path, value in guess.values.items() if np.isfinite(value)}
    starts = [Start(plain)]
    for seen, patterns in options:
        if patterns:
            starts = [Start(s.values | _of_pattern(problem, seen, p), s.price + p.price, s.slides + p.slides)
                      for s in starts for p in patterns]
    starts.sort(key=lambda s: s.price)
    likely = [s for s in starts if s.price <= starts[0].price + PLAUSIBLE]
    near = likely[:4]
    compared = {path for seen, patterns in options for pattern in patterns[:1] for path in _of_pattern(problem, seen, pattern)
                if parse_path(path).quantity == "friction"}
    return TrackFeatures(near, {seen.data.name: _far(problem, seen) for seen in tracks}, frozenset(compared), tuple(tracks),
                    len(likely) > len(near))


def on_the_clock(guess: Guess, k: int, known: Mapping[str, float] | None = None) -> TrackData:
    """Return a track on the scene's clock and axes; where the clock is unknown, it is read off the first flight and offered.

    ``known``: path → value of offsets, scales and shifts that a fit has found.

    Parameters
    ----------
    guess : starting values so far
    k : index of the track
    known : path → value of what is known
    """
    problem = guess.problem
    track = problem.case.tracks[k]
    data = problem.tracks[k]
    if known:
        track = with_nuisances(track, known)
    elif known is not None:
        return to_case_frame(track, data)
    if known or not clock_is_free(problem, track.name):
        return to_case_frame(track, data)
    data = replace(data, x=data.x * track.scale + np.array(track.translation))
    release = time_of_release(problem, data)
    if release is None:
        return replace(data, t=data.t + track.time_offset)
    flying = from_frame(data, release)
    if len(flying.t) < 8:
        return replace(data, t=data.t + track.time_offset)
    seen = reconstruct_tracks(problem, [flying])[0]
    path = seen.motion.trajectory(seen.body)
    at = float(flying.t[0])
    v, x = path.velocity(np.array([at]))[0], path.position(np.array([at]))[0]
    start = start_of_flight(problem, data, v, x, at, gravity_of(problem))
    guess.offer(f"tracks.{track.name}.time_offset", -start)
    return replace(flying, t=flying.t - start)


def _of_pattern(problem: FitProblem, seen: ObservedTrack, pattern: Pattern) -> dict[str, float]:
    guess = Guess(problem)
    axes = spin_axis(seen)
    assert axes is not None
    assert seen.support_body is not None
    guess.offer_pair(seen.body, seen.support_body, "friction", pattern.friction)
    if seen.data.angle is None:
        axis = int(np.argmax(np.abs(axes[1])))
        guess.offer(f"bodies.{seen.body}.angular_velocity.{'xyz'[axis]}", pattern.spin)
    return guess.values


def _far(problem: FitProblem, seen: ObservedTrack) -> np.ndarray:
    """Of every frame of the recorded track, whether it stands alone, or more than 8 σ off the flights read off it."""
    recorded = next(d for d in problem.tracks if d.name == seen.data.name)
    data, shown = seen.data, np.array(seen.data.shown)
    far = np.zeros(len(recorded.t), bool)
    if not shown.any():
        return far  # an angle alone has no places to stand off
    read = far[len(far) - len(data.t) :]  # what came before the release is not read
    good = np.flatnonzero(np.isfinite(data.x).all(axis=1))
    read[good] = ~clear_of_outliers(data.t[good], data.x[good][:, shown], data.sigma)
    if not seen.motion.contact_intervals:
        off = np.abs(data.x - seen.motion.trajectory(seen.body).position(data.t))[:, shown].max(axis=1)
        known = data.t < min([a for a, _ in seen.motion.unresolved_intervals], default=np.inf)
        read |= known & (np.nan_to_num(off, nan=0.0) > 8 * data.sigma)
    return far
