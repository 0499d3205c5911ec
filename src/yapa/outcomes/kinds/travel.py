"""How far and how fast: travel, slide and roll distance, peak speed."""

from __future__ import annotations

import numpy as np

from yapa.motion import Array, ContactInterval, Motion, rising
from yapa.motion.contacts import SlipState
from yapa.outcomes.kinds.bounce import up_of
from yapa.outcomes.query import OutcomeQuery
from yapa.outcomes.registry import outcome
from yapa.outcomes.value import OutcomeValue, missing_event

SLIDING = 0.005
"""m/s of slip: above it a body slides."""


@outcome("travel", "m", "how far from its start it is at the end, horizontally", at_time=True, first_look=True)
def travel(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Travel [m]: horizontal distance from the start to the place at the end of the clip."""
    return OutcomeValue(travel_until(motion, body, motion.end), motion.noise if motion.measured else 0.0)


def travel_until(motion: Motion, body: str, end: float) -> float:
    """Return horizontal distance from the start to the place at a time [m].

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    end : end of the run [s]
    """
    ends = motion.trajectory(body).position(np.array([motion.times[0], end]))
    up = up_of(motion)
    d = ends[1] - ends[0]
    return float(np.linalg.norm(d - (d @ up) * up))


@outcome("peak speed", "m/s", "its greatest speed", first_look=True)
def peak_speed(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Peak speed [m/s] of the centre."""
    path = motion.trajectory(body)
    speeds = np.maximum(np.linalg.norm(path.velocity_before, axis=1), np.linalg.norm(path.velocity_after, axis=1))
    return OutcomeValue(float(speeds.max()), (6.0 if motion.contact_intervals else 2.0) * speed_noise(motion))


def speed_noise(motion: Motion) -> float:
    """Return σ of a speed read off a track [m/s]: that of a line through six frames.

    Parameters
    ----------
    motion : simulated or measured motion
    """
    if not motion.measured:
        return 0.0
    rate = 1.0 / float(np.median(np.diff(motion.times)))
    return float(motion.noise * rate * np.sqrt(12.0 / 6**3))


def slip_velocity(motion: Motion, body: str, phase: ContactInterval, times: Array, velocity: Array | None = None) -> Array:
    """Return velocity of the body's contact point along its support [m/s], shape (T, 3).

    For a box, of its centre: it does not turn while it slides flat.

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    phase : interval of lasting contact
    times : (T,) times [s]
    velocity : (T, 3) of the centre [m/s], where it is known already
    """
    path = motion.trajectory(body)
    account = motion.body(body)
    v = path.velocity(times) if velocity is None else velocity
    if account.kind == "sphere" and (path.omega_after.any() or not motion.measured):
        v = v - account.bounding_radius * np.cross(path.angular_velocity(times), phase.normal)
    partner = phase.partner if phase.body == body else phase.body
    if partner in motion.trajectories:
        v = v - motion.trajectory(partner).velocity(times)
    return v - np.outer(v @ phase.normal, phase.normal)


def _distance(motion: Motion, body: str, phase: ContactInterval, slipping: bool) -> float:
    """Path length of the centre within a phase, while slip is above (or not above) 5 mm/s."""
    path = motion.trajectory(body)
    if path.rests_between(phase.start, phase.end):
        return 0.0
    knots = path.knots_between(phase.start + 1e-12, phase.end - 1e-12)
    t = rising((knots[:-1, None] + np.diff(knots)[:, None] * np.linspace(0, 1, 5)).ravel())
    if len(t) < 2:
        return 0.0
    x, v = path.position_and_velocity(t)
    slip = np.linalg.norm(slip_velocity(motion, body, phase, t, v), axis=1)
    steps = np.linalg.norm(np.diff(x, axis=0), axis=1)
    a, b = slip[:-1] - SLIDING, slip[1:] - SLIDING
    drop = np.where(a == b, 1.0, a - b)
    fraction = np.where((a > 0) == (b > 0), (a > 0).astype(float), np.where(a > 0, a / drop, -b / drop))
    return float(np.sum(steps * (fraction if slipping else 1.0 - fraction)))


@outcome("slide distance", "m", "path length in contact while slipping", first_look=True)
def slide_distance(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Slide distance [m]: path length in contact while the contact point slips faster than 5 mm/s."""
    return _in_contact(motion, body, True)


@outcome("roll distance", "m", "path length in contact without slipping", first_look=True)
def roll_distance(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Roll distance [m]: path length in contact while it does not slip."""
    return _in_contact(motion, body, False)


def _in_contact(motion: Motion, body: str, slipping: bool) -> OutcomeValue:
    phases = motion.contact_intervals_of(body)
    if not phases:
        return missing_event("it never stays on a support", 0.0, 0.0)
    total = 0.0
    for phase in phases:
        if motion.measured:
            if (phase.mode == SlipState.SLIP) == slipping:
                x = motion.trajectory(body).position(motion.trajectory(body).knots_between(phase.start, phase.end))
                total += float(np.linalg.norm(np.diff(x, axis=0), axis=1).sum())
        else:
            total += _distance(motion, body, phase, slipping)
    std = 0.0
    if motion.measured:
        speed = peak_speed(motion, body, OutcomeQuery()).value_or_surrogate
        std = 3 * speed / (1.0 / float(np.median(np.diff(motion.times)))) + motion.noise
    return OutcomeValue(total, std)
