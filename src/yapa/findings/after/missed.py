"""A hit that is wanted and missed: by how much, and when."""

from __future__ import annotations

from collections.abc import Iterator

from yapa.case.model import Case
from yapa.findings.base import Finding
from yapa.motion import Motion
from yapa.outcomes import Asked, read_target
from yapa.outcomes.passages import nearest


def check(case: Case, motion: Motion) -> Iterator[Finding]:
    """For every target that wants a touch."""
    for target in case.targets:
        if target.outcome != "hit" or target.condition == "never":
            continue
        body = target.body or motion.movers()[0]
        if read_target(motion, body, target).value is None and target.partner in motion.names:
            gap, when = nearest(motion, body, Asked.of(target))
            yield Finding(
                "missed", body, f"it does not touch {target.partner}", f"their centres come within {gap:.3g} m at {when:.3g} s"
            )
