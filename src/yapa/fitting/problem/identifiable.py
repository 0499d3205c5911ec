"""Evidence and unknowns that no fit could use: refused before anything is run."""

from __future__ import annotations

from yapa.case.model import Case
from yapa.case.parameter_path import AXES
from yapa.case.quantities import NOISES, kind_of
from yapa.case.scene import Plane
from yapa.case.unknowns import Unknown
from yapa.errors import bad_input
from yapa.outcomes.judging import target_body

MIN_SAMPLES_IN_CLIP = 5
"""Samples of a track that its clock must leave inside the clip, as many as a track has at least"""


def check_evidence(case: Case) -> None:
    """Refuse evidence that no fit could use, without compiling the case.

    Parameters
    ----------
    case : the case

    Raises
    ------
    InputError
        As :class:`FitProblem`.
    """
    check_identifiable(case, [u for u in case.unknowns if not u.fixed and kind_of(u.path) not in NOISES])
    refuse_absent(case)
    for target in case.targets:
        target_body(case, target)


def refuse_absent(case: Case) -> None:
    """Refuse tracks whose clock leaves too few samples between the start of the simulation and the end of the clip.

    Parameters
    ----------
    case : the case

    Raises
    ------
    InputError
        Naming the track and its offset.
    """
    for track in case.tracks:
        if track.samples is None or track.time_offset == 0.0:
            continue
        inside = sum(0.0 <= t + track.time_offset <= max(case.duration, track.samples.t[-1]) for t in track.samples.t)
        if inside < MIN_SAMPLES_IN_CLIP:
            raise bad_input(f"tracks.{track.name}.time_offset",
                            f"{track.time_offset:g} s, which leaves {inside} samples inside the clip",
                            f"an offset that leaves at least {MIN_SAMPLES_IN_CLIP}")


def check_identifiable(case: Case, unknowns: list[Unknown]) -> None:
    """Refuse unknowns of tracks that something else undoes exactly.

    Parameters
    ----------
    case : the case
    unknowns : numbers that may change

    Raises
    ------
    InputError
        If a time offset stands beside a free start and launch of the same body, or a scale beside free gravity.
    """
    free = {u.path for u in unknowns}
    for track in case.tracks:
        base = f"bodies.{track.body}."
        start = {p for p in free if p.startswith((base + "position.", base + "velocity.", base + "speed"))}
        placed = {p for p in start if ".position." in p}
        if f"tracks.{track.name}.time_offset" in free and placed and start - placed:
            raise bad_input(f"tracks.{track.name}.time_offset", "an unknown beside a free start and launch of the same body",
                            "one of them fixed: a later start from another place is the same motion")
        if f"tracks.{track.name}.scale" in free and "gravity" in free:
            raise bad_input(f"tracks.{track.name}.scale", "an unknown beside free gravity",
                            "one of them fixed: a larger picture falls faster in the same way")
        for k, axis in enumerate(AXES):
            if f"tracks.{track.name}.translation.{axis}" in free and f"{base}position.{axis}" in free and _alike_along(case, k):
                raise bad_input(f"tracks.{track.name}.translation.{axis}", "an unknown beside a free start of the same body",
                                "one of them fixed: everything else in the scene is the same there")


def _alike_along(case: Case, axis: int) -> bool:
    """Whether a scene with one moving body is the same wherever that body starts along an axis: only planes along it."""
    from scipy.spatial.transform import Rotation

    others = [b for b in case.bodies.values() if b.motion != "dynamic"]
    if len(case.dynamic_bodies()) != 1 or len(others) + 1 != len(case.bodies):
        return False
    for body in others:
        for shape in body.shapes:
            if not isinstance(shape, Plane):
                return False
            turned = (Rotation.from_quat(q, scalar_first=True) for q in (body.orientation, shape.orientation))
            normal = (next(turned) * next(turned)).apply(shape.normal)
            if abs(normal[axis]) > 1e-9:
                return False
    return True
