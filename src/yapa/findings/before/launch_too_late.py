"""A launch that cannot arrive within the clip."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from yapa.case.model import Case
from yapa.findings.base import Finding, Mend, movers, pull_on, set_duration, speed_of
from yapa.findings.registry import case_check


@case_check
def check(case: Case) -> Iterator[Finding]:
    """Even straight and unbraked it does not reach the nearest other body before the end."""
    for name, body in movers(case).items():
        others = [b for key, b in case.bodies.items() if key != name and all(s.kind != "plane" for s in b.shapes)]
        speed = speed_of(body)
        if not others or speed == 0:
            continue
        from yapa.findings.gaps import gap_between

        gaps = [gap_between(case, name, key) for key, b in case.bodies.items() if key != name]
        near = min((g for g in gaps if g is not None), default=None)
        if near is None or near <= 0:
            continue
        g, t = abs(pull_on(case, body)), case.duration
        reach = speed * t + 0.5 * g * t * t
        if reach < near:
            need = float(np.roots([0.5 * g, speed, -near]).max()) if g > 0 else near / speed
            yield Finding(
                "launch too late",
                name,
                "nothing happens before the clip ends",
                f"it is {near:.3g} m from the nearest body and gets {reach:.3g} m in {t:g} s",
                mend=Mend(f"make the clip {1.5 * need:.2g} s long", set_duration(1.5 * need)),
            )
