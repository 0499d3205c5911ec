"""Bodies that overlap at the start, or start a hair above their support."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations

from yapa.case.model import Case
from yapa.engine.simulate import simulate
from yapa.findings.base import Finding, Mend, movers, pull_on, set_number, speed_of

LEAST_OVERLAP, HAIR = 1e-6, 2e-3


def check(case: Case) -> Iterator[Finding]:
    """Overlap is parted before the run (which moves things); a hair of air makes a first small bounce."""
    from yapa.findings.gaps import gap_between

    for a, b in combinations(case.bodies, 2):
        if not {a, b} & set(movers(case)):
            continue
        gap = gap_between(case, a, b)
        if gap is None:
            continue
        top = a if a in movers(case) else b
        other = b if top == a else a
        body = case.bodies[top]
        if gap < -LEAST_OVERLAP:
            yield Finding(
                "overlap at start",
                top,
                f"it jumps away from {other} at the start"
                if case.profile.kind == "stepped"
                else f"it starts elsewhere than it is placed, parted from {other}",
                f"they overlap by {-gap:.3g} m",
                mend=_lift(case, top, -gap),
            )
        elif LEAST_OVERLAP < gap < HAIR and speed_of(body) < 0.05 and pull_on(case, body) > 0 and _rests_below(case, top, other):
            yield Finding(
                "hair above support",
                top,
                f"it drops onto {other} before it does anything else",
                f"it starts {gap:.3g} m above it",
                "note",
                _lift(case, top, -gap),
            )


def _lift(case: Case, name: str, by: float) -> Mend | None:
    if any(name == body.under for body in case.bodies.values()):
        return None
    z = case.bodies[name].position[2]
    verb = "raise" if by > 0 else "lower"
    return Mend(f"{verb} {name} by {abs(by):.3g} m", set_number(f"bodies.{name}.position.z", z + by))


def _rests_below(case: Case, top: str, other: str) -> bool:
    """Whether the body would come down on the other soon."""
    still = case.model_copy(update={"duration": 0.2})
    return any(other in (c.body, c.partner) for c in simulate(still).contacts_of(top))
