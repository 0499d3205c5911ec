"""In which order bodies are met, and who is there first.

With first contacts at t₁, t₂ … the order is the least of t(i+1) − t(i): above zero they are met in this order. A body that is not
met has
the time of the end, put off by how far from it the closest approach stays, so that the margin goes on changing.
"""

from __future__ import annotations

from yapa.motion import Motion
from yapa.outcomes.kinds.contact import hit
from yapa.outcomes.query import OutcomeQuery
from yapa.outcomes.registry import outcome
from yapa.outcomes.value import OutcomeValue, missing_event


@outcome("contact order", "s",
         "the least time between first contacts with bodies in this order",
         required=("sequence",))
def contact_order(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Least time from one first contact to the next [s]."""
    met = [hit(motion, body, OutcomeQuery(partner=name)) for name in query.argument("sequence")]
    times = [one.value if one.value is not None else motion.end * (1.0 + one.shortfall) for one in met]
    least = min(b - a for a, b in zip(times, times[1:], strict=False))
    gone = [one for one in met if one.value is None]
    if gone:
        worst = max(gone, key=lambda one: one.shortfall)
        return missing_event(worst.missing or "it is not met", least, sum(one.shortfall for one in gone))
    return OutcomeValue(least, max(one.std or 0.0 for one in met))


@outcome("lead", "s", "how much earlier than any other body it first touches one", required=("partner",))
def lead(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """How much earlier than the next it first touches a body [s]; below zero another was there before."""
    own = hit(motion, body, query)
    others = [hit(motion, name, query) for name in motion.dynamic_bodies() if name not in (body, query.partner)]
    times = [other.value if other.value is not None else motion.end for other in others]
    first = min(times, default=motion.end)
    if own.value is None:
        return missing_event(own.missing or "", first - motion.end * (1.0 + own.shortfall), own.shortfall)
    return OutcomeValue(first - own.value, own.std)
