"""A scene that has more energy than it began with."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from yapa.case.model import Case
from yapa.findings.base import Finding, Mend
from yapa.findings.registry import motion_check
from yapa.motion import Motion


@motion_check
def check(case: Case, motion: Motion) -> Iterator[Finding]:
    """Not where something driven or a belt gives it."""
    if any(b.motion == "kinematic" or any(any(s.surface_velocity) for s in b.shapes) for b in case.bodies.values()) or any(
        case.fields.air.wind
    ):
        return
    energy = motion.energy()
    total = energy.total
    scale = float(np.abs(energy.translational + energy.rotational).sum(axis=1).max() + np.ptp(energy.potential.sum(axis=1)))
    rise = float((total - np.minimum.accumulate(total)).max()) if len(total) else 0.0
    if scale > 0 and rise > 1e-3 * scale:
        at = float(motion.times[int(np.argmax(total - np.minimum.accumulate(total)))])
        lossy = [s for s, v in case.surfaces.items() if v.restitution > 1]
        why = (
            f"restitution of {lossy[0]} is above 1"
            if lossy
            else (
                "the step is too long for what happens" if case.profile.kind == "stepped" else "contacts in a crowd give a little"
            )
        )
        mend = Mend("simulate it precisely", _precisely) if case.profile.kind == "stepped" and not lossy else None
        yield Finding(
            "energy grew", "the scene", f"it gains {rise:.3g} J by {at:.3g} s, {rise / scale:.2%} of what moves", why, mend=mend
        )


def _precisely(case: Case) -> Case:
    from yapa.case.profiles import Precise

    return case.model_copy(update={"profile": Precise()})
