"""Every exception of the process that nobody caught goes to the faults of one window's session, and is said in a notice.

Heard are the main thread and Qt's slots (``sys.excepthook``), other threads (``threading.excepthook``) and what is raised where an
object is cleared away (``sys.unraisablehook``). The hooks that were there before are called as well.
"""

from __future__ import annotations

import sys
import threading
from types import TracebackType
from typing import Any

from PySide6.QtCore import QAbstractEventDispatcher

from yapa.desktop.app.qt_bridge import Session
from yapa.errors import YapaError


class FaultHooks:
    """The hooks of one window, from its making to its closing."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._before = (sys.excepthook, threading.excepthook, sys.unraisablehook)
        self._mine = (self._uncaught, self._in_thread, self._unraisable)
        sys.excepthook, threading.excepthook, sys.unraisablehook = self._mine
        dispatcher = QAbstractEventDispatcher.instance()
        assert dispatcher is not None  # a window has an application
        self._dispatcher = dispatcher
        dispatcher.aboutToBlock.connect(session.faults.rest)

    def remove(self) -> None:
        """Put back the hooks that were there before, where nobody has taken their place since."""
        names = ((sys, "excepthook"), (threading, "excepthook"), (sys, "unraisablehook"))
        for (module, name), mine, before in zip(names, self._mine, self._before, strict=True):
            if getattr(module, name) == mine:
                setattr(module, name, before)
        self._dispatcher.aboutToBlock.disconnect(self._session.faults.rest)

    def _uncaught(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        self._hear(error, "answering the window")
        self._before[0](kind, error, trace)

    def _in_thread(self, args: Any) -> None:
        if args.exc_value is not None:
            where = args.thread.name if args.thread is not None else "a thread"
            self._session.from_worker(lambda: self._hear(args.exc_value, f"working in {where}"))
        self._before[1](args)

    def _unraisable(self, args: Any) -> None:
        if args.exc_value is not None:
            self._session.from_worker(lambda: self._hear(args.exc_value, "clearing away"))
        self._before[2](args)

    def _hear(self, error: BaseException, activity: str) -> None:
        if isinstance(error, KeyboardInterrupt | SystemExit):
            return
        if isinstance(error, YapaError):  # words for the person that no gate took: said all the same
            self._session.error.emit(str(error))
        self._session.faults.hear(error, activity)
