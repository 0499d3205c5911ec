"""A damping that means another thing at another step."""

from __future__ import annotations

from collections.abc import Iterator

from yapa.case.model import Case
from yapa.case.profiles import Stepped
from yapa.findings.base import Finding, Mend, movers
from yapa.findings.registry import case_check


@case_check
def check(case: Case) -> Iterator[Finding]:
    """A factor per step, said as what it is per second."""
    profile = case.profile
    if not isinstance(profile, Stepped) or profile.damping != "per_step":
        return
    for name, body in movers(case).items():
        c = body.linear_damping
        if 0 < c < 1:
            from math import log

            per_second = -log(1 - c) / profile.step
            yield Finding(
                "number per step",
                name,
                "its damping changes with the step",
                f"a factor of {1 - c:g} a step of {profile.step:.4g} s is {per_second:.3g} per second",
                mend=Mend(f"use {per_second:.3g} 1/s, exponential", _exponential(name, per_second)),
            )


def _exponential(name: str, c: float):  # type: ignore[no-untyped-def]
    def edit(case: Case) -> Case:
        body = case.bodies[name].model_copy(update={"linear_damping": c})
        return case.model_copy(
            update={"bodies": {**case.bodies, name: body}, "profile": case.profile.model_copy(update={"damping": "exponential"})}
        )

    return edit
