"""A fall whose approach is slower than the cut-off speed: it will not bounce."""

from __future__ import annotations

from collections.abc import Iterator
from math import sqrt

from yapa.case.model import Case
from yapa.findings.base import Finding, Mend, movers, pull_on, speed_of
from yapa.findings.registry import case_check


@case_check
def check(case: Case) -> Iterator[Finding]:
    """The fastest it can come down is below the speed under which nothing bounces."""
    from yapa.findings.gaps import gap_between

    cutoff = case.profile.restitution_threshold
    for name, body in movers(case).items():
        pull = pull_on(case, body)
        gaps = [gap_between(case, name, other) for other in case.bodies if other != name]
        heights = [g for g in gaps if g is not None and g > 1e-6]
        if pull <= 0 or not heights:
            continue
        speed = sqrt(speed_of(body) ** 2 + 2 * pull * min(heights))
        if speed < cutoff:
            yield Finding(
                "under the cut-off",
                name,
                "it does not bounce",
                f"it comes down at {speed:.3g} m/s at most; nothing bounces below {cutoff:.3g} m/s",
                mend=Mend("lower the cut-off speed", _lower(max(1e-3, 0.2 * speed))),
            )


def _lower(speed: float):  # type: ignore[no-untyped-def]
    return lambda case: case.model_copy(update={"profile": case.profile.model_copy(update={"restitution_threshold": speed})})
