"""A body that left the scene."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from yapa.case.model import Case
from yapa.findings.base import Finding
from yapa.findings.registry import motion_check
from yapa.motion import Motion


@motion_check
def check(case: Case, motion: Motion) -> Iterator[Finding]:
    """It ends far below everything else, still falling: it found no support."""
    others = [b.position[2] - min(b.bounding_radius, 10.0) for b in motion.bodies if not b.is_movable]
    if not others:
        return
    ground = min(others)
    for name in motion.dynamic_bodies():
        path = motion.trajectory(name)
        end = path.position(np.array([motion.end]))[0]
        v = float(path.velocity(np.array([motion.end]))[0][2])
        if end[2] < ground - 1.0 and v < -1.0:
            crossed = path.t[np.argmax(path.x[:, 2] < ground)]
            yield Finding(
                "left the scene",
                name,
                "it fell out of the scene",
                f"{_cause(case, motion, name)}; it passed below everything at {crossed:.3g} s "
                f"and is {ground - end[2]:.3g} m below it at the end",
            )


def _cause(case: Case, motion: Motion, name: str) -> str:
    """What it touched last, or what it may not meet, or that there was nothing in its way."""
    touched = [(c.time, c.partner if c.body == name else c.body) for c in motion.contacts_of(name)]
    touched += [(i.end, i.partner if i.body == name else i.body) for i in motion.contact_intervals_of(name)]
    if touched:
        time, last = max(touched)
        return f"it last touched {last} at {time:.3g} s and met nothing after that"
    mine = case.bodies[name].group if name in case.bodies else ""
    apart = {frozenset(both) for both in case.collision_exclusions}
    kept = [other for other, body in case.bodies.items() if other != name and frozenset((mine, body.group)) in apart]
    if kept:
        return f"it touched nothing: its collisions with {', '.join(kept)} are excluded"
    return "it touched nothing on its way"
