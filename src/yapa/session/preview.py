"""The preview: the case at the values under the hand, beside its evidence, and a trial laid beside it.

Of many requests only the newest is served. A comparison is made in the queue of looks, never on the interface's thread.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from contextlib import suppress
from typing import Any

from yapa.case import Case, check_values, get_number, has_number
from yapa.case.changed_numbers import with_links
from yapa.errors import YapaError
from yapa.fitting.problem.cancel import Cancel
from yapa.session.beats import Beat, ContactChoice, beats_of
from yapa.session.chance import chance_from
from yapa.session.comparison import Comparison, ComparisonBuilder
from yapa.session.document import Document, same_but_ledger
from yapa.session.jobs import Job, Jobs, Queue
from yapa.session.signals import Signals
from yapa.session.traces import Choice

KEPT_LATENCIES = 2000
"""how many are kept, for the median"""
BUDGET = 0.025
"""s of computing that a run may take while the hand moves something"""


class Preview:
    """What is shown of the document that is open.

    Attributes
    ----------
    values : path → value under the hand, in place of the case's own
    draft : the case as the hand has it, in place of the document's
    whole : the newest comparison whose run went on to the end of the clip
    chance : body → from when on chance decides where it is [s]; None where that has not been tried for what is shown
    comparison : the newest at the present values; None before the first
    other, other_name : a trial laid beside, and its name
    trace_choice : which curves are shown over time; None: the usual ones
    steps : motions one step of the number under the hand less and more, while it is pressed
    contact_choice : which contacts are shown on the time axis and heard
    latencies : (asked, known) of the newest looks [s of ``perf_counter``]
    """

    def __init__(self, signals: Signals, jobs: Jobs, document: Callable[[], Document | None]) -> None:
        self._signals, self._jobs, self._document = signals, jobs, document
        self.values: dict[str, float] = {}
        self.draft: Case | None = None
        self.comparison: Comparison | None = None
        self.whole: Comparison | None = None
        self.chance: dict[str, float] | None = None
        self.other: Comparison | None = None
        self.other_name = ""
        self.trace_choice: tuple[Choice, ...] | None = None
        self.steps: list[Comparison] = []
        self._stepped: tuple[str, float] | None = None
        self.contact_choice = ContactChoice()
        self._beats: tuple[Comparison, ContactChoice, list[Beat]] | None = None
        self.latencies: list[tuple[float, float]] = []
        self.requested_at = 0.0
        self._builder: tuple[Case, ComparisonBuilder] | None = None
        self._job: Job | None = None
        self._job_case: Case | None = None
        self._again = False
        self._job_gives_way = False

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

    @property
    def beats(self) -> list[Beat]:
        """The contacts that are chosen, of what is shown; measured and simulated ones matched."""
        shown, choice = self.comparison, self.contact_choice
        if shown is None:
            return []
        if self._beats is None or self._beats[0] is not shown or self._beats[1] != choice:
            self._beats = shown, choice, shown.beats if choice == ContactChoice() else beats_of(shown.motion, shown.seen, choice)
        return self._beats[2]

    def choose_contacts(self, choice: ContactChoice) -> None:
        """Show and hear other contacts.

        Parameters
        ----------
        choice : which contacts
        """
        self.contact_choice = choice
        self._signals.contacts_chosen.emit()

    def choose_traces(self, choice: Sequence[Choice] | None) -> None:
        """Show other curves over time.

        Parameters
        ----------
        choice : bodies and quantities, in their order; None: the usual ones
        """
        self.trace_choice = None if choice is None else tuple(choice)
        self.request()

    def clear(self) -> None:
        """Another document is open: nothing of the last one is shown."""
        self.contact_choice = ContactChoice()
        self.trace_choice = None
        self.show_steps(None)
        self.values, self.draft = {}, None
        self.comparison = self.whole = self.other = None
        self.chance = None
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

    def show_steps(self, path: str | None, step: float = 0.0) -> None:
        """Show, beside the present curves, those with a number one step less and more; None: none any more.

        Parameters
        ----------
        path : path of the number
        step : how far aside [its unit]
        """
        self._stepped = None if path is None else (path, step)
        if path is None and self.steps:
            self.steps = []
            self._signals.steps_changed.emit()
        elif path is not None:
            self._look_aside()

    def _look_aside(self) -> None:
        """Run one step aside of what is shown, both ways; the newest wish is served."""
        case, stepped = self.case, self._stepped
        if case is None or stepped is None or not has_number(case, stepped[0]):
            return
        path, step = stepped
        values = dict(self.values)
        here = values.get(path, get_number(case, path))

        def work(job: Job) -> list[Comparison]:
            out = []
            for value in (here - step, here + step):
                with suppress(YapaError):
                    check_values(case, {path: value})
                    out.append(self.evaluate(case, {**values, path: value}, job.cancel))
            return out

        def use(found: list[Comparison]) -> None:
            if self._stepped == stepped and self._is_shown(case):
                self.steps = found
                self._signals.steps_changed.emit()
                if self.values != values:  # it was turned meanwhile
                    self._look_aside()

        self._jobs.run(Queue.LOOK, "looking one step aside", work, use, lambda _error: None)

    def try_case(self, draft: Case | None) -> None:
        """Show the case as the hand has it; nothing is kept yet.

        Parameters
        ----------
        draft : the case; None: that of the document
        """
        self.draft = draft
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
        self.values, self.comparison, self.chance = values, comparison, None
        self._signals.comparison_changed.emit(comparison)

    def request(self) -> None:
        """Simulate at the present values, soon."""
        if self.case is None:
            return
        self.requested_at = time.perf_counter()
        self.chance = None
        if self._job is not None:
            self._again = True
            if self._job_gives_way:
                self._job.cancel.set()
            return
        self._start()

    def look_for_chance(self) -> None:
        """Run what is shown twice more, every start moved a little, to see from when on chance decides; the hand stops it."""
        case, comparison = self.draft or self.case, self.comparison
        if case is None or comparison is None or comparison.motion.is_unfinished:
            return
        if self._job is not None or self.chance is not None:
            return
        shown, values = self.case, dict(self.values)

        def work(job: Job) -> dict[str, float]:
            return chance_from(case, values, comparison.motion, job.cancel)

        def use(found: dict[str, float]) -> None:
            if self.comparison is comparison:
                self.chance = found
                self._signals.chance_changed.emit()

        self._run_look(shown, "looking where chance decides", work, use, gives_way=True)

    def drop_stale(self) -> None:
        """The case is another one now: a look at the old one is of no interest any more."""
        self.values, self.draft = {}, None
        if self._job is not None and self._job_case is not None and not self._is_shown(self._job_case):
            self._job.cancel.set()

    def evaluate(self, case: Case, values: dict[str, float], cancel: Cancel | None = None, budget: float | None = None
                 ) -> Comparison:
        """Return a comparison at these values; only in the queue of looks.

        Parameters
        ----------
        case : the case
        values : path → value, SI units
        cancel : stops the work where it is set
        budget : seconds of computing that the run may take
        """
        if self._builder is None or not same_but_ledger(self._builder[0], case):
            self._builder = case, ComparisonBuilder(case)
        self._builder[1].trace_choice = self.trace_choice
        return self._builder[1].at(with_links(case, values), cancel, budget)

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
        index : which trial of the ledger, from 0; None for none
        """
        document = self._document()
        if document is None or index is None or index >= len(document.case.trials):  # a card may outlive its trial
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
            if self._document() is document:
                self._signals.show_error(error)

        self._jobs.run(Queue.SIDE, f"comparing with {trial.name}",
                       lambda job: ComparisonBuilder(case).at(known, job.cancel), use, failed)

    def _start(self, whole: bool = False) -> None:
        case, draft = self.case, self.draft
        if case is None:
            return
        self._again = False
        values, requested = dict(self.values), self.requested_at
        budget = BUDGET if not whole and (values or draft is not None) else None

        def work(job: Job) -> Comparison:
            if draft is not None:
                return ComparisonBuilder(draft).at({}, job.cancel, budget, brief=True)
            return self.evaluate(case, values, job.cancel, budget)

        def use(comparison: Comparison) -> None:
            if self._is_shown(case):
                self.latencies.append((requested, time.perf_counter()))
                del self.latencies[:-KEPT_LATENCIES]
                self.comparison = comparison
                if not comparison.motion.is_unfinished:
                    self.whole = comparison
                self._signals.comparison_changed.emit(comparison)
                if comparison.motion.is_unfinished and self._job is None:
                    self._start(whole=True)

        self._run_look(case, "simulating", work, use, gives_way=whole)

    def _run_look(self, case: Case | None, text: str, work: Callable[[Job], Any], use: Callable[[Any], None], gives_way: bool
                  ) -> None:
        """Run a job of looks; after it what was asked for meanwhile. One that gives way is stopped by the next wish."""
        def done(found: Any) -> None:
            self._job = None
            self._go_on(case)  # what was asked for meanwhile is computed while this is drawn
            use(found)

        def failed(error: Exception) -> None:
            self._job = None
            if case is not None and self._is_shown(case):
                self._signals.show_error(error)
            self._go_on(case)

        self._job_case, self._job_gives_way = case, gives_way
        self._job = self._jobs.run(Queue.LOOK, text, work, done, failed)

    def _go_on(self, case: Case | None) -> None:
        if self._job is None and (self._again or case is None or not self._is_shown(case)):
            self._start()

    def _is_shown(self, case: Case) -> bool:
        document = self._document()
        return document is not None and document.shows(case)
