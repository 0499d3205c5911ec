"""What the simulation says of itself: crowds, overlaps, faces passed through."""

from __future__ import annotations

from collections.abc import Iterator

from yapa.case.model import Case
from yapa.findings.base import Finding
from yapa.findings.registry import motion_check
from yapa.motion import Motion


@motion_check
def check(case: Case, motion: Motion) -> Iterator[Finding]:
    """Every remark of the motion."""
    for remark in motion.remarks:
        yield Finding(remark.kind, remark.about, remark.symptom, remark.cause, remark.severity)
