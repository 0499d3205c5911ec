"""The window as it was left: its size and place, and how the bench is divided; kept in the user's state."""

from __future__ import annotations

import os
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QByteArray, QSettings

from yapa.desktop.app.theme import type_scale

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow

FILE = "window.ini"


TYPES = (0.85, 1.0, 1.15, 1.3, 1.5, 1.75, 2.0)
"""how large the type can be chosen: times as usual"""


def take_type(folder: Path) -> None:
    """Have the type as large as it was chosen, unless the environment says otherwise; before any of it is made."""
    kept = QSettings(str(folder / FILE), QSettings.Format.IniFormat).value("type")
    if isinstance(kept, str):
        os.environ.setdefault("YAPA_TYPE", kept)


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

    def choose_type(self, step: int) -> float:
        """Choose larger or smaller type, from the next start on; return how large.

        Parameters
        ----------
        step : 1 or -1
        """
        try:
            now = float(str(self._settings.value("type", type_scale())))
        except ValueError:
            now = 1.0
        at = min(range(len(TYPES)), key=lambda k: abs(TYPES[k] - now))
        chosen = TYPES[min(max(at + step, 0), len(TYPES) - 1)]
        self._settings.setValue("type", f"{chosen:g}")
        self._settings.sync()
        return chosen

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
