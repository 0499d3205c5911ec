"""New cases: an empty scene, and what fills it at once: what was filmed, or a thing that is dropped and what should happen."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from yapa.case import Case, Samples, Target, Track
from yapa.case.base import Vec3
from yapa.errors import bad_input
from yapa.fitting import Setup, prepare
from yapa.fitting.setup.from_targets import from_outcomes
from yapa.fitting.setup.track_setup import BODY
from yapa.session.edits import Edit

__all__ = ["BODY", "FINDABLE", "Setup", "dropped_scene", "edges_of", "empty_scene", "filmed_scene"]

FINDABLE = {
    "restitution": "how much bounce the contact gives back",
    "friction": "how hard the contact resists sliding",
    "rolling_resistance": "what brings rolling to rest",
    "drag_coefficient": "how strongly air brakes it",
    "linear_damping": "share of speed lost each second",
    "mass": "told only by collisions, or by drag with a known coefficient",
    "angular_velocity": "how fast it turns at the start",
}
"""What can be found from one track, and what each means."""


def empty_scene() -> Case:
    """Return a case with nothing in it yet."""
    return Case(title="New scene", bodies={})


def edges_of(text: str) -> Vec3:
    """Return the edges of a box as they are typed [m].

    Parameters
    ----------
    text : such as ``0.3 x 0.2 x 0.15``

    Raises
    ------
    InputError
        If they are not three numbers.
    """
    try:
        a, b, c = (float(part) for part in text.lower().replace("×", "x").replace(",", ".").split("x"))
    except ValueError:
        raise bad_input("edges", repr(text), "three lengths, such as 0.3 x 0.2 x 0.15") from None
    return a, b, c


def filmed_scene(tracks: Sequence[Track], setup: Setup) -> Edit:
    """Return an empty scene filled with what was filmed: a thing for every track, all of one kind, on one support.

    Parameters
    ----------
    tracks : as they were brought; each names the body it is of
    setup : what is said of the things and their support

    Raises
    ------
    InputError
        If the set-up does not fit the tracks.
    """
    made: Case | None = None
    for track in tracks:
        own = replace(setup, body_name=track.body, sigma=track.sigma, sigma_angle=track.sigma_angle)
        case = prepare(_as_it_lies(track), own).case
        (read,) = case.tracks
        read = read.model_copy(update={"name": track.name})
        if made is None:
            made = case.model_copy(update={"tracks": (read,)})
            continue
        known = {unknown.path for unknown in made.unknowns}
        made = made.model_copy(update={
            "bodies": {**made.bodies, **case.bodies}, "tracks": (*made.tracks, read),
            "unknowns": (*made.unknowns, *(u for u in case.unknowns if u.path not in known)),
            "duration": max(made.duration, case.duration), "output_rate": max(made.output_rate, case.output_rate)})
    if made is None:
        raise bad_input("track", "none", "at least one that is not left out")
    found = made
    return Edit("bring what was filmed", lambda _empty: found)


def _as_it_lies(track: Track) -> Samples:
    """The samples of a track on the clock and at the place of the case."""
    s = track.samples
    assert s is not None  # a track that was brought holds them
    moved = {axis: tuple(None if value is None else value + shift for value in column)  # gaps stay gaps
             for axis, shift in zip("xyz", track.translation, strict=True) if shift and (column := getattr(s, axis)) is not None}
    return s.model_copy(update={"t": tuple(t + track.time_offset for t in s.t), **moved}) if moved or track.time_offset else s


def dropped_scene(
    wanted: Sequence[Target], height: float, mass: float, radius: float | None = None, size: Vec3 | None = None,
) -> Edit:
    """Return an empty scene filled with a thing that is dropped, and what should happen.

    Parameters
    ----------
    wanted : outcomes, one or more
    height : of its lowest point [m]
    mass : [kg]
    radius : of a ball [m]; or
    size : edges of a box [m]

    Raises
    ------
    InputError
        If nothing is wanted, or a number makes no sense.
    """
    title = "wanted: " + ", ".join(target.label for target in wanted)
    made = from_outcomes(title, radius, size, mass, height, wanted)
    return Edit("ask for outcomes", lambda _empty: made)
