"""Contacts counted that the target did not mean."""

from __future__ import annotations

from collections.abc import Iterator

from yapa.case.model import Case
from yapa.findings.base import Finding
from yapa.findings.registry import motion_check
from yapa.motion import Motion
from yapa.motion.info import Severity


@motion_check
def check(case: Case, motion: Motion) -> Iterator[Finding]:
    """A wanted number of bounces or contacts, while the body also touches others."""
    for target in case.targets:
        if target.outcome not in ("bounces", "contacts", "apex", "contact time") or target.partner is not None:
            continue
        body = target.body or motion.dynamic_bodies()[0]
        partners = {c.partner if c.body == body else c.body for c in motion.contacts_of(body)}
        if len(partners) > 1:
            yield Finding(
                "other contacts",
                body,
                f"{target.label} counts contacts with several bodies",
                f"it touches {', '.join(sorted(partners))}; ask for one of them by name",
                Severity.NOTE,
            )
