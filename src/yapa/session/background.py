"""Work beside the interface: run in named queues, heard on the interface's thread, its faults said."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from yapa.session.document import Document
from yapa.session.faults import Faults
from yapa.session.jobs import Deliver, Job, Jobs, Queue
from yapa.session.signals import Signals


class Background(Signals):
    """Runs what takes long, until it is closed.

    Parameters
    ----------
    deliver : has something called on the interface's thread
    """

    def __init__(self, deliver: Deliver) -> None:
        self._deliver = deliver
        self._closed = False
        self.faults = Faults(self._open_document, self.fault.emit)
        self.jobs = Jobs(deliver, self.jobs_changed.emit, self.faults)

    def _open_document(self) -> Document | None:
        """The document that is open, which faults are held against."""
        return None

    def work(self, text: str, work: Callable[[], Any], use: Callable[[Any], None], queue: Queue = Queue.SIDE,
             failed: Callable[[Exception], None] | None = None) -> Job:
        """Run something that hears no stop off the interface's thread; stopped, its result is dropped. A fault is told.

        Parameters
        ----------
        text : what is said of it while it runs
        work : what is run off the interface's thread
        use : called with what was found
        queue : in which it waits
        failed : called with what went wrong

        Returns
        -------
        The job.
        """
        def heedful(job: Job) -> Any:
            job.cancel.raise_if_cancelled()
            found = work()
            job.cancel.raise_if_cancelled()
            return found

        return self.jobs.run(queue, text, heedful, use, failed or self.show_error)

    def search(self, text: str, work: Callable[[Job], Any], use: Callable[[Any], None], failed: Callable[[Exception], None]) -> Job:
        """Run a search, which hears its job's stop.

        Parameters
        ----------
        text : what is said of it while it runs
        work : what is run off the interface's thread
        use : called with what was found
        failed : called with what went wrong

        Returns
        -------
        The job.
        """
        return self.jobs.run(Queue.SEARCH, text, work, use, failed)

    def from_worker(self, act: Callable[[], None]) -> None:
        """Have something done on the interface's thread.

        Parameters
        ----------
        act : what is done
        """
        self._deliver(lambda: None if self._closed else act())
