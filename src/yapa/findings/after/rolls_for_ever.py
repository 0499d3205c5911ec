"""It rolls to the end of the clip."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from yapa.case.model import Case
from yapa.engine.simulate import program_for
from yapa.findings.base import Finding, Mend, set_surface
from yapa.findings.registry import motion_check
from yapa.motion import Motion
from yapa.motion.contacts import SlipState
from yapa.motion.info import Severity


@motion_check
def check(case: Case, motion: Motion) -> Iterator[Finding]:
    """A round body on its support, not slipping and not slowing: rolling resistance is the missing number."""
    for body in motion.dynamic_bodies():
        held = [p for p in motion.contact_intervals_of(body) if p.end >= motion.end - 1e-9 and p.mode == SlipState.STICK]
        if not held or motion.body(body).kind not in ("sphere", "cylinder", "capsule") or abs(held[-1].normal[2]) < 0.9999:
            continue
        path = motion.trajectory(body)
        late = np.array([max(held[-1].start, motion.end - 0.2 * motion.end), motion.end])
        v = np.linalg.norm(path.velocity(late), axis=1)
        partner = held[-1].partner if held[-1].body == body else held[-1].body
        surface = case.bodies[body].shapes[0].surface
        law = program_for(case).law_between(surface, case.bodies[partner].shapes[0].surface)
        if v[1] > 0.01 and v[1] > 0.99 * v[0] and law["rolling_resistance"] == 0:
            yield Finding(
                "rolls for ever",
                body,
                f"it still rolls at {v[1]:.3g} m/s when the clip ends",
                f"friction does not slow rolling, and rolling resistance on {partner} is 0",
                Severity.TROUBLE if any(t.outcome == "rest time" for t in case.targets) else Severity.NOTE,
                Mend("give its surface rolling resistance 0.01", set_surface(surface, rolling_resistance=0.01)),
            )
