"""A start of a driven body that is not where its path begins."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from yapa.case.model import Case
from yapa.findings.base import Finding, Mend, set_body
from yapa.findings.registry import case_check

APART = 1e-6
"""m: nearer than that is the same place"""
TURNED = 1e-6
"""rad, about: nearer than that is turned alike"""


@case_check
def check(case: Case) -> Iterator[Finding]:
    """A driven body stands where its first key is; a place of its own, given and elsewhere, is not used."""
    for name, body in case.bodies.items():
        if not body.keyframes:
            continue
        key = body.keyframes[0]
        moved = any(body.position) and float(np.linalg.norm(np.subtract(body.position, key.position))) > APART
        mine, first = (np.array(q) / np.linalg.norm(q) for q in (body.orientation, key.orientation))
        given = bool(np.any(np.abs(mine[1:]) > TURNED))
        turned = given and 1.0 - abs(float(mine @ first)) > TURNED**2
        if not moved and not turned:
            continue
        what = "place and orientation" if moved and turned else "place" if moved else "orientation"
        at = ", ".join(f"{c:g}" for c in key.position)
        yield Finding(
            "start beside the path",
            name,
            f"its own {what} is not where it starts",
            f"it follows its path, whose first key is at ({at}) at {key.time:g} s",
            mend=Mend(f"place {name} at its first key", set_body(name, position=key.position, orientation=key.orientation)),
        )
