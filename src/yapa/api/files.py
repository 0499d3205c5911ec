"""Case files."""

from __future__ import annotations

from pathlib import Path

from yapa.case.model import Case
from yapa.formats.case_file import load_case, save_case


def load(path: str | Path, allow_outside: bool = False) -> Case:
    """Return the case in a file, with the tracks it names.

    Parameters
    ----------
    path : a case file of any version of the format
    allow_outside : whether files outside the case's folder may be read, as tracks that the case names

    Returns
    -------
    Case
        The whole case; a file of an older format is upgraded, and stays as it is on the disk.

    Raises
    ------
    InputError
        With everything wrong in it: what was found, where, what was expected.
    OutsideError
        If a track's file lies outside the case's folder, unless that is allowed.

    Notes
    -----
    The format is that of ``docs/case-format.md``.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> load(DATA / "orange-drop.yapa").title
    'Orange drop'
    """
    return load_case(Path(path), allow_outside)[0]


def save(case: Case, path: str | Path) -> None:
    """Save a case atomically, in the present format.

    Parameters
    ----------
    case : the case
    path : the file; one that stands there is replaced. A track whose file is not found from there is written into it

    Returns
    -------
    None
        What stands in the file is whole at every moment.

    Raises
    ------
    InputError
        If it cannot be written.

    Notes
    -----
    A temporary file beside it is flushed to the disk and renamed.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> save(load(DATA / "orange-drop.yapa"), "copy.yapa")
    >>> load("copy.yapa").title
    'Orange drop'
    """
    target = Path(path)
    gone = {track.name for track in case.tracks
            if track.file is not None and track.samples is not None and not (target.parent / track.file).exists()}
    if case.table is not None and case.table.file is not None and not (target.parent / case.table.file).exists():
        case = case.model_copy(update={"table": case.table.model_copy(update={"file": None})})
    tracks = tuple(track.model_copy(update={"file": None}) if track.name in gone else track for track in case.tracks)
    save_case(case.model_copy(update={"tracks": tracks}) if gone else case, target)
