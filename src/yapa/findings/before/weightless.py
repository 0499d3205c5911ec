"""A gravity multiplier of zero or below."""

from __future__ import annotations

from collections.abc import Iterator

from yapa.case.model import Case
from yapa.findings.base import Finding, Mend, movers, set_number
from yapa.findings.registry import case_check
from yapa.motion.info import Severity


@case_check
def check(case: Case) -> Iterator[Finding]:
    """It hangs in the air or falls upwards while others fall."""
    for name, body in movers(case).items():
        if body.gravity_multiplier <= 0 and case.fields.gravity != 0:
            how = "does not fall" if body.gravity_multiplier == 0 else "falls upwards"
            yield Finding(
                "weightless",
                name,
                f"it {how}",
                f"its gravity multiplier is {body.gravity_multiplier:g}",
                Severity.NOTE,
                Mend("set the multiplier to 1", set_number(f"bodies.{name}.gravity_multiplier", 1.0)),
            )
