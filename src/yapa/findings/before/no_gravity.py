"""No gravity at all: deliberate in space, a slip elsewhere."""

from __future__ import annotations

from collections.abc import Iterator

from yapa.case.model import Case
from yapa.findings.base import Finding, Mend, movers, set_number
from yapa.findings.registry import case_check
from yapa.motion.info import Severity


@case_check
def check(case: Case) -> Iterator[Finding]:
    """Noted, not nagged about."""
    if case.fields.gravity == 0 and movers(case):
        yield Finding(
            "no gravity",
            "gravity",
            "nothing falls",
            "gravity is 0 m/s²",
            Severity.NOTE,
            Mend("set gravity to 9.80665 m/s²", set_number("gravity", 9.80665)),
        )
