"""One outcome of the members of a group: of all, any or so many of them, their sum, mean, largest or smallest.

Whether all, any or at least k do what a target wants is decided by one member: the one whose margin inside the wanted range is the
least,
the greatest, or the k-th greatest. Its outcome is that of the group, so that a search follows it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from yapa.case.evidence import Target
from yapa.outcomes.target_form import wanted_range
from yapa.outcomes.value import OutcomeValue

MISSING = 1e6
"""margin of a member that does not do it at all, times how far it is from it"""


def over_group(target: Target, members: Sequence[OutcomeValue]) -> OutcomeValue:
    """Return the outcome of a group.

    Parameters
    ----------
    target : with ``each``
    members : the outcome of every member
    """
    each = target.each or "all"
    if each in ("sum", "mean"):
        return _added(members, 1.0 if each == "sum" else 1.0 / len(members))
    if each in ("largest", "smallest"):
        sign = 1.0 if each == "largest" else -1.0
        there = [m for m in members if m.value is not None]
        return max(there or members, key=lambda m: sign * m.value_or_surrogate)
    count = len(members) if each == "all" else 1 if each == "any" else int(each.split()[-1])
    return sorted(members, key=lambda m: -margin(target, m))[count - 1]


def margin(target: Target, value: OutcomeValue) -> float:
    """Return how far inside what is wanted an outcome is, in its unit; below zero it is outside.

    Parameters
    ----------
    target : the wanted outcome
    value : what it is
    """
    if target.condition == "never":
        return 1.0 + value.shortfall if value.value is None else -1.0
    if value.value is None:
        return -MISSING * (1.0 + value.shortfall)
    low, high = wanted_range(target)
    return min(value.value - low, high - value.value, MISSING)


def _added(members: Sequence[OutcomeValue], factor: float) -> OutcomeValue:
    total = factor * sum(m.value_or_surrogate for m in members)
    gone = [m for m in members if m.value is None]
    if gone:
        worst = max(gone, key=lambda m: m.shortfall)
        return OutcomeValue(None, None, worst.missing, total, sum(m.shortfall for m in gone))
    return OutcomeValue(total, factor * math.sqrt(sum((m.std or 0.0) ** 2 for m in members)))
