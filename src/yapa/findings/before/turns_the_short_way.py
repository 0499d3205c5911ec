"""Keys of a path between which a body would have to turn by more than half a turn."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from yapa.case.model import Case
from yapa.findings.base import Finding
from yapa.findings.registry import case_check

HALF = 1e-9
"""of the cosine of half the turn: nearer to half a turn than this, both ways are as short"""


@case_check
def check(case: Case) -> Iterator[Finding]:
    """Between two keys a body turns evenly, the short way round; quaternions that lie further apart mean the long way."""
    for name, body in case.bodies.items():
        for a, b in zip(body.keyframes, body.keyframes[1:], strict=False):
            p, q = (np.array(key.orientation) / np.linalg.norm(key.orientation) for key in (a, b))
            cosine = float(p @ q)
            if cosine >= -HALF:
                continue
            meant = 2 * np.degrees(np.arccos(np.clip(cosine, -1, 1)))
            yield Finding(
                "turns the short way",
                name,
                f"between {a.time:g} s and {b.time:g} s it turns by {360 - meant:.4g}° the other way round",
                f"its keys are {meant:.4g}° apart, more than half a turn; a key between them says which way round it is to go",
            )
            break
