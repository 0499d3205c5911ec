"""A cylinder that rolls on something with corners rolls as the prism that stands for it there."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np

from yapa.case.model import Case
from yapa.case.rotations import rotation_matrix_of
from yapa.case.scene import Body
from yapa.case.shapes.box import Box
from yapa.case.shapes.plane import Plane
from yapa.case.shapes.polytope import RIM
from yapa.findings.base import Finding, Mend
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
            if all(shape.is_endless or shape.is_ball for shape in case.bodies[partner].shapes):
                continue
            turned = _rolled(case, motion, name, partner, normal)
            if turned > 2 * SIDE:
                plane = _as_plane(case.bodies[partner], normal)
                yield Finding(
                    "rolls on corners",
                    name,
                    f"it turns by {np.degrees(turned):.0f}° on {partner} as a prism of {RIM} sides",
                    "on anything but planes and balls a cylinder is a prism: it bumps from side to side, every "
                    f"{np.degrees(SIDE):.0f}°, and loses speed that a round one keeps",
                    mend=None if plane is None else Mend(f"make a plane of the face of {partner} that it lies on",
                                                         _with(partner, plane)))


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


def _as_plane(body: Body, normal: Array) -> Plane | None:
    """The plane through that face of a standing box which looks along a normal of the world; None for anything else."""
    box = body.shapes[0]
    if body.motion != "static" or len(body.shapes) > 1 or not isinstance(box, Box):
        return None
    turn = rotation_matrix_of(box.orientation)
    along = (rotation_matrix_of(body.orientation) @ turn).T @ normal
    axis = int(np.argmax(np.abs(along)))
    out = turn[:, axis] * np.sign(along[axis])
    place = np.array(box.position) + 0.5 * box.size[axis] * out
    same = {key: getattr(box, key) for key in ("surface", "contact_margin", "surface_velocity")}
    return Plane(kind="plane", normal=tuple(out.tolist()), position=tuple(place.tolist()), **same)


def _with(name: str, plane: Plane) -> Callable[[Case], Case]:
    def apply(case: Case) -> Case:
        body = case.bodies[name].model_copy(update={"shapes": (plane,)})
        return case.model_copy(update={"bodies": {**case.bodies, name: body}})

    return apply
