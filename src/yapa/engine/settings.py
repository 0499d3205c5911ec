"""A profile as the numbers that kernels read."""

from __future__ import annotations

from yapa.case.profiles import Precise, Stepped
from yapa.engine.kernels import layout as L
from yapa.motion import Array

CROWD_STEP = 1 / 240
"""s: outer steps are no longer than this where bodies may crowd."""
INTEGRATORS = {
    "explicit": L.EXPLICIT, "semi-implicit": L.SEMI_IMPLICIT, "midpoint": L.MIDPOINT, "Verlet": L.VERLET,
}
DAMPINGS = {
    "exponential": L.EXPONENTIAL, "linear": L.LINEAR, "power": L.POWER, "reciprocal": L.RECIPROCAL,
    "factor per step": L.FACTOR,
}


def settle_profile(profile: Precise | Stepped, cfg: Array) -> None:
    """Write a profile's numbers into the configuration."""
    cfg[L.CFG_STEP] = cfg[L.CFG_OUTER] = profile.step
    cfg[L.CFG_CUTOFF] = profile.cutoff_speed
    cfg[L.CFG_CURVED_STEP] = min(profile.step, CROWD_STEP)
    if isinstance(profile, Precise):
        cfg[L.CFG_SUBSTEPS] = profile.crowd_substeps
        return
    cfg[L.CFG_STEPPED], cfg[L.CFG_SUBSTEPS] = 1.0, profile.substeps
    cfg[L.CFG_INTEGRATOR], cfg[L.CFG_DAMPING] = INTEGRATORS[profile.integrator], DAMPINGS[profile.damping]
    cfg[L.CFG_DAMP_LATE] = profile.damping_acts == "after forces"
    cfg[L.CFG_FIND_LATE] = profile.contacts_found == "after the move"
    cfg[L.CFG_TIMED] = profile.impacts == "timed"
    cfg[L.CFG_ITERATIONS], cfg[L.CFG_WARM], cfg[L.CFG_TOUCH] = profile.iterations, profile.warm_start, profile.touch
    cfg[L.CFG_ABRUPT] = profile.cutoff == "abrupt"
    if profile.repair is not None:
        repair = profile.repair
        cfg[L.CFG_REPAIR], cfg[L.CFG_ALLOWED], cfg[L.CFG_REPAIR_SPEED] = repair.share, repair.allowed, repair.speed
    if profile.rest is not None:
        rest = profile.rest
        cfg[L.CFG_REST_SPEED], cfg[L.CFG_REST_SPIN] = rest.speed, rest.spin
        cfg[L.CFG_REST_STEPS] = max(1.0, round(rest.after * profile.substeps / profile.step))
