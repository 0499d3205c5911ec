"""Every check, before a run and after it; and what is left of their findings when those ignored for the case are taken away.

A check is a function with the decorator :func:`case_check` or :func:`motion_check`, in a file that ``before/__init__.py`` or
``after/__init__.py`` imports, or in a program of one's own.
"""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterable

from yapa.case.model import Case
from yapa.errors import YapaError
from yapa.findings.base import Finding
from yapa.findings.merging import merged
from yapa.motion import Motion
from yapa.motion.info import Severity

log = logging.getLogger("yapa.findings")
CaseCheck = Callable[[Case], Iterable[Finding]]
MotionCheck = Callable[[Case, Motion], Iterable[Finding]]

BEFORE: list[CaseCheck] = []
"""Checks of a case alone."""
AFTER: list[MotionCheck] = []
"""Checks of a case and its motion."""


def case_check(check: CaseCheck) -> CaseCheck:
    """Register a function that yields findings of a case, and return it unchanged.

    Parameters
    ----------
    check : the function

    Returns
    -------
    The function.
    """
    BEFORE.append(check)
    return check


def motion_check(check: MotionCheck) -> MotionCheck:
    """Register a function that yields findings of a case and its motion, and return it unchanged.

    Parameters
    ----------
    check : the function

    Returns
    -------
    The function.
    """
    AFTER.append(check)
    return check


def check(case: Case, motion: Motion | None = None, go_on: Callable[[], None] = lambda: None) -> list[Finding]:
    """Return the findings of a case, and of its motion where there is one; ignored ones are left out.

    Trouble comes first, then notes.

    Parameters
    ----------
    case : the case
    motion : its simulated motion
    go_on : called between two checks; what it raises ends them
    """
    found: list[Finding] = []
    for before in BEFORE:
        go_on()
        found += _made(before, lambda before=before: before(case))  # type: ignore[misc]
    if motion is not None and len(motion.times) > 1:
        for after in AFTER:
            go_on()
            found += _made(after, lambda after=after: after(case, motion))  # type: ignore[misc]
    seen: dict[str, Finding] = {}
    for finding in found:
        seen.setdefault(finding.key, finding)
    left = [f for f in seen.values() if f.key not in case.ignored_findings]
    shown = [f for f in merged(left) if f.key not in case.ignored_findings]
    return sorted(shown, key=lambda f: f.severity != Severity.TROUBLE)


def _made(check: Callable[..., object], run: Callable[[], Iterable[Finding]]) -> list[Finding]:
    """The findings of one check; where it fails that is a finding, and the others stand."""
    name = getattr(check, "__module__", "").rpartition(".")[2].replace("_", " ") or "a check"
    try:
        return list(run())
    except YapaError as error:
        return [Finding("not checked", name, f"“{name}” could not be looked for", str(error), Severity.NOTE)]
    except (ArithmeticError, LookupError, TypeError, ValueError, AttributeError, RuntimeWarning) as error:
        log.exception("the check %r failed", name)
        cause = f"the check itself failed ({type(error).__name__}: {error}); the other findings stand"
        return [Finding("not checked", name, f"“{name}” could not be looked for", cause, Severity.NOTE)]
