"""Findings of a case: what may be wrong, why something does not happen, and what would mend it."""

from __future__ import annotations

from yapa.case import Case
from yapa.engine import simulate
from yapa.findings import Finding
from yapa.findings import check as find
from yapa.fitting.problem.cancel import Cancel

__all__ = ["Finding", "check"]


def check(case: Case, run: bool = True, cancel: Cancel | None = None) -> list[Finding]:
    """Findings of a case: what may be wrong, why something does not happen, and what would mend it.

    Parameters
    ----------
    run : whether to simulate the case, for findings that need its motion

    Raises
    ------
    Cancelled
        If stopping was asked for.
    """
    motion = simulate(case, cancel=None if cancel is None else cancel.flag) if run else None
    if cancel is not None:
        cancel.heed()
    return find(case, motion, cancel.heed if cancel is not None else lambda: None)
