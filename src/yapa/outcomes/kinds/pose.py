"""Where it is, how fast, and how it stands: at a time, or at the end of the motion."""

from __future__ import annotations

from math import acos, hypot, pi

import numpy as np

from yapa.motion import Array, Motion
from yapa.outcomes.kinds.travel import speed_noise
from yapa.outcomes.query import OutcomeQuery
from yapa.outcomes.registry import outcome
from yapa.outcomes.value import OutcomeValue, missing_event


def _time(motion: Motion, query: OutcomeQuery) -> float:
    return motion.end if query.time is None else query.time


def _late(motion: Motion, query: OutcomeQuery) -> OutcomeValue | None:
    if query.time is not None and query.time > motion.end + 1e-9:
        return missing_event(f"the clip ends at {motion.end:.4g} s, before {query.time:.4g} s", 0.0, query.time - motion.end)
    return None


def _coordinate(axis: int, motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    place = motion.trajectory(body).position(np.array([_time(motion, query)]))[0]
    late = _late(motion, query)
    if late is not None:
        return OutcomeValue(None, None, late.missing, float(place[axis]), late.shortfall)
    return OutcomeValue(float(place[axis]), motion.noise)


@outcome("x", "m", "where it is along x, at a time or at the end", optional=("time",), at_time=True)
def x(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Place along x [m]."""
    return _coordinate(0, motion, body, query)


@outcome("y", "m", "where it is along y, at a time or at the end", optional=("time",), at_time=True)
def y(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Place along y [m]."""
    return _coordinate(1, motion, body, query)


@outcome("z", "m", "how high it is, at a time or at the end", optional=("time",), at_time=True)
def z(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Height [m]."""
    return _coordinate(2, motion, body, query)


@outcome("speed", "m/s", "its speed at a time or at the end", optional=("time",), at_time=True)
def speed(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Speed of the centre [m/s]."""
    v = float(np.linalg.norm(motion.trajectory(body).velocity(np.array([_time(motion, query)]))[0]))
    on_support = any(p.start <= _time(motion, query) <= p.end for p in motion.contact_intervals_of(body))
    return _late(motion, query) or OutcomeValue(v, speed_noise(motion) * (6.0 if on_support else 1.0))


@outcome("spin", "rad/s", "how fast it turns at a time or at the end", optional=("time",), at_time=True)
def spin(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Angular speed [rad/s]."""
    path = motion.trajectory(body)
    if motion.measured and not path.omega_after.any():
        return missing_event("the track has no angle", 0.0, 0.0)
    w = float(np.linalg.norm(path.angular_velocity(np.array([_time(motion, query)]))[0]))
    return _late(motion, query) or OutcomeValue(w, spin_noise(motion, body))


@outcome("peak spin", "rad/s", "its fastest turning")
def peak_spin(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Fastest turning [rad/s]."""
    path = motion.trajectory(body)
    if motion.measured and not path.omega_after.any():
        return missing_event("the track has no angle", 0.0, 0.0)
    every = np.concatenate([path.omega_before, path.omega_after])
    return OutcomeValue(float(np.linalg.norm(every, axis=1).max()), 10 * spin_noise(motion, body))


def spin_noise(motion: Motion, body: str) -> float:
    """Return σ of an angular speed read off a track [rad/s]: that of a line through 7 frames, by what is left of the angle.

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    """
    if not motion.measured:
        return 0.0
    rate = 1.0 / float(np.median(np.diff(motion.times)))
    return float(motion.noise_angle * rate * np.sqrt(12.0 / 7**3))


@outcome("turn", "rad", "how far it has turned about y, at a time or at the end", optional=("time",), at_time=True)
def turn(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """How far it has turned about y since the start [rad]."""
    path = motion.trajectory(body)
    if motion.measured and not path.angle.any():
        return missing_event("the track has no angle", 0.0, 0.0)
    return _late(motion, query) or OutcomeValue(float(path.rotation(np.array([_time(motion, query)]))[0, 1]),
                                           hypot(motion.noise_angle, motion.noise_angle) if motion.measured else 0.0)


def _upright(motion: Motion, body: str, t: float) -> Array:
    """The body's axis that stood upright at the start, at a time; from the sampled orientations."""
    i = motion.names.index(body)
    times, states = motion.outcome_samples
    q = states[:, i, 3:7]
    k = int(np.clip(np.searchsorted(times, t), 0, len(q) - 1))
    first = q[0] * [1, -1, -1, -1]
    up = rotated_by(first, np.array([0.0, 0.0, 1.0]))
    return rotated_by(q[k], up)


def rotated_by(q: Array, v: Array) -> Array:
    """Return a vector turned by a quaternion (w, x, y, z).

    Parameters
    ----------
    q : (4,) unit quaternion
    v : (3,) vector
    """
    t = 2 * np.cross(q[1:], v)
    return np.asarray(v + q[0] * t + np.cross(q[1:], t))


@outcome("tilt", "rad", "angle of its own upright axis from that at the start, at a time or at the end",
         optional=("time",), at_time=True)
def tilt(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Angle between the axis that stood upright at the start, and upright [rad]."""
    if motion.measured:
        rotation = turn(motion, body, query)
        if rotation.value is None:
            return rotation
        return OutcomeValue(abs((rotation.value + pi) % (2 * pi) - pi), rotation.std)
    up = _upright(motion, body, _time(motion, query))
    return _late(motion, query) or OutcomeValue(acos(min(1.0, max(-1.0, float(up[2])))), 0.0)


@outcome("topple", "rad", "tilt at the end beyond 45 degrees", at_time=True)
def topple(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Tilt at the end beyond 45° [rad]; a body that stands falls short by what is missing."""
    read = tilt(motion, body, OutcomeQuery())
    if read.value is None:
        return read
    if read.value > pi / 4:
        return OutcomeValue(read.value - pi / 4, read.std)
    return missing_event(f"it stands, tilted by {np.degrees(read.value):.3g}°", read.value - pi / 4, pi / 4 - read.value)


@outcome("peak height", "m", "the greatest height of its centre")
def peak_height(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Greatest height of the centre [m]."""
    top, _ = motion.trajectory(body).maximum_along(np.array([0.0, 0.0, 1.0]), float(motion.times[0]), motion.end)
    return OutcomeValue(top, motion.noise)
