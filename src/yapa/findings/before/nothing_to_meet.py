"""A body that falls with nothing under or beside it."""

from __future__ import annotations

from collections.abc import Iterator

from yapa.case.model import Case
from yapa.findings.base import Finding, movers
from yapa.findings.registry import case_check
from yapa.motion.info import Severity


@case_check
def check(case: Case) -> Iterator[Finding]:
    """Every other body is set apart from it by its collision group, or there is no other body."""
    apart = {frozenset(pair) for pair in case.collision_exclusions}
    for name, body in movers(case).items():
        others = [other for key, other in case.bodies.items() if key != name]
        meets = [o for o in others if frozenset((o.group, body.group)) not in apart]
        if not meets:
            why = "it is the only body" if not others else f"its group {body.group} passes through every other"
            yield Finding("nothing to meet", name, "it will touch nothing", why, Severity.NOTE)
