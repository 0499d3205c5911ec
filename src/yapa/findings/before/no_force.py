"""A body at which nothing pulls and that is not launched."""

from __future__ import annotations

from collections.abc import Iterator

from yapa.case.model import Case
from yapa.case.scene import NaturalRoll
from yapa.findings.base import Finding, Mend, movers, pull_on, set_number, speed_of
from yapa.findings.registry import case_check
from yapa.motion.info import Severity


@case_check
def check(case: Case) -> Iterator[Finding]:
    """No gravity, no launch, no spin, no wind that drags: it stays where it is until something hits it."""
    driven = any(len(b.keyframes) > 1 for b in case.bodies.values())
    flying = any(speed_of(b) > 0 for b in movers(case).values())
    for name, body in movers(case).items():
        spins = isinstance(body.angular_velocity, NaturalRoll) or any(body.angular_velocity)
        blown = any(case.fields.air.wind) and body.drag_coefficient > 0
        if pull_on(case, body) == 0 and speed_of(body) == 0 and not spins and not blown:
            hit = driven or flying
            mend = Mend("set gravity to 9.80665 m/s²", set_number("gravity", 9.80665)) if case.fields.gravity == 0 else None
            yield Finding(
                "no force acts",
                name,
                "it will not start by itself",
                "gravity on it is 0 m/s² and its launch is 0 m/s",
                Severity.NOTE if hit else Severity.TROUBLE,
                mend,
            )
