"""A track from any file: plain columns t, x, y, z, angle strictly, everything else as it is guessed or was decided."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from yapa.case.importing import ImportSettings
from yapa.formats.tracks.opening import head_of
from yapa.formats.tracks.plain_csv import COLUMNS, TrackFile, read_track

if TYPE_CHECKING:
    from yapa.formats.tracks.importer import Imported, ImportOverrides


def bare_unit(cell: str) -> str | None:
    """Return the symbol of the unit that stands alone in a cell, bracketed or not; None where there is none.

    Parameters
    ----------
    cell : text of the cell
    """
    from yapa.formats.units import find_unit  # a plain track is read without it

    word = cell.strip("[]() ")
    return find_unit(word) if word and not word[0].isdigit() else None


def is_plain(path: Path) -> bool:
    """Return whether a file is UTF-8 text whose first row names plain columns, and nothing else; y alone would stand upright.

    A row of units below the names is no plain table: it is read as any other, so that a file says the same by every way in.

    Parameters
    ----------
    path : the file
    """
    try:
        text = head_of(path).decode("utf-8-sig", errors="strict" if path.stat().st_size < 65536 else "ignore")
    except UnicodeDecodeError:
        return False
    rows = text.lstrip("\r\n").split("\n", 2)
    names = [cell.strip().lower() for cell in rows[0].split(",")]
    below = [cell.strip() for cell in rows[1].split(",")] if len(rows) > 1 else []
    if below and all(bare_unit(cell) is not None for cell in below):
        return False
    return "t" in names and set(names) <= set(COLUMNS) and not ("y" in names and "z" not in names)


def read_any(path: Path, how: ImportSettings | None = None, overrides: ImportOverrides | None = None) -> TrackFile:
    """Read a track.

    Parameters
    ----------
    path : the file
    how : as a case keeps it
    overrides : what a person says of the file

    Returns
    -------
    The samples, how they were read, and notices.

    Raises
    ------
    Questions
        Where only a person can say what is meant.
    InputError
        With what was found, where, and what was expected.
    """
    if how is None and overrides is None and is_plain(path):
        return read_track(path)
    from yapa.formats.tracks.importer import import_track  # a plain track is read without it

    return as_file(path, import_track(path, how, overrides), settled=how is not None)


def as_file(path: Path, done: Imported, settled: bool) -> TrackFile:
    """Return what was imported from a file; how it was read is a notice unless that was told.

    Parameters
    ----------
    path : the file
    done : what was imported
    settled : whether the settings came from a case, so that they are no notice
    """
    notices = [] if settled else [f"{path}: {reason}" for reason in done.why]
    shown = [name for name in COLUMNS if getattr(done.samples, name) is not None]
    return TrackFile(done.samples, notices, shown, done.how)
