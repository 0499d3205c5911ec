"""The bridge from the desk, which knows no screen, to Qt: its announcements as Qt signals, its results on Qt's thread."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from psygnal import Signal as Announcement
from PySide6.QtCore import QObject, Signal

from yapa.session.desk import Desk
from yapa.session.recovery import Recovery


class Session(QObject):
    """One desk, for widgets. What is not here is the desk's own."""

    case_changed = Signal()
    history_changed = Signal()
    looked = Signal(object)
    playhead_moved = Signal(float)
    compared = Signal(object)
    fit_started = Signal()
    fit_progressed = Signal(object)
    fit_ended = Signal(object)
    trouble = Signal(str)
    said = Signal(str)
    changed_on_disk = Signal(object)
    outside_asked = Signal(object)
    _from_worker = Signal(object)

    def __init__(self, recovery: Recovery | None = None) -> None:
        super().__init__()
        self.recovery = recovery
        self._from_worker.connect(self._call)
        self.desk = Desk(self._deliver, recovery)
        for name in (name for name, member in vars(Desk).items() if isinstance(member, Announcement)):
            getattr(self.desk, name).connect(getattr(self, name).emit)

    def _deliver(self, act: Callable[[], None]) -> None:
        try:
            self._from_worker.emit(act)
        except RuntimeError:  # the window is gone
            return

    @staticmethod
    def _call(act: Callable[[], None]) -> None:
        act()

    def __getattr__(self, name: str) -> Any:
        """Everything else is the desk's."""
        if name == "desk":  # not yet made
            raise AttributeError(name)
        return getattr(self.desk, name)
