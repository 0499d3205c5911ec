"""Bring a track into the case: the file, how it is read, whose it is."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog

from yapa.desktop.dialogs.import_file import ImportDialog
from yapa.desktop.widgets.form_dialog import ask
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
    session = window.session
    if session.case is None or not session.case.dynamic_bodies():
        session.error.emit("bring a track: nothing in this scene moves; put in what was filmed first")
        return
    document = session.document

    def show(form: ImportForm) -> None:
        case = session.case
        if case is None or session.document is not document:
            return
        dialog = ImportDialog(window, form, case)
        if ask(dialog) and dialog.tracks:
            session.make(bring_tracks(dialog.tracks, form.as_take))

    session.tracks.look_into(path, show)
