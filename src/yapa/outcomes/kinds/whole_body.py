"""Whole bodies: how deep every point of a body is in a zone, how far it stands from the edge of its support, which side is up.

With h the support function of a shape (see :mod:`yapa.outcomes.kinds.overlap`), a body is inside a face with outward normal n and
offset d by d − max over its shapes of (c·n + h(n)); the depth is the least over the faces, six of a zone, five of a camera's view.
"""

from __future__ import annotations

from math import acos

import numpy as np

from yapa.motion import Array, Motion, ShapeInfo
from yapa.outcomes.kinds.overlap import posed, reach
from yapa.outcomes.query import OutcomeQuery
from yapa.outcomes.registry import outcome
from yapa.outcomes.value import OutcomeValue, missing_event


def _depths(motion: Motion, body: str, query: OutcomeQuery) -> Array | None:
    """How deep every sample of a body is behind each face of the zone or the view, (T, faces) [m]; None where it is not there."""
    faces = _faces(motion, query)
    if faces is None or any(shape.kind == "plane" for shape in motion.body(body).shapes):
        return None
    points, normals = faces
    count = len(motion.outcome_samples[0])
    out = np.full((count, len(normals)), np.inf)
    for shape in motion.body(body).shapes:
        centre, _ = posed(motion, body, shape)
        for k, (point, normal) in enumerate(zip(points, normals, strict=True)):
            inward = np.tile(normal, (count, 1))
            out[:, k] = np.minimum(out[:, k], (centre - point) @ normal - reach(motion, body, shape, inward))
    return out


def _faces(motion: Motion, query: OutcomeQuery) -> tuple[Array, Array] | None:
    """A point and the inward normal of every face, (faces, 3) each."""
    name = query.argument("camera")
    if name is not None:
        view = motion.cameras.get(str(name))
        return None if view is None else (np.tile(view.position, (len(view.normals), 1)), np.array(view.normals))
    low, high = (np.array(corner) for corner in query.region or ((0.0,) * 3, (0.0,) * 3))
    return np.array([low] * 3 + [high] * 3), np.vstack([np.eye(3), -np.eye(3)])


@outcome("wholly inside", "m", "how deep its outermost point is inside a zone, or a camera's picture, at the end",
         one_of=("region", "camera"), at_time=True)
def wholly_inside(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Least depth of any point of it at the end [m]; below zero some of it sticks out."""
    return _known(motion, _depths(motion, body, query), slice(-1, None))


@outcome("stays wholly inside", "m", "the least depth of its outermost point in a zone, or a camera's picture, ever",
         one_of=("region", "camera"), whole_motion=True)
def stays_wholly_inside(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Least depth of any point of it at any sample [m]."""
    return _known(motion, _depths(motion, body, query), slice(None))


def _known(motion: Motion, depths: Array | None, rows: slice) -> OutcomeValue:
    if depths is None:
        return missing_event("a plane has no end, and a motion without its case knows no cameras", -1.0, 0.0)
    return OutcomeValue(float(depths[rows].min()), 2 * motion.noise)


@outcome("support overlap", "m", "how far inside the outline of a body it is, seen from above",
         required=("partner",), optional=("time",), at_time=True)
def support_overlap(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Horizontal distance from its centre to the edge of another body [m], at a time or at the end."""
    partner = str(query.partner)
    if partner not in motion.names:
        return missing_event(f"there is no {partner} here", 0.0, 0.0)
    times = motion.outcome_samples[0]
    row = len(times) - 1 if query.time is None else int(np.clip(np.searchsorted(times, query.time), 0, len(times) - 1))
    place = motion.outcome_samples[1][row, motion.names.index(body), :3]
    found = [_inside_outline(motion, partner, shape, place, row) for shape in motion.body(partner).shapes]
    return OutcomeValue(max(found), motion.noise)


def _inside_outline(motion: Motion, partner: str, shape: ShapeInfo, place: Array, row: int) -> float:
    """How far a place is inside a shape as seen from above: the least distance over directions of the horizon."""
    if shape.kind == "plane":
        return 1e3
    centre, _ = posed(motion, partner, shape)
    away = (place - centre[row])[:2]
    angle = np.linspace(0, 2 * np.pi, 721)[:-1]
    n = np.column_stack([np.cos(angle), np.sin(angle), np.zeros(len(angle))])
    return float((reach(motion, partner, shape, -n, row) - n[:, :2] @ away).min())


@outcome("side angle", "rad", "angle between a side of it and straight up, at a time or at the end", required=("side",),
         optional=("time",),
         at_time=True)
def side_angle(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Angle [rad] between the outward normal of a side, by its own axes, and up; below 45° that side is up."""
    from yapa.outcomes.kinds.pose import rotated_by

    if motion.measured:
        return missing_event("a track does not tell how it stands", 0.0, 0.0)
    side = str(query.argument("side"))
    axis = np.zeros(3)
    axis["xyz".index(side[1])] = 1.0 if side[0] == "+" else -1.0
    times, states = motion.outcome_samples
    row = len(times) - 1 if query.time is None else int(np.clip(np.searchsorted(times, query.time), 0, len(times) - 1))
    up = rotated_by(states[row, motion.names.index(body), 3:7], axis)
    return OutcomeValue(acos(min(1.0, max(-1.0, float(up[2])))), 0.0)


@outcome("height swing", "", "half the range of its height at last, over its mean there",
         required=("span",),
         whole_motion=True)
def height_swing(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Half the range of the height over its mean: 0.05 is steady within ±5%."""
    from yapa.outcomes.kinds.time_until import history

    span = float(query.argument("span"))
    t, z = history(motion, body, "height")
    if span > motion.end - float(motion.times[0]) or z is None:
        return missing_event(f"the clip is shorter than {span:g} s", 1.0, span)
    last = z[t >= motion.end - span]
    mean = float(last.mean())
    return OutcomeValue(0.5 * float(np.ptp(last)) / max(abs(mean), 1e-9), motion.noise / max(abs(mean), 1e-9))


@outcome("velocity jump", "m/s", "how much its velocity changes at contact k", required=("index",), optional=("partner",))
def velocity_jump(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Size of the change of velocity of its centre at contact k [m/s]."""
    from yapa.outcomes.kinds.contact import felt_contacts

    every = felt_contacts(motion, body, query.partner)
    if len(every) < query.k:
        return missing_event(f"there is no contact {query.k}; there are {len(every)}", 0.0, float(query.k - len(every)))
    if motion.measured:
        return OutcomeValue(None, None, "not resolved by the track")
    contact, path = every[query.k - 1], motion.trajectory(body)
    row = int(np.argmin(np.abs(path.t - contact.time)))
    return OutcomeValue(float(np.linalg.norm(path.velocity_after[row] - path.velocity_before[row])), 0.0)
