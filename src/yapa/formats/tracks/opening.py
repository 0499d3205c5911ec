"""Looking at a file before it is read: whether it is there, how large it is, how it begins."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from yapa.errors import bad_input
from yapa.files import open_regular, unreadable

HEAD_BYTES = 65536
"""what is looked at before a file is read"""


def head_of(path: Path, kind: str = "file of measurements") -> bytes:
    """Return the first bytes of a regular file.

    Parameters
    ----------
    path : the file
    kind : what the file is called in the message

    Raises
    ------
    InputError
        No such file, not a regular one, or unreadable.
    """
    with open_regular(path, kind) as raw:
        try:
            return raw.read(HEAD_BYTES)
        except OSError as error:
            raise unreadable(path, error, kind) from None


@contextmanager
def opened(path: Path, most: int, kind: str, wanted: str) -> Iterator[bytes]:
    """Return the first 64 KiB of a file; what is wrong with the file itself becomes a problem in words.

    Parameters
    ----------
    path : the file
    most : bytes at most
    kind : what the file is called in the message
    wanted : what a good file holds, in words

    Raises
    ------
    InputError
        No such file, not a regular one, larger than ``most`` bytes, empty, or unreadable, here or in the body of the with.
    """
    head = head_of(path, kind.removeprefix("a "))
    try:
        size = path.stat().st_size
        if size > most:
            raise bad_input(str(path), f"{size / 1e6:.0f} MB", f"at most {most / 1e6:.0f} MB")
        if not head.strip():
            raise bad_input(str(path), "an empty file", wanted)
        yield head
    except OSError as error:
        raise unreadable(path, error, kind.removeprefix("a ")) from None
