"""How far and how fast: travel, slide and roll distance, peak speed."""

from __future__ import annotations

import numpy as np

from yapa.motion import Array, Motion, Phase, rising
from yapa.outcomes.bounces import up_of
from yapa.outcomes.value import OutcomeValue, absent

SLIDING = 0.005
"""m/s of slip: above it a body slides."""


def travel(motion: Motion, body: str, index: int | None = None) -> OutcomeValue:
    """Travel [m]: horizontal distance from the start to the place at the end of the clip."""
    return OutcomeValue(travel_until(motion, body, motion.end), motion.noise if motion.measured else 0.0)


def travel_until(motion: Motion, body: str, end: float) -> float:
    """Horizontal distance from the start to the place at a time [m]."""
    ends = motion.path(body).place(np.array([motion.times[0], end]))
    up = up_of(motion)
    d = ends[1] - ends[0]
    return float(np.linalg.norm(d - (d @ up) * up))


def peak_speed(motion: Motion, body: str, index: int | None = None) -> OutcomeValue:
    """Peak speed [m/s] of the centre."""
    path = motion.path(body)
    speeds = np.maximum(np.linalg.norm(path.arriving, axis=1), np.linalg.norm(path.leaving, axis=1))
    return OutcomeValue(float(speeds.max()), (6.0 if motion.phases else 2.0) * speed_noise(motion))


def speed_noise(motion: Motion) -> float:
    """σ of a speed read off a track [m/s]: that of a line through six frames."""
    if not motion.measured:
        return 0.0
    rate = 1.0 / float(np.median(np.diff(motion.times)))
    return float(motion.noise * rate * np.sqrt(12.0 / 6**3))


def slip_velocity(motion: Motion, body: str, phase: Phase, times: Array) -> Array:
    """Velocity of the body's contact point along its support [m/s], shape (T, 3).

    For a box, of its centre: it does not turn while it slides flat.
    """
    path = motion.path(body)
    account = motion.account(body)
    v = path.velocity(times)
    if account.kind == "sphere" and (path.spin_leaving.any() or not motion.measured):
        v = v - account.reach * np.cross(path.spin(times), phase.normal)
    partner = phase.partner if phase.body == body else phase.body
    if partner in motion.paths:
        v = v - motion.path(partner).velocity(times)
    return v - np.outer(v @ phase.normal, phase.normal)


def _distance(motion: Motion, body: str, phase: Phase, slipping: bool) -> float:
    """Path length of the centre within a phase, while slip is above (or not above) 5 mm/s."""
    path = motion.path(body)
    knots = path.between(phase.start + 1e-12, phase.end - 1e-12)
    t = rising((knots[:-1, None] + np.diff(knots)[:, None] * np.linspace(0, 1, 5)).ravel())
    if len(t) < 2:
        return 0.0
    slip = np.linalg.norm(slip_velocity(motion, body, phase, t), axis=1)
    x = path.place(t)
    steps = np.linalg.norm(np.diff(x, axis=0), axis=1)
    a, b = slip[:-1] - SLIDING, slip[1:] - SLIDING
    drop = np.where(a == b, 1.0, a - b)
    share = np.where((a > 0) == (b > 0), (a > 0).astype(float), np.where(a > 0, a / drop, -b / drop))
    return float(np.sum(steps * (share if slipping else 1.0 - share)))


def slide_distance(motion: Motion, body: str, index: int | None = None) -> OutcomeValue:
    """Slide distance [m]: path length in contact while the contact point slips faster than 5 mm/s."""
    return _in_contact(motion, body, True)


def roll_distance(motion: Motion, body: str, index: int | None = None) -> OutcomeValue:
    """Roll distance [m]: path length in contact while it does not slip."""
    return _in_contact(motion, body, False)


def _in_contact(motion: Motion, body: str, slipping: bool) -> OutcomeValue:
    phases = motion.phases_of(body)
    if not phases:
        return absent("it never stays on a support", 0.0, 0.0)
    total = 0.0
    for phase in phases:
        if motion.measured:
            if (phase.mode == "slides") == slipping:
                x = motion.path(body).place(motion.path(body).between(phase.start, phase.end))
                total += float(np.linalg.norm(np.diff(x, axis=0), axis=1).sum())
        else:
            total += _distance(motion, body, phase, slipping)
    std = 0.0
    if motion.measured:
        speed = peak_speed(motion, body).guide
        std = 3 * speed / (1.0 / float(np.median(np.diff(motion.times)))) + motion.noise
    return OutcomeValue(total, std)
