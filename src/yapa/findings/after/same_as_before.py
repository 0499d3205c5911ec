"""A trial that is the same as an earlier one."""

from __future__ import annotations

from collections.abc import Iterator

from yapa.case.model import Case
from yapa.case.parameters import get_number
from yapa.findings.base import Finding
from yapa.findings.registry import motion_check
from yapa.motion import Motion
from yapa.motion.info import Severity


@motion_check
def check(case: Case, motion: Motion) -> Iterator[Finding]:
    """Values differ from a kept trial's, but not one outcome does."""
    from yapa.outcomes import measure

    now = {
        f"{body} {name}": reading.value
        for body in motion.dynamic_bodies()
        if body in motion.trajectories
        for name, reading in measure(motion, body).items()
    }
    for trial in case.trials:
        there = {k: v for k, v in trial.outcomes.items() if v is not None}
        shared = [k for k in there if now.get(k) is not None]
        differs = [p for p, v in trial.values.items() if abs(get_number(case, p) - v) > 1e-9 * max(1.0, abs(v))]
        if shared and differs and all(abs(now[k] - there[k]) <= 1e-9 * max(1.0, abs(there[k])) for k in shared):  # type: ignore[operator]
            yield Finding(
                "same as before",
                trial.name,
                "the motion is the same as in this trial",
                f"{', '.join(differs[:3])} changed, and no outcome did",
                Severity.NOTE,
            )
