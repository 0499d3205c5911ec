"""Stopping: a flag that threads, kernels and signals hear, and what is raised once it is set."""

from __future__ import annotations

import threading
from enum import StrEnum

import numpy as np


class FitStatus(StrEnum):
    """How a fit or a search ended."""

    CONVERGED = "converged"
    NOT_CONVERGED = "not converged"
    NOT_REACHABLE = "not reachable"
    CANCELLED = "cancelled"
    LIMIT_REACHED = "limit reached"

    __repr__ = str.__repr__


class Cancelled(Exception):
    """The person asked to stop."""

    status = FitStatus.CANCELLED


class LimitReached(Cancelled):
    """The limit on simulations is reached."""

    status = FitStatus.LIMIT_REACHED


class Cancel:
    """A flag that stops a fit, and the simulation it is in, from another thread.

    Attributes
    ----------
    flag : (1,) int64, 1 once stopping was asked for; compiled code reads it

    Notes
    -----
    A run hears it within one outer step.

    Examples
    --------
    >>> stop = Cancel()
    >>> stop.set()
    >>> stop.is_set()
    True
    """

    def __init__(self) -> None:
        self.flag = np.zeros(1, np.int64)
        self._event = threading.Event()

    def set(self) -> None:
        """Ask to stop."""
        self.flag[0] = 1
        self._event.set()

    def is_set(self) -> bool:
        """Return whether stopping was asked for, by a thread or by a signal that only reached the flag."""
        return self._event.is_set() or bool(self.flag[0])

    def raise_if_cancelled(self) -> None:
        """Go on, unless stopping was asked for.

        Raises
        ------
        Cancelled
        """
        if self.is_set():
            raise Cancelled
