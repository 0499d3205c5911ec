"""Bringing tracks in as evidence of a body: read off the interface's thread, taken as one edit."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

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
