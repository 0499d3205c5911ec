"""The fit of the document that is open: begun, followed, stopped, and its end merged into what the document has become."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

from yapa.case import Case, get_number, has_number, with_numbers
from yapa.fitting import Cancel, FitResult, Progress
from yapa.fitting.confidence.model_errors import Explanation
from yapa.fitting.problem.result import Answer
from yapa.session import ledger
from yapa.session.document import Document
from yapa.session.fit_end import FitEnd, merge
from yapa.session.jobs import Deliver, Job, Jobs, Queue
from yapa.session.preview import Preview
from yapa.session.signals import Signals

__all__ = ["Explanation", "FitJob", "FitResult", "Fitter", "Progress", "RunningFit"]

Fitter = Callable[[Case, Callable[[Progress], None], Cancel], FitResult]
SAME = 1e-9
"""of a value, of one at least: values that differ by less are the same"""
PROGRESS_PAUSE = 0.08
"""s between two reports of a fit"""


def find_numbers(case: Case, progress: Callable[[Progress], None], cancel: Cancel) -> FitResult:
    """Return the fit itself, imported when it is first asked for, in the queue of fits.

    Parameters
    ----------
    case : the case
    progress : called with how far the work is
    cancel : stops the work where it is set
    """
    from yapa.fitting import fit

    return fit(case, progress, cancel)


class Host(Protocol):
    """What a fit asks of its desk."""

    @property
    def document(self) -> Document | None:
        """The document that is open."""

    def edit(self, after: Case, text: str) -> bool:
        """One step that can be undone.

        Parameters
        ----------
        after : the case as it becomes
        text : what undo calls it

        Returns
        -------
        Whether it was taken.
        """


@dataclass(eq=False)
class RunningFit:
    """A fit that is under way for a document."""

    document: Document
    start: Case
    job: Job | None = None
    reported_at: float = 0.0


class FitJob:
    """At most one fit at a time.

    Attributes
    ----------
    fit : finds the numbers
    result : of the last fit of this document, None before one
    """

    def __init__(self, signals: Signals, jobs: Jobs, deliver: Deliver, host: Host, preview: Preview, fit: Fitter) -> None:
        self._signals, self._jobs, self._deliver, self._host, self._preview = signals, jobs, deliver, host, preview
        self.fit = fit
        self._running: RunningFit | None = None
        self.result: FitResult | None = None

    @property
    def running(self) -> bool:
        """Whether a fit of the open document is under way."""
        return self._running is not None

    @property
    def job(self) -> Job | None:
        """The job of the fit that is under way."""
        return None if self._running is None else self._running.job

    def start(self) -> bool:
        """Fit the case off the interface's thread.

        Returns
        -------
        Whether it was started.
        """
        document = self._host.document
        if document is None or self.running:
            return False
        case = document.case
        run = self._running = RunningFit(document, case)

        def work(job: Job) -> FitEnd:
            def progress(p: Progress) -> None:
                now = time.perf_counter()
                if now - run.reported_at > PROGRESS_PAUSE:
                    run.reported_at = now
                    job.report_progress(p.fraction, p.phase)
                    self._deliver(lambda: self._progressed(run, p))

            result = self.fit(case, progress, job.cancel)
            return FitEnd(case, result, ledger.fit_trial(with_numbers(case, result.values), result))

        self._signals.fit_started.emit()
        run.job = self._jobs.run(Queue.FIT, f"fitting {case.title}", work, lambda end: self._take(run, end),
                                 lambda error: self._failed(run, error))
        return True

    def stop(self) -> None:
        """Stop; the best so far is kept as a trial."""
        if self.job is not None:
            self.job.cancel.set()

    @property
    def runner_up(self) -> Answer | None:
        """The nearest other answer of the last fit, while the case stands at what it found; None where there is none."""
        document, result = self._host.document, self.result
        if document is None or result is None or not result.also or self.running:
            return None
        here = all(has_number(document.case, p) and abs(get_number(document.case, p) - v) <= SAME * max(1.0, abs(v))
                   for p, v in result.values.items())
        return result.also[0] if here else None

    def look_at_runner_up(self, on: bool) -> None:
        """Show the nearest other answer as if it were taken, or what was found again.

        Parameters
        ----------
        on : whether it is shown
        """
        answer = self.runner_up
        self._preview.set(dict(answer.values) if on and answer is not None else {})

    def take_runner_up(self) -> bool:
        """Set the values of the nearest other answer, as one step.

        Returns
        -------
        Whether there was one.
        """
        answer, document = self.runner_up, self._host.document
        if answer is None or document is None:
            return False
        self._host.edit(with_numbers(document.case, dict(answer.values)), "take the runner-up")
        return True

    def drop(self) -> None:
        """Another document is open: the fit that was under way is stopped, and no more of this one's."""
        self.stop()
        self._leave()
        self.result = None

    def _progressed(self, run: RunningFit, p: Progress) -> None:
        if run is not self._running:
            return
        if p.values and run.document.shows(run.start):
            self._preview.set(dict(p.values))
        self._signals.fit_progressed.emit(p)

    def _take(self, run: RunningFit, end: FitEnd) -> None:
        """The end of a fit: of the document it was begun for, or of none."""
        if run is not self._running or run.document is not self._host.document:
            return
        self._running = None
        self.result = end.result
        merged = merge(run.document.case, end)
        self._host.edit(merged.case, "fit")
        self._signals.fit_ended.emit(end.result)
        if merged.sentence:
            self._signals.message.emit(merged.sentence)

    def _failed(self, run: RunningFit, error: Exception) -> None:
        if run is not self._running:
            return
        self._leave()
        self._signals.show_error(error)
        self._preview.request()

    def _leave(self) -> None:
        if self._running is not None:
            self._running = None
            self._preview.values = {}
            self._signals.fit_ended.emit(None)
