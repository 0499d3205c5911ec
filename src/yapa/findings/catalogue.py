"""All checks, and what is left of their findings when those dismissed for the case are taken away."""

from __future__ import annotations

from collections.abc import Callable

from yapa.case.model import Case
from yapa.findings.after import (
    energy_grew,
    left_the_scene,
    missed,
    never_rests,
    no_effect,
    other_contacts,
    remarks,
    rolls_for_ever,
    same_as_before,
    went_the_other_way,
)
from yapa.findings.base import Finding
from yapa.findings.before import (
    clearance_too_large,
    face_turned_away,
    hollow_filled,
    launch_ignored,
    launch_too_late,
    mass_ratio,
    no_force,
    no_gravity,
    nothing_moves,
    nothing_to_meet,
    off_the_plane,
    per_step_number,
    restitution_range,
    start_beside_path,
    start_gaps,
    step_too_long,
    surface_unused,
    turns_the_short_way,
    under_cutoff,
    unit_looks_wrong,
    value_cancelled,
    weightless,
)
from yapa.motion import Motion

BEFORE = (
    clearance_too_large.check,
    face_turned_away.check,
    hollow_filled.check,
    launch_ignored.check,
    launch_too_late.check,
    mass_ratio.check,
    no_force.check,
    no_gravity.check,
    nothing_moves.check,
    nothing_to_meet.check,
    off_the_plane.check,
    per_step_number.check,
    restitution_range.check,
    start_beside_path.check,
    start_gaps.check,
    step_too_long.check,
    surface_unused.check,
    turns_the_short_way.check,
    under_cutoff.check,
    unit_looks_wrong.check,
    value_cancelled.check,
    weightless.check,
)
AFTER = (
    energy_grew.check,
    left_the_scene.check,
    missed.check,
    never_rests.check,
    no_effect.check,
    other_contacts.check,
    remarks.check,
    rolls_for_ever.check,
    same_as_before.check,
    went_the_other_way.check,
)


def check(case: Case, motion: Motion | None = None, go_on: Callable[[], None] = lambda: None) -> list[Finding]:
    """Findings of a case, and of its motion where there is one; what was dismissed is left out.

    Trouble comes first, then notes.

    Parameters
    ----------
    go_on : called between two checks; what it raises ends them
    """
    found: list[Finding] = []
    for before in BEFORE:
        go_on()
        found += before(case)
    if motion is not None and len(motion.times) > 1:
        for after in AFTER:
            go_on()
            found += after(case, motion)
    seen: dict[str, Finding] = {}
    for finding in found:
        seen.setdefault(finding.key, finding)
    left = [f for f in seen.values() if f.key not in case.dismissed]
    return sorted(left, key=lambda f: f.weight != "trouble")
