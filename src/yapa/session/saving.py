"""Writing the open document to its file, off the interface's thread: one after the other, in the order they were asked for."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

from yapa.case import Case
from yapa.case.model import FORMAT_VERSION
from yapa.errors import bad_input
from yapa.files import FileStamp, write_atomically
from yapa.formats.case_file import ChangedError, save, tracks_from
from yapa.session.demo_cases import is_shipped
from yapa.session.document import Document
from yapa.session.exporting import Exported, Exporter
from yapa.session.jobs import Job, Jobs, Queue
from yapa.session.signals import Signals


class Host(Protocol):
    """What saving asks of its desk."""

    @property
    def document(self) -> Document | None:
        """The document that is open."""

    def saved(self, document: Document, was_version: int) -> None:
        """A state of a document stands in its file, which held this version of the format before.

        Parameters
        ----------
        document : the open document
        was_version : version of the format in the file before
        """


@dataclass(frozen=True)
class _Wish:
    document: Document
    path: Path
    overwrite: bool


class Saver:
    """Saves what the document is when its turn comes; what is edited after that stays unsaved."""

    def __init__(self, signals: Signals, jobs: Jobs, host: Host) -> None:
        self._signals, self._jobs, self._host = signals, jobs, host
        self._wishes: deque[_Wish] = deque()
        self._job: Job | None = None

    @property
    def busy(self) -> bool:
        """Whether something is being written, or waits for it."""
        return self._job is not None or bool(self._wishes)

    def save(self, path: Path, overwrite: bool = False) -> None:
        """Write the document atomically, once what was asked for before is written; a fault is told and nothing is lost. What was
        changed on the disk is replaced only with ``overwrite``.

        Parameters
        ----------
        path : the file
        overwrite : whether a file that was changed meanwhile is replaced
        """
        if is_shipped(path):
            self._signals.show_error(bad_input(path.name, "a case that ships with Yapa", "another name; those stay as they are"))
        elif self._host.document is not None:
            self._wishes.append(_Wish(self._host.document, path, overwrite))
            self._next()

    def export(self, exporter: Exporter, path: Path) -> None:
        """Write the case with an exporter to a file; what goes wrong is said, and the file is left as it was.

        Parameters
        ----------
        exporter : writes the text
        path : the file
        """
        if self._host.document is None:
            return
        case = self._host.document.case

        def write(job: Job) -> None:
            text = exporter.write(Exported(case))
            job.cancel.raise_if_cancelled()
            write_atomically(path, text)

        self._jobs.run(Queue.FILES, f"writing {path.name}", write,
                       lambda _: self._signals.message.emit(f"wrote {exporter.name} to {path.name}"), self._signals.show_error)

    def stop(self) -> None:
        """Give up what waits to be written."""
        self._wishes.clear()

    def _next(self) -> None:
        if self._job is not None or not self._wishes:
            return
        wish = self._wishes.popleft()
        document, path = wish.document, wish.path
        case, mark, source, mine = document.case, document.history.mark, document.path, document.path == path
        since = document.stamp if mine else None

        def write(job: Job) -> tuple[Case, FileStamp]:
            job.cancel.raise_if_cancelled()  # once the file is replaced, that is heard
            return save(case, path, source, since, wish.overwrite or not mine)

        def written(found: tuple[Case, FileStamp]) -> None:
            document.history.amend(_moving(source, path))
            before, document.format_version = document.format_version if mine else FORMAT_VERSION, FORMAT_VERSION
            document.path, document.stamp = path, found[1]
            document.history.mark_clean(mark)
            self._over()
            self._host.saved(document, before)

        def failed(error: Exception) -> None:
            self._over()
            if isinstance(error, ChangedError) and document is self._host.document:
                self._signals.changed_on_disk.emit(path)
            else:
                self._signals.show_error(error)

        self._job = self._jobs.run(Queue.FILES, f"saving {path.name}", write, written, failed)

    def _over(self) -> None:
        self._job = None
        self._next()


def _moving(source: Path | None, path: Path) -> Callable[[Case], Case]:
    """A case as it is when its file moves: every step back still finds its tracks."""
    move = tracks_from(source, path)

    def change(case: Case) -> Case:
        tracks = move(case.tracks)
        return case if tracks is case.tracks else case.model_copy(update={"tracks": tracks})

    return change
