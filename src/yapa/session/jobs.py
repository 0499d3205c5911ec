"""Work beside the interface: named queues that do not wait for each other, and results that are heard on the interface's thread.

A queue is one thread that does its jobs in their order. Its thread never keeps the program from ending: closing asks every job to
stop, waits a moment and leaves what does not hear. Every job says what it does and how far it is, and can be cancelled, whether it
is under way or still waits.
"""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable
from enum import StrEnum
from queue import SimpleQueue
from time import monotonic
from typing import TYPE_CHECKING, Any

from yapa.errors import YapaError
from yapa.fitting.problem.cancel import Cancel, Cancelled

if TYPE_CHECKING:
    from yapa.session.faults import Faults, State

log = logging.getLogger("yapa.session")
Deliver = Callable[[Callable[[], None]], None]
"""Has something called on the interface's thread, soon."""
CLOSING = 1.0
"""s that closing waits for jobs that were asked to stop"""


class Queue(StrEnum):
    """What waits for each other."""

    LOOK = "look"
    FIT = "fit"
    FILES = "files"
    SIDE = "side"
    """Comparisons and checks."""
    SEARCH = "search"
    IDLE = "idle"
    """What is looked for while nothing is to be done."""
    LEDGER = "ledger"
    """Trials of what was edited by hand."""


class Job:
    """One piece of work: what it does, how far it is, whether it is over, and how to stop it.

    Attributes
    ----------
    queue, text : where it runs, and what it does in words
    fraction : how much of it is done, 0 to 1; None where that is not known
    begun : when it was asked for [s of ``monotonic``]
    """

    def __init__(self, queue: Queue, text: str, work: Callable[[Job], Any], done: Callable[[Any], None],
                 failed: Callable[[Exception], None], moved: Callable[[], None]) -> None:
        self.cancel = Cancel()
        self.queue, self.text = queue, text
        self.fraction: float | None = None
        self.begun = monotonic()
        self.work, self.done, self.failed = work, done, failed
        self.over = threading.Event()
        self.began_with: State | None = None
        self._moved = moved

    def report_progress(self, fraction: float, text: str | None = None) -> None:
        """Say how far the work is, from the thread that does it.

        Parameters
        ----------
        fraction : fraction of it, from 0 to 1
        text : the text
        """
        self.fraction, self.text = fraction, text or self.text
        self._moved()


class Jobs:
    """The queues of one window.

    Parameters
    ----------
    changed : called on the interface's thread when a job has begun, moved on or ended
    faults : hears what was not raised on purpose, and says what it did to the case; None: such a fault is logged alone
    """

    def __init__(self, deliver: Deliver, changed: Callable[[], None] = lambda: None, faults: Faults | None = None) -> None:
        self._deliver = deliver
        self._changed = changed
        self._faults = faults
        self._queues: dict[Queue, SimpleQueue[Job | None]] = {}
        self._threads: list[threading.Thread] = []
        self._open: dict[Job, None] = {}
        self._lock = threading.Lock()
        self._closed = False

    def run(self, queue: Queue, text: str, work: Callable[[Job], Any], done: Callable[[Any], None],
            failed: Callable[[Exception], None]) -> Job:
        """Do work in a queue. Exactly one of ``done`` and ``failed`` is called with its end, on the interface's thread.

        Parameters
        ----------
        queue : in which it waits
        done : called when it is done
        failed : called with what went wrong
        text : what it does, in words
        work : the work; it looks at the job's ``cancel``, and tells the job how far it is

        Returns
        -------
        The job.
        """
        job = Job(queue, text, work, done, failed, lambda: self._deliver(self._notify))
        job.began_with = None if self._faults is None else self._faults.state()
        with self._lock:
            if self._closed:
                job.cancel.set()
                job.over.set()
                return job
            self._open[job] = None
            if queue not in self._queues:
                self._queues[queue] = SimpleQueue()
                thread = threading.Thread(target=self._live, args=(self._queues[queue],), name=f"yapa {queue}", daemon=True)
                self._threads.append(thread)
                thread.start()
            self._queues[queue].put(job)
        self._changed()
        return job

    def under_way(self, *queues: Queue) -> list[Job]:
        """Return jobs that are under way or wait, of these queues (of all, where none is named), the oldest first.

        Parameters
        ----------
        queues : which queues; all where none is named
        """
        with self._lock:
            return [job for job in self._open if not queues or job.queue in queues]

    def cancel(self, *queues: Queue) -> None:
        """Ask every job of these queues to stop.

        Parameters
        ----------
        queues : which queues; all where none is named
        """
        for job in self.under_way(*queues):
            job.cancel.set()

    def _notify(self) -> None:
        if not self._closed:
            self._changed()

    @property
    def idle(self) -> bool:
        """Whether no job is under way or waiting."""
        with self._lock:
            return not self._open

    def close(self, wait: float = CLOSING) -> None:
        """Ask every job to stop, and wait a moment; nothing is heard of any from now on.

        Parameters
        ----------
        wait : how long to wait [s]
        """
        with self._lock:
            self._closed = True
            for job in self._open:
                job.cancel.set()
            for queue in self._queues.values():
                queue.put(None)
        end = monotonic() + wait
        for thread in self._threads:
            thread.join(max(0.0, end - monotonic()))

    def _live(self, queue: SimpleQueue[Job | None]) -> None:
        while (job := queue.get()) is not None:
            self._do(job)
            del job  # its result is not kept until the next one comes

    def _do(self, job: Job) -> None:
        try:
            if self._closed:
                return
            found = job.work(job)
        except Exception as error:
            self._end(job, lambda error=error: self._fail(job, error))  # type: ignore[misc]
            return
        self._end(job, lambda: job.done(found))

    def _fail(self, job: Job, error: Exception) -> None:
        """On the interface's thread: a fault is heard before what waited for the job is told of it."""
        if not isinstance(error, YapaError | Cancelled | MemoryError):
            if self._faults is not None:
                self._faults.hear(error, job.text, job.began_with)
            else:
                log.error("a job failed: %s", job.text, exc_info=error)
        job.failed(error)

    def _end(self, job: Job, tell: Callable[[], None]) -> None:
        def finish() -> None:
            with self._lock:
                self._open.pop(job, None)
                closed = self._closed
            job.over.set()
            if not closed:
                tell()
                self._changed()

        self._deliver(finish)


def in_words(error: Exception) -> str:
    """Return an error as a sentence for the person, whatever it is.

    Parameters
    ----------
    error : what was raised
    """
    if isinstance(error, YapaError):
        return str(error)
    if isinstance(error, MemoryError):
        return "there was not enough memory for it"
    return f"something unexpected went wrong ({type(error).__name__}: {error})"
