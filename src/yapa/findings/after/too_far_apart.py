"""A body set too far from what it should meet: in the time of the clip it cannot get there."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from yapa.case.model import Case
from yapa.findings.base import Finding, Mend, movers, pull_on, set_duration, speed_of
from yapa.findings.before.launch_away import REACHING
from yapa.findings.gaps import gap_between
from yapa.findings.registry import motion_check
from yapa.motion import Motion


@motion_check
def check(case: Case, motion: Motion) -> Iterator[Finding]:
    """The gap at the start is more than launch speed and gravity cover in the clip, and they did not meet."""
    dynamic = movers(case)
    for target in case.targets:
        name = target.body or (next(iter(dynamic)) if len(dynamic) == 1 else "")
        wanted = target.outcome in REACHING and target.condition != "never"
        if not wanted or name not in dynamic or target.partner not in case.bodies:
            continue
        gap = gap_between(case, name, target.partner)
        if gap is None or any({c.body, c.partner} == {name, target.partner} for c in motion.contacts):
            continue
        reach = sum(_reach(case, one, case.duration) for one in (name, target.partner))
        if gap > reach:
            needed = next((t for t in case.duration * np.geomspace(1.1, 20.0, 40)
                           if sum(_reach(case, one, t) for one in (name, target.partner)) >= 1.1 * gap), None)
            yield Finding("too far apart", f"{name}, {target.partner}", f"it does not get to {target.partner}",
                          f"they start {gap:.3g} m apart; launch and gravity carry it {reach:.3g} m at most "
                          f"in {case.duration:.3g} s",
                          mend=None if needed is None else Mend(f"make the clip {needed:.2g} s long", set_duration(float(needed))))


def _reach(case: Case, name: str, seconds: float) -> float:
    """The longest way a body goes by itself [m]; along its path where it follows one."""
    body = case.bodies[name]
    if body.motion == "dynamic":
        wind = float(np.linalg.norm(case.fields.air.wind)) if case.fields.air.density else 0.0
        return (speed_of(body) + wind) * seconds + 0.5 * abs(pull_on(case, body)) * seconds**2
    keys = [key for key in body.keyframes if key.time <= seconds]
    return float(sum(np.linalg.norm(np.subtract(b.position, a.position)) for a, b in zip(keys, body.keyframes[1:], strict=False)))
