"""The bridge from the desk, which knows no screen, to Qt: its signals as Qt signals, its results on Qt's thread."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Signal

from yapa.session.desk import Desk
from yapa.session.recovery import Recovery
from yapa.session.signals import Signals, names_of_signals

_SIZES = {name: len(signal.signature.parameters) for name, signal in vars(Signals).items() if name in names_of_signals()}


if TYPE_CHECKING:

    class _Parts(QObject, Desk):
        """A desk, to a type checker."""
else:
    _Parts = QObject


class Session(_Parts):
    """One desk, for widgets. What is not here is the desk's own."""

    _from_worker = Signal(object)
    locals().update({name: Signal(*[object] * size) for name, size in _SIZES.items()})

    def __init__(self, recovery: Recovery | None = None) -> None:
        super().__init__()
        self.recovery = recovery
        self._from_worker.connect(self._call)
        self.desk = Desk(self._deliver, recovery)
        for name in _SIZES:
            getattr(self.desk, name).connect(getattr(self, name).emit)

    def _deliver(self, act: Callable[[], None]) -> None:
        try:
            self._from_worker.emit(act)
        except RuntimeError:  # the window is gone
            return

    @staticmethod
    def _call(act: Callable[[], None]) -> None:
        act()

    if not TYPE_CHECKING:

        def __getattr__(self, name: str) -> Any:
            """Everything else is the desk's."""
            if name == "desk":  # not yet made
                raise AttributeError(name)
            return getattr(self.desk, name)
