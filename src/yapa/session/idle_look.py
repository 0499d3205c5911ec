"""What is looked for while nothing is to be done: once a state of the case, stopped as soon as the hand goes on."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Generic, TypeVar

from yapa.case import Case
from yapa.fitting.problem.cancel import Cancel
from yapa.session.jobs import Job, Queue

if TYPE_CHECKING:
    from yapa.session.desk import Desk

Found = TypeVar("Found")


class IdleLook(Generic[Found]):
    """One look at the case that is open.

    Parameters
    ----------
    desk : whose case it is
    text : what it does, in words
    work : finds it, off the interface's thread; hears the cancel
    nothing : what is known before it was found
    changed : called when what is known has changed

    Attributes
    ----------
    found : what is known of the case as it is
    """

    def __init__(self, desk: Desk, text: str, work: Callable[[Case, Cancel], Found], nothing: Found, changed: Callable[[], None]
                 ) -> None:
        self._desk, self._text, self._work, self._nothing, self._announce = desk, text, work, nothing, changed
        self._job: Job | None = None
        self._case: Case | None = None
        self.found = nothing
        desk.case_changed.connect(self._drop)

    def has_something_to_find(self, case: Case) -> bool:
        """Return whether there is anything to look for.

        Parameters
        ----------
        case : the case that is open
        """
        return True

    def look(self) -> None:
        """Look, unless there is nothing to look for, a hand or a fit is at work, or it was done for this case."""
        case, desk = self._desk.case, self._desk
        busy = desk.fits.running or desk.drag.pulling or bool(desk.preview.values) or desk.preview.draft is not None
        if case is None or case is self._case or busy or not self.has_something_to_find(case):
            return
        self._case = case

        def use(found: Found) -> None:
            self._job = None
            if self._desk.case is case:
                self.found = found
                self._announce()

        def failed(_error: Exception) -> None:  # what is wrong with a case is said where it is shown
            self._job = None

        self._job = desk.jobs.run(Queue.IDLE, self._text, lambda job: self._work(case, job.cancel), use, failed)

    def give_way(self) -> None:
        """The hand goes on: what is under way is stopped, and looked for again later."""
        if self._job is not None:
            self._job.cancel.set()
            self._job = self._case = None

    def _drop(self) -> None:
        if self._desk.case is self._case:
            return
        self.give_way()
        self._case = None
        if self.found != self._nothing:
            self.found = self._nothing
            self._announce()
