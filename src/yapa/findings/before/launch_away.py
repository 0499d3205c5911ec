"""A launch that points away from what it should reach."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.case.scene import Body
from yapa.findings.base import Finding, Mend, set_body
from yapa.findings.registry import case_check
from yapa.motion.info import Severity

SLOW = 0.1
"""m/s: a launch below it points nowhere"""
REACHING = ("hit", "miss", "contact time", "impact speed", "passage time", "passage speed", "lead")
"""outcomes that are about reaching a body or a point"""


@case_check
def check(case: Case) -> Iterator[Finding]:
    """Targets of reaching a body or a point, level with the launch of the body."""
    movers = case.dynamic_bodies()
    for target in case.targets:
        body = case.bodies.get(target.body or (movers[0] if len(movers) == 1 else ""))
        if body is None or body.motion != "dynamic" or not isinstance(body.velocity, tuple) or not _reaches(target):
            continue
        way = _way(case, target, body)
        v = np.array(body.velocity[:2])
        if way is None or np.linalg.norm(v) < SLOW or np.linalg.norm(way) < 1e-9:
            continue
        if float(v @ way) < -0.5 * float(np.linalg.norm(v) * np.linalg.norm(way)):
            name = target.body or movers[0]
            turned = (-body.velocity[0], -body.velocity[1], body.velocity[2])
            start = f"it starts at ({v[0]:.3g}, {v[1]:.3g}) m/s along x and y"
            yield Finding("launch away from its target", f"{name}, {target.label}", "it is launched away from what it should reach",
                          f"{start}; what it should reach lies ({way[0]:.3g}, {way[1]:.3g}) m away", Severity.NOTE,
                          mend=Mend("launch it the other way", set_body(name, velocity=turned)))


def _reaches(target: Target) -> bool:
    if target.outcome == "miss" and target.condition == "at least":
        return False
    return target.outcome in REACHING and target.condition != "never"


def _way(case: Case, target: Target, body: Body) -> np.ndarray | None:
    """The level way from a body to what its target is about [m]; None to an endless plane."""
    if target.point is not None:
        goal = target.point
    elif target.partner in case.bodies and all(shape.kind != "plane" for shape in case.bodies[target.partner].shapes):
        other = case.bodies[target.partner]
        goal = other.keyframes[0].position if other.keyframes else other.position
    else:
        return None
    return np.asarray(np.array(goal[:2]) - np.array(body.position[:2]))
