"""While something runs: progress on the error stream, a stop that keeps the best, and the exit code."""

from __future__ import annotations

import signal
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING, Any

import click

from yapa.cli.exit_codes import DONE, INTERRUPTED, NOT_CONVERGED, TERMINATED
from yapa.cli.streams import is_quiet

if TYPE_CHECKING:
    from yapa.fitting import Cancel, Progress


class Watch:
    """What runs: its progress, the flag that stops it, and the signal that did."""

    def __init__(self, cancel: Cancel, progress: Callable[[Progress], None], runs: Callable[[int, int], None]) -> None:
        self.cancel, self.progress, self.runs = cancel, progress, runs
        self.signal: int | None = None

    @property
    def stopped(self) -> int | None:
        """The exit code of a stop, None if there was none."""
        return None if self.signal is None else TERMINATED if self.signal == signal.SIGTERM else INTERRUPTED

    def exit_code(self, status: str) -> int:
        """Return the exit code for the status of a fit or a search.

        Parameters
        ----------
        status : how it ended
        """
        if self.stopped is not None:
            return self.stopped
        return {"converged": DONE, "complete": DONE, "cancelled": INTERRUPTED}.get(status, NOT_CONVERGED)

    def leave_if_stopped(self) -> None:
        """End the command with the code of the stop, if there was one."""
        if self.stopped is not None:
            click.echo("stopped", err=True)
            sys.exit(self.stopped)


class _Bar:
    """A line of progress on a terminal; nothing elsewhere, where what draws it need not even be imported."""

    def __init__(self, doing: str) -> None:
        self._bar: Any = None
        if not sys.stderr.isatty() or is_quiet():
            return
        from yapa.api import drawn_bar

        self._bar, self._task = drawn_bar(doing)

    def show(self, fraction: float, words: str) -> None:
        """How far it is, and what it does."""
        if self._bar is not None:
            self._bar.update(self._task, completed=fraction, description=words)

    def __enter__(self) -> _Bar:
        if self._bar is not None:
            self._bar.start()
        return self

    def __exit__(self, *_: object) -> None:
        if self._bar is not None:
            self._bar.stop()


@contextmanager
def watched(doing: str = "fitting") -> Iterator[Watch]:
    """Return progress on a terminal, none in a pipe; Ctrl+C and SIGTERM stop with the best so far.

    Parameters
    ----------
    doing : what is done, in words
    """
    from yapa.api import Cancel, entries, stoppable, words_of

    entries()  # compiled now if it never was, and said, before anything is timed or shown
    cancel, bar = Cancel(), _Bar(doing)

    def progress(p: Progress) -> None:
        bar.show(p.fraction, words_of(p))

    def runs(done: int, every: int) -> None:
        bar.show(done / max(every, 1), f"{done} of {every} runs")

    watch = Watch(cancel, progress, runs)

    def stop(number: int, _frame: object) -> None:
        watch.signal = watch.signal or number
        cancel.set()

    before = {s: signal.signal(s, stop) for s in (signal.SIGINT, signal.SIGTERM)}
    try:
        with bar, stoppable(cancel.flag):
            yield watch
    finally:
        for s, old in before.items():
            signal.signal(s, old)
