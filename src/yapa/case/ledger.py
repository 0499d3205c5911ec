"""The trials of a case beside the values it has now."""

from __future__ import annotations

from yapa.case.model import Case
from yapa.case.parameters import get_number
from yapa.case.unknowns import Trial

SAME_VALUE = 1e-9
"""of a value, of one at least: values that differ by less are the same"""


def present_values(case: Case) -> dict[str, float]:
    """Return the values of every unknown, locked or not.

    Parameters
    ----------
    case : the case
    """
    return {u.path: get_number(case, u.path) for u in case.unknowns}


def newest_fit(case: Case) -> Trial | None:
    """Return the last fit whose values the case still has, None where there is none.

    Parameters
    ----------
    case : the case
    """
    now = present_values(case)
    for trial in reversed(case.trials):
        if trial.estimates and all(abs(now.get(p, v) - v) <= SAME_VALUE * max(1.0, abs(v)) for p, v in trial.values.items()):
            return trial
    return None
