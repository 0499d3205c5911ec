"""Bring a track into the case: the file, whose it is, and what only a person can say of it."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog, QInputDialog

from yapa.desktop.dialogs.import_file import ImportDialog
from yapa.desktop.widgets.form_dialog import ask
from yapa.session.importing import Questions, track_files

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow


def open_dialog(window: MainWindow) -> None:
    """Choose a file and a body."""
    case = window.session.case
    if case is None:
        return
    name, _ = QFileDialog.getOpenFileName(window, "Bring a track", "", track_files())
    if not name:
        return
    body = case.dynamic_bodies()[0]
    if len(case.dynamic_bodies()) > 1:
        body, ok = QInputDialog.getItem(window, "Whose track?", "Body", case.dynamic_bodies(), 0, False)
        if not ok:
            return
    bring_track(window, Path(name), body)


def bring_track(window: MainWindow, path: Path, body: str) -> None:
    """Bring a file in as a track of a body; what only a person can say of it is asked in a dialog."""
    def asked(questions: Questions) -> None:
        dialog = ImportDialog(window, path, questions)
        if ask(dialog) and dialog.read is not None:
            window.session.tracks.take_track(path.stem, body, dialog.read)

    window.session.tracks.import_track(path, body, None, asked)
