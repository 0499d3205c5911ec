"""Nothing in the case can move."""

from __future__ import annotations

from collections.abc import Iterator

from yapa.case.model import Case
from yapa.findings.base import Finding, Mend, set_body
from yapa.findings.registry import case_check


@case_check
def check(case: Case) -> Iterator[Finding]:
    """No dynamic body, and no kinematic one with a path of more than one key."""
    if any(b.motion == "dynamic" or len(b.keyframes) > 1 for b in case.bodies.values()):
        return
    first = next((n for n, b in case.bodies.items() if all(s.kind != "plane" for s in b.shapes)), None)
    mend = None
    if first is not None:
        mend = Mend(f"make {first} dynamic", set_body(first, motion="dynamic", keyframes=(), max_force=None))
    why = f"all {len(case.bodies)} bodies are static" if case.bodies else "there is nothing in it yet"
    yield Finding("nothing moves", "the case", "nothing will move", why, mend=mend)
