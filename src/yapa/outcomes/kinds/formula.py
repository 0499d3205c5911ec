"""Arithmetic of outcomes: differences, ratios, sums, with constants of the case.

The standard deviation is propagated to first order. Where a term is missing there is no value: the term that is furthest from
occurring says why, and how far it is; what the arithmetic gives with the values that stand in for missing ones goes on changing.
"""

from __future__ import annotations

import math
from typing import Any

from yapa.case.expressions import Expression
from yapa.case.outcome_text import is_reference, parse_formula, parse_reference
from yapa.errors import bad_input
from yapa.motion import Motion
from yapa.outcomes.query import OutcomeQuery
from yapa.outcomes.registry import CATALOGUE, outcome
from yapa.outcomes.value import OutcomeValue


@outcome("formula", "", "arithmetic of other outcomes", required=("formula",))
def formula(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Arithmetic of other outcomes, in the SI unit it has."""
    expression = parse_formula(str(query.argument("formula")))
    known: dict[str, float] = {}
    terms: dict[str, OutcomeValue] = {}
    for name in expression.names:
        if name in motion.constants:
            known[name] = motion.constants[name]
        elif is_reference(name):
            terms[name] = term(motion, body, name)
        else:
            raise bad_input(f"the formula {expression.text.strip()!r}", f"the name {name!r}",
                            f"an outcome, or one of the constants {', '.join(motion.constants) or '(this case has none)'}")
    return combined(expression, known, terms)


def term(motion: Motion, body: str, text: str) -> OutcomeValue:
    """Return one outcome of a formula.

    Parameters
    ----------
    motion : simulated or measured
    body : whose outcome it is where the text names no body
    text : an outcome in words
    """
    target = parse_reference(text)
    if (target.body or body) not in motion.names:
        return OutcomeValue(None, None, f"{target.body or body} is not here", 0.0, 0.0)
    return CATALOGUE[target.outcome].read(motion, target.body or body, OutcomeQuery.of(target))


def combined(expression: Expression, known: dict[str, Any], terms: dict[str, OutcomeValue]) -> OutcomeValue:
    """Return what arithmetic gives with outcomes in it.

    Parameters
    ----------
    expression : the arithmetic
    known : name → number that is known
    terms : name → outcome
    """
    middle = {**known, **{name: value.value_or_surrogate for name, value in terms.items()}}
    here = float(expression.value(middle))
    gone = [value for value in terms.values() if value.value is None]
    if gone:
        furthest = max(gone, key=lambda value: value.shortfall)
        return OutcomeValue(None, None, furthest.missing, here if math.isfinite(here) else 0.0, furthest.shortfall)
    if not math.isfinite(here):
        return OutcomeValue(None, None, "its arithmetic has no value here", 0.0, 0.0)
    variance = 0.0
    for name, value in terms.items():
        if value.std:
            variance += (float(expression.value({**middle, name: middle[name] + value.std})) - here) ** 2
    return OutcomeValue(here, math.sqrt(variance))
