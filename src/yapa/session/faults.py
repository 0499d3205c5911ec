"""Faults of the program itself: exceptions that nobody raised on purpose, heard in one place.

A fault comes from a job (``Jobs``), a slot of the window, a thread, or an object that could not be cleared away; a window connects
the last three through ``desktop.app.fault_hooks``. What is said of the case is compared, not claimed: the state at the last moment
in which nothing was under way (``rest``) is held beside the present one.
"""

from __future__ import annotations

import logging
import traceback
from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from yapa.case import Case
from yapa.errors import shortened

if TYPE_CHECKING:
    from yapa.session.document import Document

log = logging.getLogger("yapa.faults")
EDITED = tuple(name for name in Case.model_fields if name not in ("trials", "scenes"))
"""fields of a case that change by edits alone"""
MAX_KEPT = 50
"""faults whose details are kept"""


@dataclass(frozen=True)
class Fault:
    """One fault.

    Attributes
    ----------
    activity : what was under way, in words
    error : kind and text of the exception
    consequence : what became of the case, in words
    details : the traceback
    """

    activity: str
    error: str
    consequence: str
    details: str

    def __str__(self) -> str:
        return f"something unexpected went wrong while {self.activity} ({self.error}); {self.consequence}"


@dataclass(frozen=True)
class State:
    """Which document is open, and its case."""

    document: Document | None
    case: Case | None


class Faults:
    """The faults of one desk.

    Parameters
    ----------
    document : returns the document that is open
    announce : called with each fault, on the interface's thread
    """

    def __init__(self, document: Callable[[], Document | None], announce: Callable[[Fault], object]) -> None:
        self._document, self._announce = document, announce
        self.kept: list[Fault] = []
        self._resting = self.state()

    def state(self) -> State:
        """Return which document is open, and its case."""
        document = self._document()
        return State(document, None if document is None else document.case)

    def rest(self) -> None:
        """Nothing is under way: what a fault did to the case is told by comparing with the case as it is now."""
        self._resting = self.state()

    def hear(self, error: BaseException, activity: str, before: State | None = None) -> Fault:
        """Keep, log and announce a fault.

        Parameters
        ----------
        error : what was raised
        activity : what was under way, as in "simulating"
        before : the state when it began; None: that of the last rest

        Returns
        -------
        The fault.
        """
        while type(error).__name__ == "EmitLoopError" and error.__cause__ is not None:  # a listener of a signal raised it
            error = error.__cause__
        details = "".join(traceback.format_exception(error))
        words = shortened(f"{type(error).__name__}: {error}", 200)
        fault = Fault(activity, words, self._consequence(before or self._resting), details)
        log.error("%s\n%s", fault, details)
        self.kept.append(fault)
        del self.kept[:-MAX_KEPT]
        self._announce(fault)
        return fault

    def _consequence(self, before: State) -> str:
        now = self.state()
        if before.document is not now.document:
            return "another case is open by now, and untouched" if now.document is not None else "no case is open"
        if before.case is None or now.case is None or before.document is None:
            return "no case was open"
        if all(getattr(before.case, name) is getattr(now.case, name) for name in EDITED):
            return "the case is untouched"
        step = before.document.history.undo_text or "the last step"
        return f"the case has changed since: “{step}” stands, and undo takes it back"
