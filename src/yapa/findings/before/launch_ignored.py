"""A launch of a body that forces do not move."""

from __future__ import annotations

from collections.abc import Iterator

from yapa.case.model import Case
from yapa.case.scene import NaturalRoll
from yapa.findings.base import Finding, Mend, set_body
from yapa.findings.registry import case_check

STILL = (0.0, 0.0, 0.0)
"""without a launch"""


@case_check
def check(case: Case) -> Iterator[Finding]:
    """A velocity or a spin that stands in the case and moves nothing."""
    for name, body in case.bodies.items():
        if body.motion == "dynamic":
            continue
        launched = body.velocity.speed != 0 if not isinstance(body.velocity, tuple) else any(body.velocity)
        spun = isinstance(body.angular_velocity, NaturalRoll) or any(body.angular_velocity)
        if not launched and not spun:
            continue
        what = "velocity and spin" if launched and spun else "velocity" if launched else "spin"
        why = "it is static" if body.motion == "static" else "it follows its path, whose keys say how fast it goes"
        yield Finding(
            "launch ignored",
            name,
            f"its {what} moves nothing",
            f"{why}: a launch is for dynamic bodies",
            mend=Mend(f"take the {what} of {name} away", set_body(name, velocity=STILL, angular_velocity=STILL)),
        )
