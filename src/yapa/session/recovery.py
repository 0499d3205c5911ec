"""Work that a crash would lose: the case, written to the user's state within a second or two of every edit.

Every window keeps one file under a name of its own, and holds a lock beside it for as long as it lives; the system releases the
lock however the process ends, so that a file whose lock is free belongs to nobody, whoever has its process id by now. Taking up
recovered work takes over its file and its lock: at no moment does the work stand nowhere.
"""

from __future__ import annotations

import contextlib
import fcntl
import json
import os
import secrets
import threading
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path

import platformdirs

from yapa.case import Case
from yapa.case.model import FORMAT_VERSION
from yapa.errors import bad_input
from yapa.files import FileStamp, forget_parts, read_regular, write_atomically
from yapa.formats.case_json import case_text, parse_case

PAUSE = 1.0
"""s between two writings: what a crash can lose, and the time one takes"""
MAX_BYTES = 300_000_000
"""of a recovery file"""


def state_folder() -> Path:
    """Return where the program keeps its state."""
    return Path(platformdirs.user_state_dir("yapa"))


@dataclass(frozen=True)
class Kept:
    """Work that is kept: the case, where it was saved, and what the file there was like when it was last read or written."""

    case: Case
    path: Path | None
    stamp: FileStamp | None = None
    format_version: int = FORMAT_VERSION


class _Lock:
    """A lock on a file that the system releases with the process."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._handle: int | None = None

    def take(self) -> bool:
        """Take the lock; False where somebody has it."""
        if self._handle is not None:
            return True
        while True:
            handle = os.open(self.path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except OSError:
                os.close(handle)
                return False
            with contextlib.suppress(FileNotFoundError):
                if os.path.samestat(os.fstat(handle), os.stat(self.path)):
                    self._handle = handle
                    return True
            os.close(handle)  # its last owner removed it meanwhile

    def free(self, remove: bool = True) -> None:
        """Give the lock back."""
        if self._handle is None:
            return
        if remove:
            with contextlib.suppress(OSError):
                self.path.unlink()
        with contextlib.suppress(OSError):
            fcntl.flock(self._handle, fcntl.LOCK_UN)  # closing alone leaves it to a child that is forked but not yet executed
        os.close(self._handle)
        self._handle = None


class Recovery:
    """The recovery file of one window; those whose windows are gone are offered."""

    def __init__(self, folder: Path | None = None) -> None:
        self.folder = folder or state_folder()
        self.file = self.folder / f"recovery-{secrets.token_hex(8)}.json"
        self._lock = _Lock(self.file.with_suffix(".lock"))
        self._writing = threading.Lock()

    def write(self, kept: Kept) -> None:
        """Keep work; tracks that stand in files are embedded.

        Parameters
        ----------
        kept : the work

        Raises
        ------
        InputError
            If it cannot be used: what was found, and what is expected.
        YapaError
            If it cannot be written.
        """
        text = json.dumps({"path": str(kept.path) if kept.path else None, "case": case_text(kept.case.without_files()),
                           "stamp": asdict(kept.stamp) if kept.stamp else None, "format_version": kept.format_version})
        try:
            self.folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            with self._writing:
                self._lock.take()
                write_atomically(self.file, text)
        except OSError as error:
            raise bad_input(str(self.folder), error.strerror or "an unwritable folder", "a folder that can be written") from None

    def forget(self) -> None:
        """The work is safe elsewhere."""
        with self._writing, contextlib.suppress(OSError):
            self.file.unlink(missing_ok=True)

    def close(self) -> None:
        """Forget the work and give the name back."""
        self.forget()
        with self._writing:
            self._lock.free()

    def found(self) -> list[Path]:
        """Return recovery files of windows that are gone."""
        if not self.folder.is_dir():
            return []
        forget_parts(self.folder)
        for lock in self.folder.glob("recovery-*.lock"):  # of windows that were killed with nothing to lose
            if not lock.with_suffix(".json").exists() and lock != self._lock.path:
                own = _Lock(lock)
                with contextlib.suppress(OSError):
                    if own.take():
                        own.free()
        return [file for file in sorted(self.folder.glob("recovery-*.json")) if file != self.file and self._is_free(file)]

    @staticmethod
    def _is_free(file: Path) -> bool:
        lock = _Lock(file.with_suffix(".lock"))
        try:
            if not lock.take():
                return False
        except OSError:
            return False
        lock.free(remove=False)
        return True

    def adopt(self, file: Path) -> None:
        """Keep the file of a window that is gone as one's own from now on, and with it the work in it.

        Parameters
        ----------
        file : the file

        Raises
        ------
        InputError
            If another window has it, or had it and is through with it; nothing has changed then.
        """
        lock = _Lock(file.with_suffix(".lock"))
        try:
            taken = lock.take()
        except OSError as error:
            raise bad_input(str(file), error.strerror or "a folder that cannot be written", "one's own recovery file") from None
        if not taken or not file.exists():
            lock.free()
            raise bad_input(str(file), "work that another window has taken up", "work of a window that is gone")
        with self._writing:
            mine, own = self.file, self._lock
            self.file, self._lock = file, lock
            with contextlib.suppress(OSError):
                mine.unlink(missing_ok=True)
            own.free()

    @staticmethod
    def read(file: Path) -> Kept:
        """Return the work that a recovery file keeps.

        Parameters
        ----------
        file : the file

        Raises
        ------
        InputError
            If the file is not whole.
        """
        try:
            kept = json.loads(read_regular(file, MAX_BYTES, "recovery file"))
            text, path, stamp = kept["case"], kept["path"], kept.get("stamp")
            stamp = FileStamp(**stamp) if stamp else None
            version = int(kept.get("format_version", 1))
        except (ValueError, KeyError, TypeError, AttributeError):
            raise bad_input(str(file), "a broken recovery file", "a whole one; it can be deleted") from None
        return Kept(parse_case(text, file.name), Path(path) if path else None, stamp, version if path else FORMAT_VERSION)


class Autosave:
    """Writes the newest work to the recovery file, at once after a pause, and once every ``pause`` while edits go on."""

    def __init__(self, recovery: Recovery, failed: Callable[[str], None], pause: float = PAUSE) -> None:
        self.recovery, self.pause = recovery, pause
        self._failed = failed
        self._newest: Kept | None = None
        self._wake = threading.Condition()
        self._closed = False
        self._complained = False
        self._writing = False
        self._unwanted = False
        """What is being written is to be forgotten once it is."""
        self._thread: threading.Thread | None = None

    def keep(self, kept: Kept) -> None:
        """Have work written soon; the newest wins.

        Parameters
        ----------
        kept : the work
        """
        with self._wake:
            self._newest, self._unwanted = kept, False
            if self._thread is None and not self._closed:
                self._thread = threading.Thread(target=self._live, name="yapa autosave", daemon=True)
                self._thread.start()
            self._wake.notify_all()

    def forget(self) -> None:
        """The work is safe elsewhere: nothing waits to be written, and what was written goes."""
        with self._wake:
            self._newest = None
            self._unwanted = self._writing
            if not self._writing:
                self.recovery.forget()

    def close(self) -> None:
        """Stop, and forget the work."""
        with self._wake:
            self._closed = True
            self._newest = None
            while self._writing:
                self._wake.wait()
            self._wake.notify_all()
        self.recovery.close()

    def _live(self) -> None:
        while True:
            with self._wake:
                while self._newest is None and not self._closed:
                    self._wake.wait()
                if self._closed:
                    return
                kept, self._newest, self._writing = self._newest, None, True
            try:
                if kept is not None:
                    self.recovery.write(kept)
                self._complained = False
            except Exception as error:
                if not self._complained:
                    self._complained = True
                    self._failed(f"what is not saved cannot be kept safe from a crash: {error}")
            with self._wake:
                self._writing = False
                if self._unwanted:
                    self._unwanted = False
                    self.recovery.forget()
                self._wake.notify_all()
                self._wake.wait_for(lambda: self._closed, timeout=self.pause)
