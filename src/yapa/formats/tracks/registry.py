"""Every reader of tables of measurements, and the one that reads a file.

A reader is a function with the decorator :func:`track_reader`, in a file that ``readers/__init__.py`` imports, or in a program of
one's
own. A file goes to the newest reader that recognises it; text is what no other does.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from yapa.formats.tracks.opening import opened
from yapa.formats.tracks.table import MAX_BYTES, Table


@dataclass(frozen=True)
class ReadOptions:
    """What a person says of a file before it is read: the sheet of a spreadsheet, the delimiter of a text; None where nothing."""

    sheet: str | None = None
    delimiter: str | None = None


Read = Callable[[Path, bytes, ReadOptions], Table]


@dataclass(frozen=True)
class TrackReader:
    """A registered reader: its name, the endings of its files, whether it reads a file (by path and first bytes), and how."""

    name: str
    suffixes: tuple[str, ...]
    recognises: Callable[[Path, bytes], bool]
    read: Read


READERS: list[TrackReader] = []
"""Every registered reader, oldest first."""


def track_reader(name: str, suffixes: tuple[str, ...], recognises: Callable[[Path, bytes], bool]) -> Callable[[Read], Read]:
    """Register a function as a reader of tables of measurements.

    Parameters
    ----------
    name : of the format
    suffixes : endings of its files, such as ``.csv``, for the dialogs that choose one
    recognises : returns whether a file is of this format, from its path and its first bytes

    Returns
    -------
    A decorator that returns the function unchanged. The function gets the path, the first bytes and the options, returns the
    table, and
    raises InputError where the file cannot be one.

    Raises
    ------
    ValueError
        If there is a reader of that name.
    """
    def register(read: Read) -> Read:
        if any(reader.name == name for reader in READERS):
            raise ValueError(f"a reader of {name!r} is registered already")
        READERS.append(TrackReader(name, suffixes, recognises, read))
        return read

    return register


def read_table(path: Path, sheet: str | None = None, delimiter: str | None = None) -> Table:
    """Return the table in a file.

    Parameters
    ----------
    path : the file
    sheet : of a spreadsheet
    delimiter : of a text

    Raises
    ------
    InputError
        Not a file, too large, or nothing that can be read as a table.
    """
    with opened(path, MAX_BYTES, "a file of measurements", "rows of numbers") as head:
        reader = next(reader for reader in reversed(READERS) if reader.recognises(path, head))
        table = reader.read(path, head, ReadOptions(sheet, delimiter))
        table.where = str(path)
        return table
    raise AssertionError("opened always answers")


def file_patterns() -> str:
    """Return the endings of all readers as patterns of a file dialog: ``*.csv *.txt``."""
    return " ".join(f"*{suffix}" for reader in READERS for suffix in reader.suffixes)
