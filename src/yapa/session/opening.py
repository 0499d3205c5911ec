"""Opening cases off the interface's thread: from files, from work that was kept safe, or made anew."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from yapa.errors import YapaError
from yapa.files import forget_parts
from yapa.formats.case_file import Loaded, OutsideError, load
from yapa.session.demo_cases import is_shipped
from yapa.session.document import OutsideQuestion
from yapa.session.jobs import Queue
from yapa.session.recovery import Kept, Recovery

if TYPE_CHECKING:
    from yapa.session.desk import Desk


class Opener:
    """Opens cases on a desk; of several that are asked for, the last is opened."""

    def __init__(self, desk: Desk) -> None:
        self._desk = desk
        self._request: object = None
        """What was last asked to be opened, until something is."""

    def forget(self) -> None:
        """Something was opened: what is still being read is not opened any more."""
        self._request = None

    def load(self, path: Path, done: Callable[[], None] | None = None, allow_outside: bool = False) -> None:
        """Read a case off the interface's thread and open it; a fault leaves the present case untouched.

        Parameters
        ----------
        path : the file
        done : called when it is done
        allow_outside : whether tracks outside the case's folder may be read
        """
        def use(loaded: Loaded) -> None:
            if is_shipped(path):
                self._desk.open_case(loaded.case.without_files())
            else:
                self._desk.open_case(loaded.case, path, loaded.stamp, format_version=loaded.version)
            for notice in loaded.notices:
                self._desk.message.emit(notice)
            if done is not None:
                done()

        def failed(error: Exception) -> None:
            if isinstance(error, OutsideError):
                self._desk.outside_files.emit(OutsideQuestion(path, error.files, lambda: self.load(path, done, True)))
            else:
                self._desk.show_error(error)

        def read() -> Loaded:
            forget_parts(path.parent)
            return load(path, allow_outside)

        self.open_by(f"opening {path.name}", read, use, failed)

    def open_by(self, text: str, read: Callable[[], Any], use: Callable[[Any], None],
                failed: Callable[[Exception], None] | None = None) -> None:
        """Read something off the interface's thread and open it; of several that are asked for, the last is opened.

        Parameters
        ----------
        text : the text
        read : reads the file
        use : called with what was found
        failed : called with what went wrong
        """
        request = self._request = object()

        def newest(found: Any) -> None:
            if self._request is request:  # nothing else was asked for, or opened, meanwhile
                use(found)

        self._desk.work(text, read, newest, Queue.FILES, failed)

    def recover(self, file: Path) -> None:
        """Take up the work of a window that ended without saving.

        Parameters
        ----------
        file : the file
        """
        autosave = self._desk.autosave
        if autosave is None:
            return

        def use(kept: Kept) -> None:
            try:
                autosave.recovery.adopt(file)
            except YapaError as error:
                self._desk.error.emit(str(error))
                return
            self._desk.open_case(kept.case, kept.path, kept.stamp, True, kept.format_version)
            self._desk.message.emit("recovered; save it to keep it")

        self.open_by("recovering", lambda: Recovery.read(file), use)
