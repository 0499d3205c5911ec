"""Work beside the interface: lanes that do not wait for each other, and results that are heard on the interface's thread.

A lane is one thread that does its jobs in their order. Its thread never keeps the program from ending: closing asks every job to
stop, waits a moment and leaves what does not hear.
"""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable
from enum import StrEnum
from queue import SimpleQueue
from time import monotonic
from typing import Any

from yapa.errors import YapaError
from yapa.fitting.problem import Cancel, Cancelled

log = logging.getLogger("yapa.session")
Deliver = Callable[[Callable[[], None]], None]
"""Has something called on the interface's thread, soon."""
CLOSING = 1.0
"""s that closing waits for jobs that were asked to stop"""


class Lane(StrEnum):
    """What waits for each other."""

    LOOK = "look"
    FIT = "fit"
    FILES = "files"
    SIDE = "side"
    """Comparisons and checks."""
    SEARCH = "search"
    LEDGER = "ledger"
    """Trials of what was edited by hand."""


class Job:
    """One piece of work: whether it is over, and how to stop it."""

    def __init__(self, work: Callable[[Cancel], Any], done: Callable[[Any], None], failed: Callable[[Exception], None]) -> None:
        self.cancel = Cancel()
        self.work, self.done, self.failed = work, done, failed
        self.over = threading.Event()


class Jobs:
    """The lanes of one window."""

    def __init__(self, deliver: Deliver) -> None:
        self._deliver = deliver
        self._queues: dict[Lane, SimpleQueue[Job | None]] = {}
        self._threads: list[threading.Thread] = []
        self._open: set[Job] = set()
        self._lock = threading.Lock()
        self._closed = False

    def run(self, lane: Lane, work: Callable[[Cancel], Any], done: Callable[[Any], None],
            failed: Callable[[Exception], None]) -> Job:
        """Do work in a lane. Exactly one of ``done`` and ``failed`` is called with its end, on the interface's thread."""
        job = Job(work, done, failed)
        with self._lock:
            if self._closed:
                job.cancel.set()
                job.over.set()
                return job
            self._open.add(job)
            if lane not in self._queues:
                self._queues[lane] = SimpleQueue()
                thread = threading.Thread(target=self._live, args=(self._queues[lane],), name=f"yapa {lane}", daemon=True)
                self._threads.append(thread)
                thread.start()
            self._queues[lane].put(job)
        return job

    @property
    def idle(self) -> bool:
        """Whether no job is under way or waiting."""
        with self._lock:
            return not self._open

    def close(self, wait: float = CLOSING) -> None:
        """Ask every job to stop, and wait a moment; nothing is heard of any from now on."""
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
            found = job.work(job.cancel)
        except Exception as error:
            if not isinstance(error, YapaError | Cancelled):
                log.exception("a job failed")
            self._end(job, lambda error=error: job.failed(error))  # type: ignore[misc]
            return
        self._end(job, lambda: job.done(found))

    def _end(self, job: Job, tell: Callable[[], None]) -> None:
        def heard() -> None:
            with self._lock:
                self._open.discard(job)
                closed = self._closed
            job.over.set()
            if not closed:
                tell()

        self._deliver(heard)


def in_words(error: Exception) -> str:
    """An error as a sentence for the person, whatever it is."""
    if isinstance(error, YapaError):
        return str(error)
    if isinstance(error, MemoryError):
        return "there was not enough memory for it; the case is untouched"
    return f"something unexpected went wrong ({type(error).__name__}: {error}); the case is untouched"
