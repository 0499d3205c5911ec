"""The window as it was left: its size and place, and how the bench is divided; kept in the user's state."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QByteArray, QSettings

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow

FILE = "window.ini"


class Remembered:
    """What one window remembers.

    Parameters
    ----------
    window : the window
    folder : of the user's state
    """

    def __init__(self, window: MainWindow, folder: Path) -> None:
        self._window = window
        self._settings = QSettings(str(folder / FILE), QSettings.Format.IniFormat)

    def restore(self) -> None:
        """Give the window the size and place it had; what cannot be read is left."""
        kept = self._settings.value("geometry")
        if isinstance(kept, QByteArray):
            self._window.restoreGeometry(kept)

    def split(self) -> list[int] | None:
        """Return how the bench was divided while tuning: heights of the stage and of the curves; None if that is not known."""
        kept = self._settings.value("tune")
        try:
            return [int(part) for part in kept] if isinstance(kept, list) and len(kept) == 2 else None
        except (TypeError, ValueError):
            return None

    def keep(self, split: list[int] | None) -> None:
        """Keep how the window is left.

        Parameters
        ----------
        split : heights of the stage and of the curves while tuning
        """
        self._settings.setValue("geometry", self._window.saveGeometry())
        if split is not None:
            self._settings.setValue("tune", split)
        self._settings.sync()
