"""Masses too different for a stepped profile's sweeps."""

from __future__ import annotations

from collections.abc import Iterator

from yapa.case.model import Case
from yapa.case.profiles import Precise, Stepped
from yapa.findings.base import Finding, Mend, movers
from yapa.findings.registry import case_check


@case_check
def check(case: Case) -> Iterator[Finding]:
    """A fixed number of sweeps carries a heavy body on a light one badly beyond a ratio of about a hundred."""
    profile = case.profile
    masses = {name: body.mass for name, body in movers(case).items() if body.density is None}
    if not isinstance(profile, Stepped) or len(masses) < 2:
        return
    light, heavy = min(masses, key=lambda n: masses[n]), max(masses, key=lambda n: masses[n])
    ratio = masses[heavy] / masses[light]
    if ratio > 100:
        yield Finding(
            "mass ratio",
            heavy,
            f"it sinks into {light} where they meet",
            f"{masses[heavy]:g} kg against {masses[light]:g} kg is {ratio:.3g} to 1; {profile.iterations} sweeps do not settle it",
            mend=Mend("simulate it precisely", lambda case: case.model_copy(update={"profile": Precise()})),
        )
