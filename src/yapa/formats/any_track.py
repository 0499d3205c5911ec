"""A track from any file: plain columns t, x, y, z, angle strictly, everything else as it is guessed or was decided."""

from __future__ import annotations

from pathlib import Path

from yapa.case.importing import Import
from yapa.formats.csv_track import COLUMNS, TrackFile, read_track
from yapa.formats.importing import import_track

PLAIN = (".csv", ".txt", "")


def is_plain(path: Path) -> bool:
    """Whether the first row names plain columns, and nothing else."""
    try:
        with path.open(encoding="utf-8-sig") as file:
            names = [cell.strip().lower() for cell in file.readline(2000).split(",")]
    except (OSError, UnicodeDecodeError):
        return True  # the strict reader says what is wrong
    return "t" in names and set(names) <= set(COLUMNS)


def read_any(path: Path, how: Import | None = None, **changes: object) -> TrackFile:
    """Read a track.

    Raises
    ------
    InputError
        With what was found, where, and what was expected.
    """
    if how is None and not changes and (not path.is_file() or is_plain(path) or path.stat().st_size == 0):
        return read_track(path)
    done = import_track(path, how, **changes)
    notices = [f"{path}: {reason}" for reason in done.why] if how is None else []
    shown = [name for name in COLUMNS if getattr(done.samples, name) is not None]
    return TrackFile(done.samples, notices, shown, done.how)
