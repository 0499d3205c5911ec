"""Ctrl+C and SIGTERM while compiled code runs.

Python calls a signal's handler between two of its own instructions: not while the main thread is inside a compiled run. The
system's part of it does not wait; it writes the number of the signal to a file descriptor (``signal.set_wakeup_fd``). A thread
that reads that descriptor sets the stop flags of the runs that are under way, and the run ends within one of its steps.
"""

from __future__ import annotations

import os
import signal
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from types import FrameType

import numpy as np

_FLAGS: list[np.ndarray] = []
_LOCK = threading.Lock()
_PIPE: list[int] = []


def _watch(reader: int, signals: frozenset[int]) -> None:
    while data := os.read(reader, 64):
        if signals & set(data):
            with _LOCK:
                for flag in _FLAGS:
                    flag[0] = 1


def _wakeup() -> int:
    """The descriptor that the system writes signals to; its reader lives as long as the process."""
    if not _PIPE:
        reader, writer = os.pipe2(os.O_CLOEXEC | os.O_NONBLOCK)
        os.set_blocking(reader, True)
        signals = frozenset((signal.SIGINT, signal.SIGTERM))
        threading.Thread(target=_watch, args=(reader, signals), name="yapa signals", daemon=True).start()
        _PIPE.append(writer)
    return _PIPE[0]


class stoppable:  # noqa: N801  (a context, and a class only because it is entered for every single run)
    """Runs that read this flag ((1,) int64) end soon after Ctrl+C or SIGTERM. Does nothing outside the main thread."""

    __slots__ = ("_before", "_flag", "_here")

    def __init__(self, flag: np.ndarray) -> None:
        self._flag, self._before = flag, -1
        self._here = threading.get_ident() == threading.main_thread().ident

    def __enter__(self) -> None:
        if self._here:
            self._before = signal.set_wakeup_fd(_wakeup(), warn_on_full_buffer=False)
            with _LOCK:
                _FLAGS.append(self._flag)

    def __exit__(self, *_: object) -> None:
        if self._here:
            with _LOCK:
                _FLAGS[:] = [f for f in _FLAGS if f is not self._flag]
            signal.set_wakeup_fd(self._before)


@contextmanager
def stopping(flag: np.ndarray, stop: Callable[[], None], signals: tuple[signal.Signals, ...] = (signal.SIGINT,)
             ) -> Iterator[list[int]]:
    """Within it, these signals stop what is under way and raise nothing: what was found so far is kept.

    Only handlers that are Python's own are replaced, and only in the main thread. Gives the list of signals that came.

    Parameters
    ----------
    flag : (1,) set to stop
    stop : sets the flag
    signals : announces changes

    Returns
    -------
    A context manager.
    """
    came: list[int] = []

    def handler(number: int, _frame: FrameType | None) -> None:
        came.append(number)
        stop()

    if threading.current_thread() is not threading.main_thread():
        yield came
        return
    own = [s for s in signals if signal.getsignal(s) in (signal.default_int_handler, signal.SIG_DFL)]
    before = {s: signal.signal(s, handler) for s in own}
    try:
        with stoppable(flag):
            yield came
    finally:
        for s, old in before.items():
            signal.signal(s, old)
