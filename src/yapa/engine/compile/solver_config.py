"""Solver configuration: a profile as the numbers that kernels read."""

from __future__ import annotations

from yapa.case.profiles import Precise, Stepped
from yapa.engine.kernels import layout as L
from yapa.motion import Array
from yapa.motion.definitions import MIN_BOUNCE_RISE, MIN_BOUNCE_SLOPE, MIN_CONTACT_SPEED, MIN_IMPACT_SPEED, REST_SPEED

CROWD_STEP = 1 / 240
"""s: outer steps are no longer than this where bodies may crowd."""
INTEGRATORS = {
    "explicit": L.EXPLICIT, "semi-implicit": L.SEMI_IMPLICIT, "midpoint": L.MIDPOINT, "Verlet": L.VERLET,
}
DAMPINGS = {
    "exponential": L.EXPONENTIAL, "linear": L.LINEAR, "power": L.POWER, "implicit": L.RECIPROCAL,
    "per_step": L.FACTOR,
}


def write_config(profile: Precise | Stepped, cfg: Array) -> None:
    """Write a profile's numbers into the configuration.

    Parameters
    ----------
    profile : the solver profile
    cfg : configuration of a run
    """
    cfg[L.CFG_STEP] = cfg[L.CFG_OUTER] = profile.step
    cfg[L.CFG_CUTOFF] = profile.restitution_threshold
    cfg[L.CFG_MIN_IMPACT], cfg[L.CFG_MIN_CONTACT] = MIN_IMPACT_SPEED, MIN_CONTACT_SPEED
    cfg[L.CFG_MIN_RISE], cfg[L.CFG_MIN_SLOPE], cfg[L.CFG_REST] = MIN_BOUNCE_RISE, MIN_BOUNCE_SLOPE, REST_SPEED
    cfg[L.CFG_CURVED_STEP] = min(profile.step, CROWD_STEP)
    if isinstance(profile, Precise):
        cfg[L.CFG_SUBSTEPS] = profile.soft_contact_substeps
        return
    cfg[L.CFG_STEPPED], cfg[L.CFG_SUBSTEPS] = 1.0, profile.substeps
    cfg[L.CFG_INTEGRATOR], cfg[L.CFG_DAMPING] = INTEGRATORS[profile.integrator], DAMPINGS[profile.damping]
    cfg[L.CFG_DAMP_LATE] = profile.damping_stage == "after_forces"
    cfg[L.CFG_FIND_LATE] = profile.contact_detection == "after_move"
    cfg[L.CFG_TIMED] = profile.collision == "continuous"
    cfg[L.CFG_ITERATIONS], cfg[L.CFG_WARM], cfg[L.CFG_TOUCH] = profile.iterations, profile.warm_start, profile.contact_distance
    cfg[L.CFG_ABRUPT] = profile.restitution_threshold_mode == "abrupt"
    if profile.overlap_correction is not None:
        repair = profile.overlap_correction
        cfg[L.CFG_REPAIR], cfg[L.CFG_ALLOWED], cfg[L.CFG_REPAIR_SPEED] = repair.factor, repair.allowed_overlap, repair.max_speed
    if profile.sleep is not None:
        rest = profile.sleep
        cfg[L.CFG_REST_SPEED], cfg[L.CFG_REST_SPIN] = rest.linear_speed, rest.angular_speed
        cfg[L.CFG_REST_STEPS] = max(1.0, round(rest.delay * profile.substeps / profile.step))
