"""Bodies that overlap at the start, or start a hair above their support."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property

from yapa.case.model import Case
from yapa.engine.simulate import simulate
from yapa.findings.base import Finding, Mend, movers, pull_on, set_number, speed_of
from yapa.findings.gaps import gaps_at_start
from yapa.findings.registry import case_check
from yapa.motion.info import Severity

MIN_OVERLAP = 1e-6
"""m: less is rounding"""
HAIR = 2e-3
"""m: what starts nearer than this to a support was meant to stand on it"""


@case_check
def check(case: Case) -> Iterator[Finding]:
    """Overlap is parted before the run (which moves things); a hair of air makes a first small bounce."""
    moving, soon = movers(case), _MeetingSoon(case)
    for (a, b), gap in gaps_at_start(case).items():
        if a not in moving and b not in moving:
            continue
        top = a if a in moving else b
        other = b if top == a else a
        body = case.bodies[top]
        if gap < -MIN_OVERLAP:
            yield Finding(
                "overlap at start",
                top,
                f"it jumps away from {other} at the start"
                if case.profile.kind == "stepped"
                else f"it starts elsewhere than it is placed, parted from {other}",
                f"they overlap by {-gap:.3g} m",
                mend=_lift(case, top, -gap),
            )
        elif MIN_OVERLAP < gap < HAIR and speed_of(body) < 0.05 and pull_on(case, body) > 0 and soon.has(top, other):
            yield Finding(
                "hair above support",
                top,
                f"it drops onto {other} before it does anything else",
                f"it starts {gap:.3g} m above it",
                Severity.NOTE,
                _lift(case, top, -gap),
            )


def _lift(case: Case, name: str, by: float) -> Mend | None:
    if any(name == body.placed_under for body in case.bodies.values()):
        return None
    z = case.bodies[name].position[2]
    verb = "raise" if by > 0 else "lower"
    return Mend(f"{verb} {name} by {abs(by):.3g} m", set_number(f"bodies.{name}.position.z", z + by))


class _MeetingSoon:
    """Which bodies meet in the first moments; run once, when it is first asked."""

    def __init__(self, case: Case) -> None:
        self._case = case.model_copy(update={"duration": 0.2})

    @cached_property
    def _pairs(self) -> set[frozenset[str]]:
        return {frozenset((c.body, c.partner)) for c in simulate(self._case).contacts}

    def has(self, one: str, two: str) -> bool:
        return frozenset((one, two)) in self._pairs
