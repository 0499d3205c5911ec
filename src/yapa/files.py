"""Files: which may be read and written, and how.

Reading takes regular files only, opened without waiting: a named pipe nobody writes to would hold a thread for ever. Writing
follows links to the file they name and replaces it atomically: a temporary file in the same folder is flushed to the disk
(fsync) and renamed over the old one, so that a crash at any moment leaves either the old file or the new one, whole. Who writes a
temporary file holds a lock on it, so that one without a lock was left by a process that is gone. Devices and pipes cannot be
replaced; they are written straight, where that is asked for.
"""

from __future__ import annotations

import contextlib
import fcntl
import hashlib
import os
import secrets
import stat
import time
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from yapa.errors import InputError, bad_input

PART_PREFIX = ".yapa-"
PART_SUFFIX = ".part"
"""Names of temporary files. They never hold the name of the target, which may already be as long as a name can be."""


@dataclass(frozen=True)
class FileStamp:
    """What a file was like when it was last read or written. Equal content is the same file, whatever its time."""

    size: int
    modified: float
    """s since the epoch"""
    sha256: str

    @classmethod
    def of(cls, data: bytes, modified: float | None = None) -> FileStamp:
        """Return the stamp of a file with this content, written now unless a time is given.

        Parameters
        ----------
        data : the content
        modified : time of the last change [s]
        """
        return cls(len(data), time.time() if modified is None else modified, hashlib.sha256(data).hexdigest())


def unreadable(path: Path, error: OSError | ValueError, kind: str = "file") -> InputError:
    """Return an error of the system, as a sentence for the person.

    Parameters
    ----------
    path : the file
    error : what was raised
    kind : what the file is called in the message
    """
    where = str(path)
    if isinstance(error, FileNotFoundError):
        return bad_input(where, "no such file", f"an existing {kind}; check the name and the folder")
    if isinstance(error, ValueError):  # a zero byte, or letters no file name can have
        return bad_input(where, "a name that no file can have", f"the name of a {kind}")
    return bad_input(where, error.strerror or "an unreadable file", "a file that can be read")


def open_regular(path: Path, kind: str = "file") -> BinaryIO:
    """Open a regular file for reading, never waiting for one.

    Parameters
    ----------
    path : the file
    kind : what the file is called in the message

    Returns
    -------
    The open file.

    Raises
    ------
    InputError
        No such file, a folder, a device, a pipe, a socket, or unreadable.
    """
    try:
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    except (OSError, ValueError) as error:
        if isinstance(error, OSError) and not isinstance(error, FileNotFoundError):
            with contextlib.suppress(OSError, ValueError):
                if not stat.S_ISREG(os.stat(path).st_mode):
                    raise bad_input(str(path), _kind_of(os.stat(path).st_mode), f"a regular {kind}") from None
        raise unreadable(path, error, kind) from None
    mode = os.fstat(handle).st_mode
    if not stat.S_ISREG(mode):
        os.close(handle)
        raise bad_input(str(path), _kind_of(mode), f"a regular {kind}")
    return os.fdopen(handle, "rb")


def read_regular(path: Path, limit: int, kind: str = "file") -> bytes:
    """Return all bytes of a regular file, refused before they are read where there are more than ``limit``.

    Parameters
    ----------
    path : the file
    limit : bytes at most
    kind : what the file is called in the message

    Raises
    ------
    InputError
        As :func:`open_regular`, and where it is too large.
    """
    with open_regular(path, kind) as file:
        try:
            data = file.read(limit + 1)
        except OSError as error:
            raise unreadable(path, error, kind) from None
        if len(data) > limit:
            size = max(os.fstat(file.fileno()).st_size, len(data))
            raise bad_input(str(path), f"{size / 1e6:.0f} MB", f"at most {limit / 1e6:.0f} MB")
        return data


def stamp_of(path: Path) -> FileStamp | None:
    """Return the stamp of a file, None where there is no regular file.

    Parameters
    ----------
    path : the file
    """
    digest = hashlib.sha256()
    try:
        with open_regular(path) as file:
            while block := file.read(1 << 20):
                digest.update(block)
            facts = os.fstat(file.fileno())
    except (InputError, OSError):
        return None
    return FileStamp(facts.st_size, facts.st_mtime, digest.hexdigest())


def changed_since(path: Path, stamp: FileStamp | None) -> bool:
    """Return whether a file holds something else than when ``stamp`` was taken; a file that is gone holds nothing to lose.

    Parameters
    ----------
    path : the file
    stamp : what the file was like when last read or written
    """
    now = stamp_of(path)
    return now is not None and (stamp is None or now.sha256 != stamp.sha256)


def _kind_of(mode: int) -> str:
    kinds = ((stat.S_ISDIR, "a folder"), (stat.S_ISFIFO, "a named pipe"), (stat.S_ISCHR, "a device"),
             (stat.S_ISBLK, "a block device"), (stat.S_ISSOCK, "a socket"))
    return next((name for test, name in kinds if test(mode)), "a special file")


def is_stream(path: Path) -> bool:
    """Return whether a path names a character device or a pipe, which is written straight.

    Parameters
    ----------
    path : the file
    """
    try:
        mode = os.stat(path).st_mode
    except (OSError, ValueError):
        return False
    return stat.S_ISCHR(mode) or stat.S_ISFIFO(mode)


def writable_target(path: Path, streams: bool = False) -> Path:
    """Return the file that writing to a path replaces: links are followed.

    Parameters
    ----------
    path : the file
    streams : whether character devices and named pipes may be written

    Raises
    ------
    InputError
        A folder, a block device, a socket, a file without write permission (for root too), a folder that does not exist or
        cannot be written, a name that cannot be.
    """
    where = str(path)
    try:
        target = Path(os.path.realpath(path))
        mode = os.stat(target).st_mode
    except FileNotFoundError:
        if not target.parent.is_dir():
            raise bad_input(where, "No such file or directory", f"a folder that exists; there is no {target.parent}") from None
        if len(os.fsencode(target.name)) > 255:
            raise bad_input(where, "a name that is too long", "a name of at most 255 bytes") from None
        return target
    except (OSError, ValueError) as error:
        if isinstance(error, OSError) and error.strerror:
            raise bad_input(where, error.strerror, "a file that can be written") from None
        raise unreadable(path, error) from None
    if stat.S_ISCHR(mode) or stat.S_ISFIFO(mode):
        if streams:
            return target
        raise bad_input(where, _kind_of(mode), "a regular file, or a new name")
    if not stat.S_ISREG(mode):
        raise bad_input(where, _kind_of(mode), "a regular file, or a new name")
    if not mode & 0o222 or not os.access(target, os.W_OK):
        raise bad_input(where, "a file without permission to write", "a file that may be written; change its permissions, or "
                        "give another name")
    return target


def write_atomically(path: Path, text: str, streams: bool = False) -> None:
    """Write text so that a crash leaves the old file or the new one, whole; links stay, and what they name is replaced.

    Parameters
    ----------
    path : the file
    text : the text
    streams : whether devices and pipes may be written

    Raises
    ------
    InputError
        As :func:`writable_target`, and where there is no room.
    """
    target = writable_target(path, streams)
    if streams and is_stream(target):
        _write_straight(target, text, path)
        return
    try:
        temporary, handle = _open_part(target.parent)
    except OSError as error:
        raise bad_input(str(path), error.strerror or "an unwritable folder", "a folder that can be written") from None
    try:
        with os.fdopen(handle, "w", encoding="utf-8") as file:
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
            try:
                facts = target.stat()
                os.chmod(temporary, facts.st_mode & 0o777)
                with contextlib.suppress(OSError):
                    os.chown(temporary, facts.st_uid, facts.st_gid)
            except FileNotFoundError:
                os.chmod(temporary, 0o644)
            os.replace(temporary, target)
    except OSError as error:
        raise bad_input(str(path), error.strerror or "a failed write", "room and permission to write") from None
    except UnicodeEncodeError:
        raise bad_input(str(path), "letters that no text file can hold", "text in UTF-8") from None
    finally:
        with contextlib.suppress(OSError):
            os.unlink(temporary)
    with contextlib.suppress(OSError):
        folder = os.open(target.parent, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)


def _open_part(folder: Path) -> tuple[Path, int]:
    """A new temporary file, locked: its path and its handle."""
    while True:
        part = folder / f"{PART_PREFIX}{secrets.token_hex(6)}{PART_SUFFIX}"
        handle = os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o600)
        with contextlib.suppress(OSError):  # a file system without locks
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        with contextlib.suppress(FileNotFoundError):
            if os.path.samestat(os.fstat(handle), os.stat(part)):
                return part, handle
        os.close(handle)  # another process took it for one that was left, before it was locked


def _write_straight(target: Path, text: str, path: Path) -> None:
    """Write to a device or a pipe; opening a pipe waits for its reader."""
    try:
        with open(target, "w", encoding="utf-8") as file:
            file.write(text)
    except BrokenPipeError:
        raise bad_input(str(path), "a pipe whose reader went away", "a reader that stays until the end") from None
    except OSError as error:
        raise bad_input(str(path), error.strerror or "a failed write", "room and permission to write") from None


def check_outputs(inputs: Iterable[Path], outputs: Iterable[Path]) -> None:
    """Refuse outputs that cannot be written, that are an input of the same command, or that meet each other.

    Parameters
    ----------
    inputs : files that are read
    outputs : files that are written

    Raises
    ------
    InputError
        For the first that cannot be.
    """
    sources = [(p, os.path.realpath(p)) for p in inputs if str(p) != "-"]
    taken: dict[str, Path] = {}
    for output in outputs:
        target = "-" if str(output) == "-" else str(writable_target(output, streams=True))
        same = next((p for p, real in sources if target != "-" and _same_file(target, real)), None)
        if same is not None:
            raise bad_input(str(output), f"the file that this command reads ({same})", "another name for what is written")
        if target in taken:
            raise bad_input(str(output), f"the same place as {taken[target]}", "a place of its own for each output")
        taken[target] = output


def _same_file(a: str, b: str) -> bool:
    try:
        return os.path.samefile(a, b)
    except (OSError, ValueError):
        return a == b


def forget_parts(folder: Path) -> None:
    """Remove temporary files that a killed process left in a folder: those that nobody holds a lock on.

    Parameters
    ----------
    folder : the folder
    """
    with contextlib.suppress(OSError):
        for part in folder.glob(f"{PART_PREFIX}*{PART_SUFFIX}"):
            with contextlib.suppress(OSError):
                handle = os.open(part, os.O_RDONLY | os.O_NONBLOCK | os.O_NOFOLLOW | os.O_CLOEXEC)
                try:
                    fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                    if stat.S_ISREG(os.fstat(handle).st_mode):
                        part.unlink()
                finally:
                    os.close(handle)
