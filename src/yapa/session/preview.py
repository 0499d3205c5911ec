"""The preview: the case at the values under the hand, beside its evidence, and a trial laid beside it.

Of many requests only the newest is served. A comparison is made in the queue of looks, never on the interface's thread.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from yapa.case import Case, check_values, has_number
from yapa.case.changed_numbers import with_links
from yapa.errors import YapaError
from yapa.fitting.problem.cancel import Cancel, Cancelled
from yapa.session.comparison import Comparison, ComparisonBuilder
from yapa.session.document import Document, same_but_ledger
from yapa.session.jobs import Job, Jobs, Queue, in_words
from yapa.session.signals import Signals

KEPT_LATENCIES = 2000
"""how many are kept, for the median"""


class Preview:
    """What is shown of the document that is open.

    Attributes
    ----------
    values : path → value under the hand, in place of the case's own
    comparison : the newest at the present values; None before the first
    other, other_name : a trial laid beside, and its name
    latencies : (asked, known) of the newest looks [s of ``perf_counter``]
    """

    def __init__(self, signals: Signals, jobs: Jobs, document: Callable[[], Document | None]) -> None:
        self._signals, self._jobs, self._document = signals, jobs, document
        self.values: dict[str, float] = {}
        self.comparison: Comparison | None = None
        self.other: Comparison | None = None
        self.other_name = ""
        self.latencies: list[tuple[float, float]] = []
        self.requested_at = 0.0
        self._builder: tuple[Case, ComparisonBuilder] | None = None
        self._job: Job | None = None
        self._job_case: Case | None = None
        self._again = False

    @property
    def case(self) -> Case | None:
        """The case that is shown."""
        document = self._document()
        return None if document is None else document.case

    @property
    def builder(self) -> ComparisonBuilder | None:
        """The measured side of the present case, once it has been read."""
        found = self._builder
        return found[1] if found is not None and self._is_shown(found[0]) else None

    def clear(self) -> None:
        """Another document is open: nothing of the last one is shown."""
        self.values, self.comparison, self.other = {}, None, None
        self._signals.beside_changed.emit(None)

    def preview_value(self, path: str, value: float) -> None:
        """A knob under the hand: every curve follows, nothing is kept yet. A value that can never be is not followed.

        Parameters
        ----------
        path : path of the number
        value : its value
        """
        case = self.case
        if case is None or not has_number(case, path):
            return
        with suppress(YapaError):
            check_values(case, {path: value})
            self.values = {**self.values, path: value}
            self.request()

    def set(self, values: dict[str, float]) -> None:
        """Values that are under the hand, in place of those that were.

        Parameters
        ----------
        values : path → value, SI units
        """
        self.values = values
        self.request()

    def show(self, values: dict[str, float], comparison: Comparison) -> None:
        """Show values that are under the hand, and the comparison that goes with them.

        Parameters
        ----------
        values : path → value, SI units
        comparison : simulated beside measured
        """
        self.values, self.comparison = values, comparison
        self._signals.comparison_changed.emit(comparison)

    def request(self) -> None:
        """Simulate at the present values, soon."""
        if self.case is None:
            return
        self.requested_at = time.perf_counter()
        if self._job is not None:
            self._again = True
            return
        self._start()

    def drop_stale(self) -> None:
        """The case is another one now: a look at the old one is of no interest any more."""
        self.values = {}
        if self._job is not None and self._job_case is not None and not self._is_shown(self._job_case):
            self._job.cancel.set()

    def evaluate(self, case: Case, values: dict[str, float], cancel: Cancel | None = None) -> Comparison:
        """Return a comparison at these values; only in the queue of looks.

        Parameters
        ----------
        case : the case
        values : path → value, SI units
        cancel : stops the work where it is set
        """
        if self._builder is None or not same_but_ledger(self._builder[0], case):
            self._builder = case, ComparisonBuilder(case)
        return self._builder[1].at(with_links(case, values), cancel)

    def run(self, text: str, work: Callable[[Job], Any], done: Callable[[Any, Exception | None], None]) -> Job:
        """Run a job where the looks run, in its turn; its result, or its error, is used on the interface's thread.

        Parameters
        ----------
        text : the text
        work : what is run off the interface's thread
        done : called when it is done

        Returns
        -------
        The job.
        """
        return self._jobs.run(Queue.LOOK, text, work, lambda found: done(found, None), lambda error: done(None, error))

    def lay_beside(self, index: int | None) -> None:
        """Lay a trial's motion faintly under the present one; None: nothing.

        Parameters
        ----------
        index : which of a numbered outcome, from 1
        """
        document = self._document()
        if document is None or index is None:
            self.other, self.other_name = None, ""
            self._signals.beside_changed.emit(None)
            return
        case, trial = document.case, document.case.trials[index]
        known = {p: v for p, v in trial.values.items() if any(u.path == p for u in case.unknowns)}
        self.other_name = trial.name

        def use(comparison: Comparison) -> None:
            if self._document() is document:
                self.other = comparison
                self._signals.beside_changed.emit(comparison)

        def failed(error: Exception) -> None:
            if self._document() is document and not isinstance(error, Cancelled):
                self._signals.error.emit(in_words(error))

        self._jobs.run(Queue.SIDE, f"comparing with {trial.name}",
                       lambda job: ComparisonBuilder(case).at(known, job.cancel), use, failed)

    def _start(self) -> None:
        case = self.case
        if case is None:
            return
        self._again = False
        values, requested = dict(self.values), self.requested_at

        def done(comparison: Comparison) -> None:
            self._job = None
            if self._is_shown(case):
                self.latencies.append((requested, time.perf_counter()))
                del self.latencies[:-KEPT_LATENCIES]
                self.comparison = comparison
                self._signals.comparison_changed.emit(comparison)
            self._go_on(case)

        def failed(error: Exception) -> None:
            self._job = None
            if self._is_shown(case) and not isinstance(error, Cancelled):
                self._signals.error.emit(in_words(error))
            self._go_on(case)

        self._job_case = case
        self._job = self._jobs.run(Queue.LOOK, "simulating", lambda job: self.evaluate(case, values, job.cancel), done, failed)

    def _go_on(self, case: Case) -> None:
        if self._job is None and (self._again or not self._is_shown(case)):
            self._start()

    def _is_shown(self, case: Case) -> bool:
        document = self._document()
        return document is not None and document.shows(case)
