"""Something done in a turn of the event loop of its own: a person's next move comes between."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer


class Later(QTimer):
    """However often it is asked for, it is done once, after what came before.

    Parameters
    ----------
    parent : what it belongs to
    act : what is done
    after : ms; those with another number come in another turn
    """

    def __init__(self, parent: QObject, act: Callable[[], object], after: int = 0) -> None:
        super().__init__(parent)
        self.setInterval(after)
        self.setSingleShot(True)
        self.timeout.connect(act)

    def __call__(self, *_told: object) -> None:
        """Ask for it."""
        self.start()
