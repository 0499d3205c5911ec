"""Looking at a file before it is read: whether it is there, how large it is, how it begins."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from yapa.errors import bad_input


@contextmanager
def opened(path: Path, most: int, kind: str, wanted: str) -> Iterator[bytes]:
    """The first 64 KiB of a file; what is wrong with the file itself becomes a problem in words.

    Raises
    ------
    InputError
        No such file, a folder, larger than ``most`` bytes, empty, or unreadable, here or in the body of the with.
    """
    where = str(path)
    try:
        if path.is_dir():
            raise bad_input(where, "a folder", kind)
        size = path.stat().st_size
        if size > most:
            raise bad_input(where, f"{size / 1e6:.0f} MB", f"at most {most / 1e6:.0f} MB")
        with path.open("rb") as raw:
            head = raw.read(65536)
        if not head.strip():
            raise bad_input(where, "an empty file", wanted)
        yield head
    except FileNotFoundError:
        raise bad_input(where, "no such file", f"{kind.replace('a ', 'an existing ', 1)}; check the name and the folder") from None
    except OSError as error:
        raise bad_input(where, error.strerror or "an unreadable file", "a file that can be read") from None
