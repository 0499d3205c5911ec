"""What stopped it: how the energy that a body lost is shared among those it touched, and the air.

With e = ½ v² + ½ (I/m) w² + g h per mass (I the mean principal moment, h the height against gravity) at the knots of a curve, the
change at a knot belongs to those it hit there, the change between two knots to those it was in contact with in between, in equal
parts, and to the air where it touched nothing. What took energy has its part of all that was taken; what gave energy has none.
"""

from __future__ import annotations

from collections import defaultdict

import numpy as np

from yapa.motion import Motion
from yapa.outcomes.query import OutcomeQuery
from yapa.outcomes.registry import outcome
from yapa.outcomes.value import OutcomeValue, missing_event

AIR = "the air"
"""what takes energy while nothing is touched: drag and damping"""
SAME_TIME = 1e-9
"""s: a hit so near a knot is at it"""


def loss_shares(motion: Motion, body: str) -> dict[str, float]:
    """Return the part of the energy it lost that went to each body it touched, and to the air, the greatest first.

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    """
    path, account = motion.trajectory(body), motion.body(body)
    g = motion.gravity * account.gravity_multiplier
    turning = float(np.mean(account.inertia)) / account.mass if account.inertia is not None and account.mass else 0.0
    height = -(path.x @ g)
    before, after = (0.5 * (v**2).sum(axis=1) + 0.5 * turning * (w**2).sum(axis=1) + height
                     for v, w in ((path.velocity_before, path.omega_before), (path.velocity_after, path.omega_after)))
    taken: defaultdict[str, float] = defaultdict(float)
    hits = motion.contacts_of(body)
    at_knot = np.clip(np.searchsorted(path.t, [c.time - SAME_TIME for c in hits]), 0, len(path.t) - 1)
    for knot in np.unique(at_knot):
        others = [_other(body, c.body, c.partner) for c, k in zip(hits, at_knot, strict=True) if k == knot]
        for name in others:
            taken[name] += float(before[knot] - after[knot]) / len(others)
    lost = after[:-1] - before[1:]
    middle = 0.5 * (path.t[:-1] + path.t[1:])
    spans = motion.contact_intervals_of(body)
    touching = np.array([(p.start <= middle) & (middle <= p.end) for p in spans]).reshape(len(spans), len(middle))
    count = touching.sum(axis=0)
    for held, span in zip(touching, spans, strict=True):
        taken[_other(body, span.body, span.partner)] += float((lost[held] / count[held]).sum())
    taken[AIR] += float(lost[count == 0].sum())
    whole = sum(part for part in taken.values() if part > 0)
    if whole <= 0:
        return {}
    return dict(sorted(((name, max(part, 0.0) / whole) for name, part in taken.items()), key=lambda item: -item[1]))


def _other(body: str, one: str, two: str) -> str:
    return two if one == body else one


@outcome("loss share", "", "how much of the energy it lost a body it touched took: what stopped it", required=("partner",))
def loss_share(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Part of the energy that it lost which went into contacts with a body, from 0 to 1."""
    shares = loss_shares(motion, body)
    if not shares:
        return missing_event("it lost no energy", 0.0, 1.0)
    return OutcomeValue(shares.get(str(query.partner), 0.0), 0.05 if motion.measured else 0.0)


def stopped_by(motion: Motion, body: str) -> str:
    """Return in words which bodies took the energy that it lost.

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    """
    named = [f"{name} {100 * share:.0f}%" for name, share in loss_shares(motion, body).items() if share >= 0.005]
    return f"its energy went to {', '.join(named)}" if named else "it lost no energy"
