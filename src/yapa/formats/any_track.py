"""A track from any file: plain columns t, x, y, z, angle strictly, everything else as it is guessed or was decided."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from yapa.case.importing import Import
from yapa.formats.csv_track import COLUMNS, TrackFile, read_track
from yapa.formats.opening import head_of

if TYPE_CHECKING:
    from yapa.formats.importing import Imported, Said


def is_plain(path: Path) -> bool:
    """Whether a file is UTF-8 text whose first row names plain columns, and nothing else; y alone would stand upright."""
    try:
        text = head_of(path).decode("utf-8-sig", errors="strict" if path.stat().st_size < 65536 else "ignore")
    except UnicodeDecodeError:
        return False
    names = [cell.strip().lower() for cell in text.lstrip("\r\n").split("\n", 1)[0].split(",")]
    return "t" in names and set(names) <= set(COLUMNS) and not ("y" in names and "z" not in names)


def read_any(path: Path, how: Import | None = None, said: Said | None = None) -> TrackFile:
    """Read a track.

    Parameters
    ----------
    how : as a case keeps it
    said : what a person says of the file

    Raises
    ------
    Questions
        Where only a person can say what is meant.
    InputError
        With what was found, where, and what was expected.
    """
    if how is None and said is None and is_plain(path):
        return read_track(path)
    from yapa.formats.importing import import_track  # a plain track is read without it

    return as_file(path, import_track(path, how, said), told=how is not None)


def as_file(path: Path, done: Imported, told: bool) -> TrackFile:
    """What was imported from a file; how it was read is a notice unless that was told."""
    notices = [] if told else [f"{path}: {reason}" for reason in done.why]
    shown = [name for name in COLUMNS if getattr(done.samples, name) is not None]
    return TrackFile(done.samples, notices, shown, done.how)
