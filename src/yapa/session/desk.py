"""The desk: the document that is open, its history, the values under the hand, and what is under way for it.

Everything the mouse can do is a method here, without a screen. The desk announces changes; a window listens and draws. Looks, fits,
files and trials each have a lane of their own (``jobs``); what they find is heard through ``deliver``, on the thread of the
interface. A result belongs to the document it was begun for, known by its identity, and is dropped where that is gone.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from itertools import count
from pathlib import Path
from typing import Any

from psygnal import Signal

from yapa import trials
from yapa.case import (
    Case,
    Target,
    Track,
    Trial,
    Unknown,
    check_values,
    get_number,
    has_number,
    label_of,
    quantity_of,
    with_numbers,
)
from yapa.case.paths import with_ties
from yapa.case.store import checked
from yapa.errors import YapaError, bad_input
from yapa.files import FileStamp
from yapa.fitting import Cancel, FitResult, Progress
from yapa.fitting import fit as find_numbers
from yapa.fitting.problem import Cancelled, check_evidence
from yapa.formats.any_track import read_any
from yapa.formats.case_file import ChangedError, Loaded, OutsideError, load, save
from yapa.formats.csv_track import TrackFile
from yapa.formats.importing import Said
from yapa.formats.roles import Questions
from yapa.report.picture import Looker, Picture
from yapa.session.fit_end import FitEnd, merge
from yapa.session.history import History
from yapa.session.jobs import Deliver, Job, Jobs, Lane, in_words
from yapa.session.recovery import Autosave, Kept, Recovery

Fitter = Callable[[Case, Callable[[Progress], None], Cancel], FitResult]
PROGRESS_PAUSE = 0.05
"""s between two reports of a fit"""
_NUMBERS = count(1)


@dataclass(eq=False)
class Document:
    """One open case, from its opening until another takes its place. Known by its identity."""

    history: History[Case]
    path: Path | None = None
    stamp: FileStamp | None = None
    number: int = field(default_factory=lambda: next(_NUMBERS))

    @property
    def case(self) -> Case:
        """The case as it is now."""
        return self.history.state


@dataclass(eq=False)
class RunningFit:
    """A fit that is under way for a document."""

    document: Document
    start: Case
    job: Job | None = None
    told: float = 0.0


class Desk:
    """What is open, and what can be done with it."""

    case_changed = Signal()
    history_changed = Signal()
    looked = Signal(object)
    playhead_moved = Signal(float)
    compared = Signal(object)
    fit_started = Signal()
    fit_progressed = Signal(object)
    fit_ended = Signal(object)
    trouble = Signal(str)
    said = Signal(str)
    changed_on_disk = Signal(object)
    """A path at which something else stands than what was read."""
    outside_asked = Signal(object)
    """An :class:`OutsideQuestion`."""

    def __init__(self, deliver: Deliver, recovery: Recovery | None = None, fit: Fitter = find_numbers, pause: float = 1.0) -> None:
        self._deliver = deliver
        self._fit = fit
        self.jobs = Jobs(deliver)
        self.document: Document | None = None
        self.live: dict[str, float] = {}
        self.picture: Picture | None = None
        self.compare: Picture | None = None
        self.compare_name = ""
        self.result: FitResult | None = None
        self.playhead = 0.0
        self._running: RunningFit | None = None
        self._looker: tuple[Case, Looker] | None = None
        self._looking = False
        self._again = False
        self._look_job: Job | None = None
        self._look_case: Case | None = None
        self._ledger_job: Job | None = None
        self._asked: object = None
        """What was last asked to be opened, until something is."""
        self._closed = False
        self.autosave = Autosave(recovery, lambda text: deliver(lambda: self._complain(text)), pause) if recovery else None
        self.latencies: list[tuple[float, float]] = []
        self.asked_at = 0.0

    def _complain(self, text: str) -> None:
        if not self._closed:
            self.trouble.emit(text)

    # -- the document ----------------------------------------------------------------------------

    @property
    def case(self) -> Case | None:
        """The case that is open."""
        return None if self.document is None else self.document.case

    @property
    def path(self) -> Path | None:
        """Where it is saved."""
        return None if self.document is None else self.document.path

    @property
    def opened(self) -> int:
        """The number of the document that is open; 0 where none is."""
        return 0 if self.document is None else self.document.number

    @property
    def is_clean(self) -> bool:
        """Whether nothing would be lost by leaving."""
        return self.document is None or self.document.history.is_clean

    def open_case(self, case: Case, path: Path | None = None, stamp: FileStamp | None = None, changed: bool = False) -> None:
        """Take a case as the document that is open; a first trial keeps how it came.

        Parameters
        ----------
        stamp : of the file at ``path``
        changed : the case holds what the file does not
        """
        self.stop_fit()
        self._drop_fit()
        self._asked = None
        self.document = Document(History(case), path, stamp)
        if changed:
            self.document.history.mark_changed()
        elif self.autosave is not None:
            self.autosave.forget()
        self.live, self.result, self.compare, self.picture = {}, None, None, None
        self.playhead = 0.0
        self._changed()
        self.compared.emit(None)
        self._note_set_up()

    def _note_set_up(self) -> None:
        """The first trial, once it is known; no edit, and nothing to be saved for its own sake."""
        document, case = self.document, self.case
        if document is None or case is None or case.trials:
            return

        def done(trial: Trial) -> None:
            self._amend(document, case, lambda c: c.model_copy(update={"trials": (trial, *c.trials)}))

        self.jobs.run(Lane.LEDGER, lambda cancel: trials.as_set_up(case, cancel), done, self._ledger_failed)

    def load(self, path: Path, done: Callable[[], None] | None = None, allow_outside: bool = False) -> None:
        """Read a case off the interface's thread and open it; a fault leaves the present case untouched."""
        def use(loaded: Loaded) -> None:
            self.open_case(loaded.case, path, loaded.stamp)
            for notice in loaded.notices:
                self.said.emit(notice)
            if done is not None:
                done()

        def failed(error: Exception) -> None:
            if isinstance(error, OutsideError):
                self.outside_asked.emit(OutsideQuestion(path, error.files, lambda: self.load(path, done, True)))
            else:
                self.trouble.emit(in_words(error))

        self.open_by(lambda: load(path, allow_outside), use, failed)

    def open_by(self, read: Callable[[], Any], use: Callable[[Any], None], failed: Callable[[Exception], None] | None = None
                ) -> None:
        """Read something off the interface's thread and open it; of several that are asked for, the last is opened."""
        asked = self._asked = object()

        def newest(found: Any) -> None:
            if self._asked is asked:  # nothing else was asked for, or opened, meanwhile
                use(found)

        self.work(read, newest, Lane.FILES, failed)

    def save(self, path: Path, overwrite: bool = False) -> bool:
        """Save atomically; a fault is told and nothing is lost. What was changed on the disk is replaced only with
        ``overwrite``."""
        document = self.document
        if document is None:
            return False
        mine = document.path is not None and document.path == path
        try:
            saved, stamp = save(document.case, path, document.path, document.stamp if mine else None, overwrite or not mine)
        except ChangedError:
            self.changed_on_disk.emit(path)
            return False
        except YapaError as error:
            self.trouble.emit(str(error))
            return False
        document.path, document.stamp = path, stamp
        document.history.mark_clean(saved)
        if self.autosave is not None:
            self.autosave.forget()
        self.said.emit(f"saved {path.name}")
        self.history_changed.emit()
        self.case_changed.emit()
        return True

    def recover(self, file: Path) -> bool:
        """Take up the work of a window that ended without saving."""
        if self.autosave is None:
            return False
        try:
            kept = self.autosave.recovery.adopt(file)
        except YapaError as error:
            self.trouble.emit(str(error))
            return False
        self.open_case(kept.case, kept.path, kept.stamp, changed=True)
        return True

    def close(self) -> None:
        """Stop everything; the work is either saved or the person chose to leave it."""
        self.stop_fit()
        self._closed = True
        self.jobs.close()
        if self.autosave is not None:
            self.autosave.close()

    # -- work beside -----------------------------------------------------------------------------

    def work(self, job: Callable[[], Any], use: Callable[[Any], None], lane: Lane = Lane.SIDE,
             failed: Callable[[Exception], None] | None = None) -> Job:
        """Run a job off the interface's thread; its result is used on it, its fault is told."""
        return self.jobs.run(lane, lambda _cancel: job(), use, failed or (lambda error: self.trouble.emit(in_words(error))))

    def search(self, job: Callable[[Cancel], Any], use: Callable[[Any], None], failed: Callable[[Exception], None]) -> Job:
        """Run a job that hears a stop."""
        return self.jobs.run(Lane.SEARCH, job, use, failed)

    def from_worker(self, act: Callable[[], None]) -> None:
        """Have something done on the interface's thread."""
        self._deliver(lambda: None if self._closed else act())

    # -- edits -----------------------------------------------------------------------------------

    def edit(self, after: Case, text: str) -> None:
        """One step that can be undone."""
        if self.document is not None and after is not self.document.case:
            self.document.history.push(after, text)
            self._changed()

    def undo(self) -> None:
        """Take the last step back."""
        if self.document is not None and self.document.history.undo():
            self._changed()

    def redo(self) -> None:
        """Do again what was taken back."""
        if self.document is not None and self.document.history.redo():
            self._changed()

    def mark_clean(self) -> None:
        """Leave what is not saved: the person was asked."""
        if self.document is not None:
            self.document.history.mark_clean()
            if self.autosave is not None:
                self.autosave.forget()
            self.history_changed.emit()

    def _changed(self) -> None:
        """The case is another one now; a look at the old one is of no interest any more."""
        self.live = {}
        if self._look_job is not None and self._look_case is not None and not self._is_shown(self._look_case):
            self._look_job.cancel.set()
        self._keep_safe()
        self.history_changed.emit()
        self.case_changed.emit()
        self.ask_look()

    def _keep_safe(self) -> None:
        document = self.document
        if self.autosave is None or document is None:
            return
        if document.history.is_clean:
            self.autosave.forget()
        else:
            self.autosave.keep(Kept(document.case, document.path, document.stamp))

    def _amend(self, document: Document, known: Case, change: Callable[[Case], Case]) -> None:
        """Change the ledger of every state that shares it with one, without a step: what comes to be known later."""
        if not document.history.amend(lambda state: change(state) if state.trials is known.trials else state):
            return
        if document is self.document:
            self._keep_safe()
            self.case_changed.emit()

    def _is_shown(self, case: Case) -> bool:
        """Whether a case is the one that is open, but for its ledger."""
        return self.case is not None and same_but_ledger(self.case, case)

    def attempt(self, make: Callable[[Case], Case], text: str) -> bool:
        """Make an edit; what cannot be done is said and changes nothing."""
        case = self.case
        if case is None:
            return False
        try:
            after = make(case)
            if after is not case:
                checked(after)
                if after.tracks is not case.tracks or after.targets is not case.targets:
                    check_evidence(after)  # says at once what cannot be used
        except YapaError as error:
            self.trouble.emit(str(error))
            return False
        self.edit(after, text)
        return True

    def set_live(self, values: dict[str, float]) -> None:
        """Values that are under the hand, in place of those that were."""
        self.live = values

    def turn(self, path: str, value: float) -> None:
        """A knob under the hand: every curve follows, nothing is kept yet. A value that can never be is not followed."""
        case = self.case
        if case is None or not has_number(case, path):
            return
        with suppress(YapaError):
            check_values(case, {path: value})
            self.live = {**self.live, path: value}
            self.ask_look()

    def release(self, path: str, value: float) -> None:
        """The knob is let go: one edit, and the 'by hand' trial."""
        self.set_number(path, value)

    def set_number(self, path: str, value: float) -> bool:
        """Set a number of the case by hand."""
        case = self.case
        if case is not None and has_number(case, path) and get_number(case, path) == value:
            self.live = {}
            self.ask_look()
            return True
        return self.set_by_hand(lambda c: with_numbers(c, {path: value}), f"set {label_of(path)}")

    def set_by_hand(self, make: Callable[[Case], Case], text: str) -> bool:
        """An edit of values; the 'by hand' trial joins the ledger as soon as it is known."""
        if not self.attempt(make, text):
            return False
        self._note_by_hand()
        return True

    def _note_by_hand(self) -> None:
        """Evaluate the present values for the ledger, off the interface's thread; only the newest is of interest."""
        document, case = self.document, self.case
        if document is None or case is None:
            return

        def done(trial: Trial) -> None:
            self._amend_from(document, case, trial)

        if self._ledger_job is not None:
            self._ledger_job.cancel.set()  # the hand went on
        self._ledger_job = self.jobs.run(Lane.LEDGER, lambda cancel: trials.hand_trial(case, cancel), done, self._ledger_failed)

    def _ledger_failed(self, error: Exception) -> None:
        if not isinstance(error, Cancelled):
            self.trouble.emit(in_words(error))

    def _amend_from(self, document: Document, known: Case, trial: Trial) -> None:
        """Add a trial of a hand edit to the state it was made of, and to those made of that one: before what joined their ledgers
        since, but not where the hand went on and has, or will have, a newer one."""
        values, before = trials.present_values(known), {id(t) for t in known.trials}

        def change(state: Case) -> Case:
            first = next((k for k, t in enumerate(state.trials) if id(t) not in before and t.origin != "as set up"),
                         len(state.trials))
            newer = state.trials[first:]
            if newer[0].origin == "by hand" if newer else trials.present_values(state) != values:
                return state
            older = trials.add_trial(state.model_copy(update={"trials": state.trials[:first]}), trial).trials
            return state.model_copy(update={"trials": (*older, *newer)})

        if document.history.amend(change, lambda state: same_but_ledger(state, known)) and document is self.document:
            self._keep_safe()
            self.case_changed.emit()

    def free_number(self, path: str) -> bool:
        """Make a number of the case an unknown, within its usual range widened to hold it."""

        def make(case: Case) -> Case:
            if any(u.path == path for u in case.unknowns):
                return replace_unknown(case, path, locked=False)
            q, value = quantity_of(path), get_number(case, path)
            low, high = min(q.low, value), max(q.high, value)
            if path.split(".")[-2:-1] == ["position"]:
                low, high = value - 0.2, value + 0.2
            if q.scale == "log" and value > 0:
                low, high = value / 20, value * 20
            low, high = max(low, q.least), min(high, q.most)
            fresh = Unknown(path=path, low=low, high=high, scale="log" if q.scale == "log" else "linear")
            return case.model_copy(update={"unknowns": (*case.unknowns, fresh)})

        return self.attempt(make, f"free {label_of(path)}")

    def lock(self, path: str, locked: bool) -> bool:
        """Lock an unknown at its value, or let the fit have it again."""
        return self.attempt(lambda c: replace_unknown(c, path, locked=locked), f"{'lock' if locked else 'free'} {label_of(path)}")

    def set_range(self, path: str, low: float, high: float) -> bool:
        """Change the range of an unknown; what else it is stays."""

        def make(case: Case) -> Case:
            old = next(u for u in case.unknowns if u.path == path)
            if not low < high:
                raise bad_input(label_of(path), f"{low:g} .. {high:g}", "a range that rises")
            check_values(case, {path: low})
            check_values(case, {path: high})
            return replace_unknown(case, path, low=low, high=high, scale=old.scale if low > 0 else "linear")

        return self.attempt(make, f"range of {label_of(path)}")

    def remove_unknown(self, path: str) -> bool:
        """Take a card away; the number keeps its value."""
        return self.attempt(
            lambda c: c.model_copy(update={"unknowns": tuple(u for u in c.unknowns if u.path != path)}),
            f"remove {label_of(path)}")

    def add_target(self, target: Target) -> bool:
        """Ask for an outcome."""
        return self.attempt(lambda c: c.model_copy(update={"targets": (*c.targets, target)}), f"want {target.label}")

    def replace_target(self, index: int, target: Target | None) -> bool:
        """Change a target, or take it away."""

        def make(case: Case) -> Case:
            rows = list(case.targets)
            rows[index : index + 1] = [] if target is None else [target]
            return case.model_copy(update={"targets": tuple(rows)})

        return self.attempt(make, "remove target" if target is None else f"want {target.label}")

    def import_track(self, path: Path, body: str, said: Said | None = None,
                     asked: Callable[[Questions], None] | None = None) -> None:
        """Bring a track in as evidence of a body; ``asked`` hears what only a person can say of the file."""
        document = self.document

        def use(read: TrackFile) -> None:
            if self.document is document and self.case is not None:
                self.take_track(path.stem, body, read)

        def failed(error: Exception) -> None:
            if asked is not None and isinstance(error, Questions):
                asked(error)
            else:
                self.trouble.emit(in_words(error))

        self.jobs.run(Lane.FILES, lambda _cancel: read_any(path, None, said), use, failed)

    def take_track(self, name: str, body: str, read: TrackFile) -> bool:
        """Take what was read as a track of a body."""
        case = self.case
        if case is None:
            return False
        taken = {t.name for t in case.tracks}
        name = next(n for n in [name, *(f"{name} {k}" for k in range(2, 99))] if n not in taken)
        last = float(read.samples.t[-1])

        def make(c: Case) -> Case:
            track = Track(name=name, body=body, samples=read.samples, reading=read.how)
            return c.model_copy(update={"tracks": (*c.tracks, track), "duration": max(c.duration, last)})

        if not self.attempt(make, f"bring {name}"):
            return False
        for notice in read.notices:
            self.said.emit(notice)
        return True

    def remove_track(self, name: str) -> bool:
        """Take a track away."""
        return self.attempt(
            lambda c: c.model_copy(update={"tracks": tuple(t for t in c.tracks if t.name != name)}), f"remove {name}")

    # -- trials ----------------------------------------------------------------------------------

    def restore(self, index: int) -> None:
        """Set the values of a trial again."""
        if self.case is None:
            return
        trial = self.case.trials[index]
        known = {p: v for p, v in trial.values.items() if any(u.path == p for u in self.case.unknowns)}
        self.attempt(lambda c: with_numbers(c, known), f"restore {trial.name}")
        self.said.emit(f"restored {trial.name}")

    def compare_with(self, index: int | None) -> None:
        """Lay a trial's motion faintly under the present one."""
        if self.case is None or index is None:
            self.compare, self.compare_name = None, ""
            self.compared.emit(None)
            return
        document, case, trial = self.document, self.case, self.case.trials[index]
        known = {p: v for p, v in trial.values.items() if any(u.path == p for u in case.unknowns)}
        self.compare_name = trial.name

        def use(picture: Picture) -> None:
            if self.document is document:
                self.compare = picture
                self.compared.emit(picture)

        self.work(lambda: Looker(case).look(known), use)

    def change_trial(self, index: int, **changes: Any) -> None:
        """Rename or pin a trial."""

        def make(case: Case) -> Case:
            rows = list(case.trials)
            rows[index] = rows[index].model_copy(update=changes)
            return case.model_copy(update={"trials": tuple(rows)})

        self.attempt(make, "change trial")

    def remove_trial(self, index: int) -> None:
        """Take a trial out of the ledger."""

        def make(case: Case) -> Case:
            rows = list(case.trials)
            del rows[index]
            return case.model_copy(update={"trials": tuple(rows)})

        self.attempt(make, "remove trial")

    def newest_fit(self) -> Trial | None:
        """The last fit whose values the case still has, for whiskers and values."""
        if self.case is None:
            return None
        now = trials.present_values(self.case)
        for trial in reversed(self.case.trials):
            if trial.estimates and all(abs(now.get(p, v) - v) <= 1e-9 * max(1.0, abs(v)) for p, v in trial.values.items()):
                return trial
        return None

    # -- looking ---------------------------------------------------------------------------------

    def ask_look(self) -> None:
        """Simulate at the present values, soon; of many requests only the newest is served."""
        if self.case is None:
            return
        self.asked_at = time.perf_counter()
        if self._looking:
            self._again = True
            return
        self._start_look()

    def _start_look(self) -> None:
        case = self.case
        if case is None:
            return
        self._looking, self._again = True, False
        values, asked = dict(self.live), self.asked_at

        def done(picture: Picture) -> None:
            self._looking = False
            if self._is_shown(case):
                self.picture = picture
                self.looked.emit(picture)
                self.latencies.append((asked, time.perf_counter()))
                del self.latencies[:-2000]
            self._look_again(case)

        def failed(error: Exception) -> None:
            self._looking = False
            if self._is_shown(case) and not isinstance(error, Cancelled):
                self.trouble.emit(in_words(error))
            self._look_again(case)

        self._look_case = case
        self._look_job = self.jobs.run(Lane.LOOK, lambda cancel: self.picture_at(case, values, cancel), done, failed)

    def _look_again(self, case: Case) -> None:
        if self._again or not self._is_shown(case):
            self._start_look()

    def on_look_thread(self, job: Callable[[], Any], done: Callable[[Any, Exception | None], None]) -> None:
        """Run a job where the looks run, in its turn; its result, or its error, is used on the interface's thread."""
        self.jobs.run(Lane.LOOK, lambda _cancel: job(), lambda found: done(found, None), lambda error: done(None, error))

    def picture_at(self, case: Case, values: dict[str, float], cancel: Cancel | None = None) -> Picture:
        """A look at a case; only on the thread of the looks."""
        if self._looker is None or not same_but_ledger(self._looker[0], case):
            self._looker = case, Looker(case)
        return self._looker[1].look(with_ties(case, values), cancel)

    def show_live(self, values: dict[str, float], picture: Picture) -> None:
        """Show values that are under the hand, and the picture that goes with them."""
        self.live, self.picture = values, picture
        self.looked.emit(picture)

    @property
    def looker(self) -> Looker | None:
        """The measured side of the present case, once it has been read."""
        found = self._looker
        return found[1] if found is not None and self._is_shown(found[0]) else None

    # -- fitting ---------------------------------------------------------------------------------

    @property
    def fitting(self) -> bool:
        """Whether a fit of the open document is under way."""
        return self._running is not None

    def start_fit(self) -> bool:
        """Fit the case off the interface's thread."""
        document, case = self.document, self.case
        if document is None or case is None or self.fitting:
            return False
        run = self._running = RunningFit(document, case)

        def progress(p: Progress) -> None:
            now = time.perf_counter()
            if now - run.told > PROGRESS_PAUSE:
                run.told = now
                self._deliver(lambda: self._progressed(run, p))

        def work(cancel: Cancel) -> FitEnd:
            result = self._fit(case, progress, cancel)
            after = with_numbers(case, result.values)
            return FitEnd(case, result, trials.fit_trial(after, result))

        self.fit_started.emit()
        run.job = self.jobs.run(Lane.FIT, work, lambda end: self._take_fit(run, end), lambda error: self._fit_failed(run, error))
        return True

    def _progressed(self, run: RunningFit, p: Progress) -> None:
        if self._closed or run is not self._running:
            return
        if p.values and self._is_shown(run.start):
            self.live = dict(p.values)
            self.ask_look()
        self.fit_progressed.emit(p)

    def _take_fit(self, run: RunningFit, end: FitEnd) -> None:
        """The end of a fit: of the document it was begun for, or of none."""
        if run is not self._running or run.document is not self.document:
            return
        self._running = None
        self.result = end.result
        merged = merge(run.document.case, end)
        self.edit(merged.case, "fit")
        self.fit_ended.emit(end.result)
        if merged.sentence:
            self.said.emit(merged.sentence)

    def _fit_failed(self, run: RunningFit, error: Exception) -> None:
        if run is not self._running:
            return
        self._drop_fit()
        if not isinstance(error, Cancelled):
            self.trouble.emit(in_words(error))
        self.ask_look()

    def _drop_fit(self) -> None:
        """The fit that was under way is no more of this document's."""
        if self._running is not None:
            self._running = None
            self.live = {}
            self.fit_ended.emit(None)

    def stop_fit(self) -> None:
        """Stop; the best so far is kept as a trial."""
        if self._running is not None and self._running.job is not None:
            self._running.job.cancel.set()

    # -- time ------------------------------------------------------------------------------------

    def move_playhead(self, t: float) -> None:
        """Go to a time."""
        end = self.case.duration if self.case is not None else 0.0
        self.playhead = min(max(0.0, t), end)
        self.playhead_moved.emit(self.playhead)


@dataclass(frozen=True)
class OutsideQuestion:
    """A case names files outside its folder: whether to read them. ``allow`` does."""

    path: Path
    files: list[Path]
    allow: Callable[[], None]


_SHOWN = tuple(name for name in Case.model_fields if name not in ("trials", "dismissed", "title", "notes"))


def same_but_ledger(a: Case, b: Case) -> bool:
    """Whether two cases show the same motion beside the same evidence: one was made of the other by its ledger alone."""
    return a is b or all(getattr(a, name) is getattr(b, name) for name in _SHOWN)


def replace_unknown(case: Case, path: str, **changes: Any) -> Case:
    """A case with one unknown changed."""
    rows = tuple(u.model_copy(update=changes) if u.path == path else u for u in case.unknowns)
    return case.model_copy(update={"unknowns": rows})
