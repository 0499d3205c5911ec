"""Bringing tracks in as evidence of a body: read off the interface's thread, taken as one edit."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from yapa.formats.tracks.any_file import read_any
from yapa.formats.tracks.columns import Questions
from yapa.formats.tracks.importer import ImportOverrides
from yapa.formats.tracks.plain_csv import TrackFile
from yapa.session import edits
from yapa.session.importing import ImportForm, TrackData
from yapa.session.jobs import Queue

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

    def import_track(self, path: Path, body: str, overrides: ImportOverrides | None = None,
                     ask: Callable[[Questions], None] | None = None) -> None:
        """Bring a track in as evidence of a body; ``ask`` hears what only a person can say of the file.

        Parameters
        ----------
        path : the file
        body : name of the body
        overrides : what a person says of the file
        ask : called with what only a person can say of the file
        """
        document = self._desk.document

        def use(read: TrackFile) -> None:
            if self._desk.document is document:
                self.take_track(path.stem, body, read)

        def failed(error: Exception) -> None:
            if ask is not None and isinstance(error, Questions):
                ask(error)
            else:
                self._desk.show_error(error)

        self._desk.work(f"reading {path.name}", lambda: read_any(path, None, overrides), use, Queue.FILES, failed)

    def show(self, tracks: list[TrackData]) -> None:
        """Show on the stage what would be brought in; nothing: an empty list.

        Parameters
        ----------
        tracks : as they would be read now
        """
        self.shown = list(tracks)
        self._desk.import_previewed.emit()

    def look_into(self, path: Path, show: Callable[[ImportForm], None]) -> None:
        """Read what a file holds, off the interface's thread.

        Parameters
        ----------
        path : the file
        show : called with the form of what can be said of it
        """
        self._desk.work(f"reading {path.name}", lambda: ImportForm.of_file(path), show, Queue.FILES)

    def take_track(self, name: str, body: str, read: TrackFile) -> bool:
        """Take what was read as a track of a body.

        Parameters
        ----------
        name : its name
        body : name of the body
        read : what was read of a file

        Returns
        -------
        Whether it was taken.
        """
        if not self._desk.make(edits.add_track(name, body, read)):
            return False
        for notice in read.notices:
            self._desk.message.emit(notice)
        return True
