"""A target that is missed: by how much, when it was nearest, and which unlocked number would meet it.

The number is looked for among the free ones: the outcome's slope says how far each would have to move, the nearest in its range is
run, and corrected once by the secant; it is named if the target is met there.
"""

from __future__ import annotations

from collections.abc import Iterator

from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.case.quantities import label_of, quantity_of
from yapa.case.units import amount_text
from yapa.errors import YapaError
from yapa.findings.base import Finding, Mend, set_number
from yapa.findings.registry import motion_check
from yapa.findings.single_number import moves_towards, value_that_meets
from yapa.motion import Motion
from yapa.outcomes import OutcomeValue, read_target
from yapa.outcomes.judging import deviation, is_met, target_body
from yapa.outcomes.kinds.closest_approach import nearest
from yapa.outcomes.query import OutcomeQuery

UNKNOWNS_TRIED = 6
"""numbers that are tried for one target"""


@motion_check
def check(case: Case, motion: Motion) -> Iterator[Finding]:
    """Every target that is not met."""
    for target in case.targets:
        try:
            body = target_body(case, target)
            value = read_target(motion, body, target)
        except YapaError:  # what is wrong with the target itself is said where it is used
            continue
        if is_met(target, value):
            continue
        help_ = _helpful(case, target, body, value)
        yield Finding("target missed", target.label, _how(target, value), _why(motion, target, body, value, help_),
                      mend=None if help_ is None else Mend(f"set {label_of(help_[0])} to {_text(help_)}", set_number(*help_)))


def _how(target: Target, value: OutcomeValue) -> str:
    if value.value is None:
        return f"wanted {target.wanted}; it does not occur: {value.missing}"
    if target.condition == "never":
        return f"it happens, at {amount_text(value.value, target.unit)}, and never should"
    off = deviation(target, value.value)
    gap = amount_text(abs(off), target.unit, ".3g")
    return f"wanted {target.wanted}; it is {amount_text(value.value, target.unit)}, {gap} too {'large' if off > 0 else 'small'}"


def _why(motion: Motion, target: Target, body: str, value: OutcomeValue, help_: tuple[str, float] | None) -> str:
    parts = []
    if target.outcome in ("miss", "inside", "hit") and body in motion.names and (target.point or target.partner in motion.names):
        gap, when = nearest(motion, body, OutcomeQuery.of(target))
        parts.append(f"it comes nearest, within {gap:.3g} m, at {when:.3g} s")
    if help_ is not None:
        parts.append(f"{label_of(help_[0])} at {_text(help_)} would meet it")
    elif not parts:
        alone = "no unlocked number alone is seen to meet it"
        parts.append("something must keep them apart" if target.condition == "never" else alone)
    return "; ".join(parts)


def _text(number: tuple[str, float]) -> str:
    return amount_text(number[1], quantity_of(number[0]).unit, ".5g")


def _helpful(case: Case, target: Target, body: str, here: OutcomeValue) -> tuple[str, float] | None:
    """The unlocked number that meets a target with the least move of its range, and where."""
    if target.condition == "never":
        return None
    free = [u for u in case.unknowns if not u.fixed][:UNKNOWNS_TRIED]
    for move, unknown in moves_towards(case, target, body, here, free)[:2]:
        found = value_that_meets(case, target, body, here, unknown, move)
        if found is not None:
            return unknown.path, found
    return None
