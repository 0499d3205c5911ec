"""Bring a track into the case: the file, how it is read, whose it is."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog

from yapa.desktop.dialogs.bring_table import bring_table
from yapa.desktop.dialogs.import_file import ImportDialog
from yapa.desktop.widgets.form_dialog import show_once
from yapa.session.edits import bring_tracks
from yapa.session.importing import ImportForm, track_files

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow


def open_dialog(window: MainWindow) -> None:
    """Choose a file."""
    if window.session.case is None:
        return
    name, _ = QFileDialog.getOpenFileName(window, "Bring a track", "", track_files())
    if name:
        bring_track(window, Path(name))


def bring_track(window: MainWindow, path: Path) -> None:
    """Show what a file holds, and bring it in as it is said to be read."""
    _look(window, path, lambda form: _show(window, form))


def bring_file(window: MainWindow, path: Path) -> None:
    """Bring a file in as what it looks like: a track has a clock, a table of trials has none."""
    def show(form: ImportForm) -> None:
        if form.has_clock:
            _show(window, form)
        else:
            bring_table(window, path)

    _look(window, path, show)


def _look(window: MainWindow, path: Path, show: Callable[[ImportForm], None]) -> None:
    session = window.session
    if session.case is None or not session.case.dynamic_bodies():
        session.error.emit("bring a track: nothing in this scene moves; put in what was filmed first")
        return
    session.tracks.look_into(path, show)


def _show(window: MainWindow, form: ImportForm) -> None:
    session = window.session
    if session.case is None:
        return
    dialog = ImportDialog(window, form, session)
    dialog.read_as.connect(session.tracks.show)
    dialog.accepted.connect(lambda: session.make(bring_tracks(dialog.tracks, form.as_take)))
    dialog.finished.connect(lambda _code: session.tracks.show([]))
    show_once(dialog)
