"""A target of meeting a body whose collisions with the mover are excluded: they pass through each other."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.findings.base import Finding, Mend
from yapa.findings.registry import case_check

MEETINGS = ("hit", "contact time", "impact speed", "rebound speed", "contacts", "contact order", "lead", "landing")
"""outcomes that are about a contact with a named partner"""


@case_check
def check(case: Case) -> Iterator[Finding]:
    """The groups of body and partner are excluded from each other."""
    movers = case.dynamic_bodies()
    for target in case.targets:
        name = target.body or (movers[0] if len(movers) == 1 else "")
        if name not in case.bodies or target.partner not in case.bodies or not _wants_contact(target):
            continue
        groups = frozenset((case.bodies[name].group, case.bodies[target.partner].group))
        if groups in {frozenset(pair) for pair in case.collision_exclusions}:
            yield Finding("passes through", f"{name}, {target.partner}",
                          f"it passes through {target.partner}, which it should meet",
                          f"collisions between {' and '.join(sorted(groups))} are excluded",
                          mend=Mend("let them collide", _without(groups)))


def _wants_contact(target: Target) -> bool:
    return target.outcome in MEETINGS and target.condition != "never"


def _without(groups: frozenset[str]) -> Callable[[Case], Case]:
    return lambda case: case.model_copy(
        update={"collision_exclusions": tuple(pair for pair in case.collision_exclusions if frozenset(pair) != groups)})
