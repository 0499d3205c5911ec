"""A cylinder that rolls on another cylinder rolls as the prism that stands for it there; everywhere else it is round."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from yapa.case.model import Case
from yapa.case.rotations import rotation_matrix_of
from yapa.case.shapes.polytope import RIM
from yapa.findings.base import Finding
from yapa.findings.registry import motion_check
from yapa.motion import Array, Motion
from yapa.motion.energy import rotate_to_body

SIDE = 2 * np.pi / RIM
"""rad: from one side of the prism to the next"""
LYING = np.sin(np.radians(30.0))
"""Cosine, of a cylinder's axis with the normal, under which it lies on its side; one that stands may spin on its flat end"""


@motion_check
def check(case: Case, motion: Motion) -> Iterator[Finding]:
    """It turned over more than one corner of the prism while it lay there: the speed that cost it, a round one keeps."""
    for name, body in case.bodies.items():
        if not body.shapes[0].has_flat_ends:
            continue
        for partner, normal in _supports_of(motion, name).items():
            if not any(shape.has_flat_ends for shape in case.bodies[partner].shapes):
                continue
            turned = _rolled(case, motion, name, partner, normal)
            if turned > 2 * SIDE:
                yield Finding(
                    "rolls on corners",
                    name,
                    f"it turns by {np.degrees(turned):.0f}° on {partner} as a prism of {RIM} sides",
                    "on another cylinder a cylinder is a prism: it bumps from side to side, every "
                    f"{np.degrees(SIDE):.0f}°, and loses speed that a round one keeps; a capsule on a capsule is round")


def _supports_of(motion: Motion, name: str) -> dict[str, Array]:
    """What a body stayed on, and the normal there, from that to the body."""
    out: dict[str, Array] = {}
    for interval in motion.contact_intervals_of(name):
        first = interval.body == name
        out.setdefault(interval.partner if first else interval.body, interval.normal if first else -interval.normal)
    return out


def _rolled(case: Case, motion: Motion, name: str, partner: str, normal: Array) -> float:
    """How far a cylinder turned about its own axis against what it lay on, on its side, from the first touch to the last [rad]."""
    spans = [(i.start, i.end) for i in motion.contact_intervals_of(name) if partner in (i.body, i.partner)]
    begin, end = min(start for start, _ in spans), max(stop for _, stop in spans)
    inside = (motion.times >= begin) & (motion.times <= end)
    own, other = (motion.states[inside, motion.names.index(n)] for n in (name, partner))
    axis = rotation_matrix_of(case.bodies[name].shapes[0].orientation)[:, 2]
    rate = np.abs(rotate_to_body(own[:, 3:7], own[:, 10:13] - other[:, 10:13]) @ axis)
    lies = np.abs(rotate_to_body(own[:, 3:7], np.broadcast_to(normal, (len(own), 3))) @ axis) < LYING
    return float(np.trapezoid(rate * lies, motion.times[inside]))
