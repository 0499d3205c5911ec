"""Restitution outside 0 to 1, or exactly 1."""

from __future__ import annotations

from collections.abc import Iterator

from yapa.case.model import Case
from yapa.case.parameter_path import parse_path
from yapa.case.parameters import numbers
from yapa.findings.base import Finding, Mend, set_number
from yapa.findings.registry import case_check
from yapa.motion.info import Severity


@case_check
def check(case: Case) -> Iterator[Finding]:
    """Above 1 every bounce gains energy; at 1 none is lost."""
    for path, value in numbers(case).items():
        if parse_path(path).quantity != "restitution":
            continue
        if value > 1:
            yield Finding(
                "restitution above one",
                path,
                "every bounce is higher than the one before",
                f"it is {value:g}: a contact gives back {value:g} times the speed",
                mend=Mend("set it to 1", set_number(path, 1.0)),
            )
        elif value == 1:
            yield Finding("restitution one", path, "it bounces for ever", "a contact gives back all of the speed", Severity.NOTE)
