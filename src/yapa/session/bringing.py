"""Bringing tracks in as evidence of a body: read off the interface's thread, taken as one edit."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from yapa.case import Track
from yapa.fitting.problem.cancel import Cancelled
from yapa.session.importing import ImportForm, TrackData
from yapa.session.jobs import Job, Queue, in_words

if TYPE_CHECKING:
    from yapa.session.desk import Desk


class TrackBringer:
    """Brings tracks to one desk.

    Attributes
    ----------
    shown : what would be brought in, while that is asked
    """

    def __init__(self, desk: Desk) -> None:
        self._desk = desk
        self.shown: list[TrackData] = []
        self._reading: Job | None = None

    def show(self, tracks: list[TrackData]) -> None:
        """Show on the stage what would be brought in; nothing: an empty list.

        Parameters
        ----------
        tracks : as they would be read now
        """
        self.shown = list(tracks)
        self._desk.import_previewed.emit()

    def look_into(self, path: Path, show: Callable[[ImportForm], None]) -> None:
        """Read what a file holds, off the interface's thread; nothing comes of it where another document is open by then.

        Parameters
        ----------
        path : the file
        show : called with the form of what can be said of it
        """
        document = self._desk.document

        def use(form: ImportForm) -> None:
            if self._desk.document is document:
                show(form)

        self._desk.work(f"reading {path.name}", lambda: ImportForm.of_file(path), use, Queue.FILES)

    def look_through(self, form: ImportForm, show: Callable[[list[TrackData], str], None]) -> None:
        """Read the tracks as a form says it now, off the interface's thread; of several askings only the last is answered.

        Parameters
        ----------
        form : what is said of the file so far
        show : called with the tracks and ""; with none, and what is wrong in words, where they cannot be read yet
        """
        if self._reading is not None:
            self._reading.cancel.set()
        asked = form.snapshot()

        def nothing(error: Exception) -> None:
            if not isinstance(error, Cancelled):
                show([], in_words(error))

        self._reading = self._desk.work(f"reading {form.path.name}", asked.preview, lambda tracks: show(tracks, ""), Queue.FILES,
                                        nothing)

    def read(self, form: ImportForm, use: Callable[[list[Track]], None], failed: Callable[[Exception], None]) -> None:
        """Read the whole tracks as a form says it, off the interface's thread.

        Parameters
        ----------
        form : what is said of the file
        use : called with the tracks
        failed : called with what went wrong
        """
        self._desk.work(f"reading {form.path.name}", form.snapshot().tracks, use, Queue.FILES, failed)
