"""A pair of bodies whose fastest contact is slower than the cut-off speed: it never bounces, whatever its restitution."""

from __future__ import annotations

from collections.abc import Iterator

from yapa.case.model import Case
from yapa.engine.compile.pair_materials import effective_values
from yapa.findings.base import Finding, Mend, set_number
from yapa.findings.registry import motion_check
from yapa.motion import Motion
from yapa.motion.definitions import MIN_IMPACT_SPEED
from yapa.motion.info import Severity

OF_FASTEST = 0.2
"""of the fastest approach: the cut-off that is offered"""
PRESSED = 1.5
"""of the speed that gravity gives in a step: what stands is seen to approach so fast"""


@motion_check
def check(case: Case, motion: Motion) -> Iterator[Finding]:
    """Pairs that would bounce by their restitution, and met only below the cut-off."""
    cutoff = case.profile.restitution_threshold
    step = case.profile.step if case.profile.kind == "stepped" else 0.0
    least = max(MIN_IMPACT_SPEED, PRESSED * abs(case.fields.gravity) * step)
    fastest: dict[tuple[str, str], tuple[float, float]] = {}
    for contact in motion.contacts:
        pair = contact.body, contact.partner
        if contact.approach >= max(least, fastest.get(pair, (0.0, 0.0))[0]):
            fastest[pair] = contact.approach, contact.time
    slow = {pair: met for pair, met in fastest.items() if met[0] < cutoff}
    if not slow:
        return
    restitution = {frozenset(value.surfaces): value.value for value in effective_values(case) if value.quantity == "restitution"}
    for (body, partner), (speed, time) in slow.items():
        surfaces = [{shape.surface for shape in case.bodies[name].shapes} for name in (body, partner)]
        e = max((restitution.get(frozenset((a, b)), 0.0) for a in surfaces[0] for b in surfaces[1]), default=0.0)
        if e > 0.0:
            why = (f"its fastest contact with {partner} is at {speed:.3g} m/s, at {time:.3g} s; "
                   f"nothing bounces below {cutoff:.3g} m/s, whatever the restitution, {e:.3g} here")
            lower = set_number("profile.restitution_threshold", max(1e-3, OF_FASTEST * speed))
            yield Finding("under the cut-off", body, "it does not bounce", why, Severity.NOTE,
                          Mend("lower the cut-off speed", lower))
