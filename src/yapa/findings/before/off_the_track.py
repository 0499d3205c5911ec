"""A body that does not start where its track begins."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import cast

import numpy as np

from yapa.case.body_size import support
from yapa.case.evidence import Track
from yapa.case.model import Case
from yapa.errors import YapaError
from yapa.findings.base import Finding, Mend, set_body
from yapa.findings.registry import case_check
from yapa.tracking.track_data import TrackData, track_data

SOON = 0.05
"""s: a track that begins later does not say where the start is"""
NOISES = 6.0
"""σ of the track within which a start is on it"""
RADII = 0.5
"""of the least reach of the body within which a start is on its track"""
STEPS = 2
"""of the track, from its first place to its second, within which a start is on it"""


def _begins(track: Track, data: TrackData) -> np.ndarray | None:
    """Where a track begins [m], NaN where a coordinate is not measured; None where it does not say."""
    rows = np.flatnonzero(np.isfinite(data.x).all(axis=1))
    measured = [data.shown[k] or getattr(track.samples, axis, None) is not None for k, axis in enumerate("xyz")]
    if not len(rows) or abs(float(data.t[rows[0]])) > SOON or not any(measured):
        return None
    return np.where(measured, track.scale * data.x[rows[0]] + np.array(track.translation), np.nan)


def _moved_track(case: Case, name: str, by: np.ndarray) -> Case:
    def moved(track: Track) -> Track:
        at = tuple(round(float(a + b), 9) for a, b in zip(track.translation, by, strict=True))
        return track.model_copy(update={"translation": at})

    return case.model_copy(update={"tracks": tuple(moved(t) if t.name == name else t for t in case.tracks)})


@case_check
def check(case: Case) -> Iterator[Finding]:
    """Every track of places whose body starts elsewhere, along axes on which its start is not sought."""
    free = {unknown.path for unknown in case.unknowns if not unknown.fixed}
    for track in case.tracks if not case.takes else ():
        body = case.bodies.get(track.body)
        sought = any(path.startswith(f"tracks.{track.name}.") for path in free)
        if body is None or body.motion != "dynamic" or body.placed_under is not None or sought:
            continue
        try:
            data = track_data(track)
        except YapaError:  # what is wrong with the track itself is said where it is read
            continue
        begins = _begins(track, data)
        if begins is None:
            continue
        off = np.nan_to_num(begins - np.array(body.position))
        off[[f"bodies.{track.body}.position.{axis}" in free for axis in "xyz"]] = 0.0
        far = float(np.linalg.norm(off))
        size = min(support(body, axis) for axis in np.vstack([np.eye(3), -np.eye(3)]))
        step = float(np.linalg.norm(np.diff(data.x[:2], axis=0)))
        if far <= max(NOISES * data.sigma, RADII * size, STEPS * step):
            continue
        there = cast("tuple[float, float, float]", tuple(round(float(c), 6) for c in np.array(body.position) + off))
        yield Finding(
            "off its track", track.body, f"it starts {far:.3g} m from where its track {track.name} begins",
            f"the track begins at {_words(begins)}, the body at {_words(np.array(body.position))}",
            mend=Mend(f"move {track.body} to its track", set_body(track.body, position=there)),
            also=(Mend(f"move the track to {track.body}", partial(_moved_track, name=track.name, by=-off)),))


def _words(place: np.ndarray) -> str:
    """A place in words; a coordinate that is not known as a dash."""
    return "(" + ", ".join("–" if np.isnan(c) else f"{c:.3g}" for c in place) + ") m"
