"""Where it is, how fast, and how it stands: at a time, or at the end of the motion."""

from __future__ import annotations

from math import acos, hypot, pi

import numpy as np

from yapa.motion import Array, Motion
from yapa.outcomes.asked import Asked
from yapa.outcomes.travel import speed_noise
from yapa.outcomes.value import OutcomeValue, absent


def _time(motion: Motion, asked: Asked) -> float:
    return motion.end if asked.at is None else asked.at


def _late(motion: Motion, asked: Asked) -> OutcomeValue | None:
    if asked.at is not None and asked.at > motion.end + 1e-9:
        return absent(f"the clip ends at {motion.end:.4g} s, before {asked.at:.4g} s", 0.0, asked.at - motion.end)
    return None


def _coordinate(axis: int, motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    place = motion.path(body).place(np.array([_time(motion, asked)]))[0]
    late = _late(motion, asked)
    if late is not None:
        return OutcomeValue(None, None, late.missing, float(place[axis]), late.shortfall)
    return OutcomeValue(float(place[axis]), motion.noise)


def x(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Place along x [m]."""
    return _coordinate(0, motion, body, asked)


def y(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Place along y [m]."""
    return _coordinate(1, motion, body, asked)


def z(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Height [m]."""
    return _coordinate(2, motion, body, asked)


def speed(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Speed of the centre [m/s]."""
    v = float(np.linalg.norm(motion.path(body).velocity(np.array([_time(motion, asked)]))[0]))
    on_support = any(p.start <= _time(motion, asked) <= p.end for p in motion.phases_of(body))
    return _late(motion, asked) or OutcomeValue(v, speed_noise(motion) * (6.0 if on_support else 1.0))


def spin(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Angular speed [rad/s]."""
    path = motion.path(body)
    if motion.measured and not path.spin_leaving.any():
        return absent("the track has no angle", 0.0, 0.0)
    w = float(np.linalg.norm(path.spin(np.array([_time(motion, asked)]))[0]))
    return _late(motion, asked) or OutcomeValue(w, spin_noise(motion, body))


def peak_spin(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Fastest turning [rad/s]."""
    path = motion.path(body)
    if motion.measured and not path.spin_leaving.any():
        return absent("the track has no angle", 0.0, 0.0)
    every = np.concatenate([path.spin_arriving, path.spin_leaving])
    return OutcomeValue(float(np.linalg.norm(every, axis=1).max()), 10 * spin_noise(motion, body))


def spin_noise(motion: Motion, body: str) -> float:
    """σ of an angular speed read off a track [rad/s]: that of a line through 7 frames, by what is left of the angle."""
    if not motion.measured:
        return 0.0
    rate = 1.0 / float(np.median(np.diff(motion.times)))
    return float(motion.noise_angle * rate * np.sqrt(12.0 / 7**3))


def turn(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """How far it has turned about y since the start [rad]."""
    path = motion.path(body)
    if motion.measured and not path.turn.any():
        return absent("the track has no angle", 0.0, 0.0)
    return _late(motion, asked) or OutcomeValue(float(path.turned(np.array([_time(motion, asked)]))[0, 1]),
                                           hypot(motion.noise_angle, motion.noise_angle) if motion.measured else 0.0)


def _upright(motion: Motion, body: str, t: float) -> Array:
    """The body's axis that stood upright at the start, at a time; from the sampled orientations."""
    i = motion.names.index(body)
    times, states = motion.read
    q = states[:, i, 3:7]
    k = int(np.clip(np.searchsorted(times, t), 0, len(q) - 1))
    first = q[0] * [1, -1, -1, -1]
    up = _rotate(first, np.array([0.0, 0.0, 1.0]))
    return _rotate(q[k], up)


def _rotate(q: Array, v: Array) -> Array:
    t = 2 * np.cross(q[1:], v)
    return np.asarray(v + q[0] * t + np.cross(q[1:], t))


def tilt(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Angle between the axis that stood upright at the start, and upright [rad]."""
    if motion.measured:
        told = turn(motion, body, asked)
        if told.value is None:
            return told
        return OutcomeValue(abs((told.value + pi) % (2 * pi) - pi), told.std)
    up = _upright(motion, body, _time(motion, asked))
    return _late(motion, asked) or OutcomeValue(acos(min(1.0, max(-1.0, float(up[2])))), 0.0)


def topple(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Tilt at the end beyond 45° [rad]; a body that stands falls short by what is missing."""
    read = tilt(motion, body, Asked())
    if read.value is None:
        return read
    if read.value > pi / 4:
        return OutcomeValue(read.value - pi / 4, read.std)
    return absent(f"it stands, tilted by {np.degrees(read.value):.3g}°", read.value - pi / 4, pi / 4 - read.value)


def peak_height(motion: Motion, body: str, asked: Asked) -> OutcomeValue:
    """Greatest height of the centre [m]."""
    top, _ = motion.path(body).highest(np.array([0.0, 0.0, 1.0]), float(motion.times[0]), motion.end)
    return OutcomeValue(top, motion.noise)


def side_up(motion: Motion, body: str) -> str:
    """Which of its own sides is up at the end: +x, -x, +y, -y, +z or -z."""
    i = motion.names.index(body)
    q = motion.states[-1, i, 3:7] * [1, -1, -1, -1]
    up = _rotate(q, np.array([0.0, 0.0, 1.0]))
    k = int(np.argmax(np.abs(up)))
    return ("+" if up[k] > 0 else "-") + "xyz"[k]
