"""Trials that come to be known after an edit: how a case came, and what a hand edit gave. They join the ledger without a step."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from yapa.case import Case, Trial
from yapa.case.ledger import present_values
from yapa.session import ledger
from yapa.session.document import Document, same_but_ledger
from yapa.session.jobs import Job, Jobs, Queue
from yapa.session.signals import Signals


class Host(Protocol):
    """What a late trial asks of its desk."""

    @property
    def document(self) -> Document | None:
        """The document that is open."""

    def amended(self, document: Document) -> None:
        """The ledger of a document has grown, without a step.

        Parameters
        ----------
        document : the open document
        """


class LateTrials:
    """Evaluates states for the ledger, off the interface's thread."""

    def __init__(self, signals: Signals, jobs: Jobs, host: Host) -> None:
        self._signals, self._jobs, self._host = signals, jobs, host
        self._job: Job | None = None

    def note_set_up(self) -> None:
        """The first trial, once it is known; no edit, and nothing to be saved for its own sake."""
        document = self._host.document
        if document is None or document.case.trials:
            return
        case = document.case

        def done(trial: Trial) -> None:
            self._amend(document, lambda c: ledger.keep_scene(c.model_copy(update={"trials": (trial, *c.trials)}), trial, case)
                        if c.trials is case.trials else c)

        self._run("evaluating the case", lambda job: ledger.as_set_up(case, job.cancel), done)

    def note_by_hand(self) -> None:
        """The trial of a hand edit; only the newest is of interest."""
        document = self._host.document
        if document is None:
            return
        case = document.case
        if self._job is not None:
            self._job.cancel.set()  # the hand went on
        self._job = self._run("evaluating the edit", lambda job: ledger.hand_trial(case, job.cancel),
                              lambda trial: self._join(document, case, trial))

    def _run(self, text: str, work: Callable[[Job], Trial], done: Callable[[Trial], None]) -> Job:
        return self._jobs.run(Queue.LEDGER, text, work, done, self._signals.show_error)

    def _amend(self, document: Document, change: Callable[[Case], Case],
               since: Callable[[Case], bool] = lambda _state: True) -> None:
        if document.history.amend(change, since):
            self._host.amended(document)

    def _join(self, document: Document, known: Case, trial: Trial) -> None:
        """Add a trial of a hand edit to the state it was made of, and to those made of that one: before what joined their ledgers
        since, but not where the hand went on and has, or will have, a newer one."""
        values, before = present_values(known), {id(t) for t in known.trials}

        def change(state: Case) -> Case:
            first = next((k for k, t in enumerate(state.trials) if id(t) not in before and t.source != "as set up"),
                         len(state.trials))
            newer = state.trials[first:]
            if newer[0].source == "by hand" if newer else present_values(state) != values:
                return state
            older = ledger.add_trial(state.model_copy(update={"trials": state.trials[:first]}), trial).trials
            return ledger.keep_scene(state.model_copy(update={"trials": (*older, *newer)}), trial, known)

        self._amend(document, change, lambda state: same_but_ledger(state, known))
