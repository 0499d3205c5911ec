"""Solver configuration: a profile as the numbers that kernels read."""

from __future__ import annotations

from yapa.case.profiles import Precise, Stepped
from yapa.engine.kernels import layout as L
from yapa.motion import Array
from yapa.motion.definitions import MIN_BOUNCE_RISE, MIN_BOUNCE_SLOPE, MIN_CONTACT_SPEED, MIN_IMPACT_SPEED, REST_SPEED

CROWD_STEP = 1 / 240
"""s: outer steps are no longer than this where bodies may crowd."""
INTEGRATORS = {
    "explicit": L.integrator.EXPLICIT, "semi-implicit": L.integrator.SEMI_IMPLICIT, "midpoint": L.integrator.MIDPOINT,
    "Verlet": L.integrator.VERLET,
}
DAMPINGS = {
    "exponential": L.damping_form.EXPONENTIAL, "linear": L.damping_form.LINEAR, "power": L.damping_form.POWER,
    "implicit": L.damping_form.RECIPROCAL,
    "per_step": L.damping_form.FACTOR,
}


def write_config(profile: Precise | Stepped, cfg: Array) -> None:
    """Write a profile's numbers into the configuration.

    Parameters
    ----------
    profile : the solver profile
    cfg : configuration of a run
    """
    cfg[L.config.STEP] = cfg[L.config.OUTER] = profile.step
    cfg[L.config.CUTOFF] = profile.restitution_threshold
    cfg[L.config.MIN_IMPACT], cfg[L.config.MIN_CONTACT] = MIN_IMPACT_SPEED, MIN_CONTACT_SPEED
    cfg[L.config.MIN_RISE], cfg[L.config.MIN_SLOPE], cfg[L.config.REST] = MIN_BOUNCE_RISE, MIN_BOUNCE_SLOPE, REST_SPEED
    cfg[L.config.CURVED_STEP] = min(profile.step, CROWD_STEP)
    if isinstance(profile, Precise):
        cfg[L.config.SUBSTEPS] = profile.soft_contact_substeps
        return
    cfg[L.config.STEPPED], cfg[L.config.SUBSTEPS] = 1.0, profile.substeps
    cfg[L.config.INTEGRATOR], cfg[L.config.DAMPING] = INTEGRATORS[profile.integrator], DAMPINGS[profile.damping]
    cfg[L.config.DAMP_LATE] = profile.damping_stage == "after_forces"
    cfg[L.config.FIND_LATE] = profile.contact_detection == "after_move"
    cfg[L.config.TIMED] = profile.collision == "continuous"
    cfg[L.config.ITERATIONS], cfg[L.config.WARM], cfg[L.config.TOUCH] = (profile.iterations, profile.warm_start,
                                                                         profile.contact_distance)
    cfg[L.config.ABRUPT] = profile.restitution_threshold_mode == "abrupt"
    if profile.overlap_correction is not None:
        repair = profile.overlap_correction
        cfg[L.config.REPAIR], cfg[L.config.ALLOWED], cfg[L.config.REPAIR_SPEED] = (repair.factor, repair.allowed_overlap,
                                                                                   repair.max_speed)
    if profile.sleep is not None:
        rest = profile.sleep
        cfg[L.config.REST_SPEED], cfg[L.config.REST_SPIN] = rest.linear_speed, rest.angular_speed
        cfg[L.config.REST_STEPS] = max(1.0, round(rest.delay * profile.substeps / profile.step))
