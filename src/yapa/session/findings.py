"""Findings of a case: what may be wrong, why something does not happen, and what would mend it."""

from __future__ import annotations

from yapa.case import Case
from yapa.engine import simulate
from yapa.findings import Finding
from yapa.findings import check as find
from yapa.fitting.problem.cancel import Cancel

__all__ = ["Finding", "check"]


def check(case: Case, run: bool = True, cancel: Cancel | None = None) -> list[Finding]:
    """Return findings of a case: what may be wrong, why something does not happen, and what would mend it.

    Parameters
    ----------
    case : the case
    run : whether to simulate the case, for findings that need its motion
    cancel : stops it where it is set

    Returns
    -------
    list of Finding
        Trouble first, then notes; each with a symptom, a cause and, where there is one, an edit that mends it.

    Raises
    ------
    Cancelled
        If stopping was asked for.

    Notes
    -----
    Each check is a file in ``findings/``; ``docs/extending.md`` adds one.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> [finding.kind for finding in check(with_numbers(load(DATA / "orange-drop.yapa"), {"gravity": 0.0}), run=False)]
    ['no force acts', 'no gravity', 'value hidden']
    """
    motion = simulate(case, cancel=None if cancel is None else cancel.flag) if run else None
    if cancel is not None:
        cancel.raise_if_cancelled()
    return find(case, motion, cancel.raise_if_cancelled if cancel is not None else lambda: None)
