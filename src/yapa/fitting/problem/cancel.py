"""Stopping: a flag that threads, kernels and signals hear, and what is raised once it is set."""

from __future__ import annotations

import threading

import numpy as np


class Cancelled(Exception):
    """The person asked to stop."""

    status = "cancelled"


class LimitReached(Cancelled):
    """The limit on simulations is reached."""

    status = "limit reached"


class Cancel:
    """A flag that stops a fit, and the simulation it is in, from another thread."""

    def __init__(self) -> None:
        self.flag = np.zeros(1, np.int64)
        self._event = threading.Event()

    def set(self) -> None:
        """Ask to stop."""
        self.flag[0] = 1
        self._event.set()

    def is_set(self) -> bool:
        """Whether stopping was asked for, by a thread or by a signal that only reached the flag."""
        return self._event.is_set() or bool(self.flag[0])

    def heed(self) -> None:
        """Go on, unless stopping was asked for.

        Raises
        ------
        Cancelled
        """
        if self.is_set():
            raise Cancelled
