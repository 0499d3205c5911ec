"""Loading a case with the tracks it names, and saving it again."""

from __future__ import annotations

import os
from pathlib import Path

from yapa.case.model import Case
from yapa.case.store import read_case, write_case
from yapa.errors import InputError
from yapa.formats.any_track import read_any


def load_case(path: Path) -> tuple[Case, list[str]]:
    """A case with every referenced track read. Returns it with notices for the person.

    Raises
    ------
    InputError
        If the case or one of its tracks cannot be used.
    """
    case = read_case(path)
    notices: list[str] = []
    tracks = []
    for track in case.tracks:
        if track.file is not None and track.samples is None:
            try:
                read = read_any(path.parent / track.file, track.reading)
            except InputError as error:
                raise InputError(error.problems, f"track {track.name!r} of {path}") from None
            notices += read.notices
            track = track.model_copy(update={"samples": read.samples, "reading": read.how})
        tracks.append(track)
    return case.model_copy(update={"tracks": tuple(tracks)}), notices


def save_case(case: Case, path: Path, source: Path | None = None) -> Case:
    """Save a case atomically; references to track files are kept valid from the new place.

    Parameters
    ----------
    source : where the case was loaded from, to resolve relative references

    Returns
    -------
    Case
        The case as saved.
    """
    tracks = []
    for track in case.tracks:
        if track.file is not None and source is not None and source.parent.resolve() != path.parent.resolve():
            absolute = (source.parent / track.file).resolve()
            track = track.model_copy(update={"file": os.path.relpath(absolute, path.parent.resolve())})
        tracks.append(track)
    saved = case.model_copy(update={"tracks": tuple(tracks)})
    write_case(saved, path)
    return saved
