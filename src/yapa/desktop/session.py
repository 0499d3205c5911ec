"""What is open: the case, its undo history, the values under the hand, and the last look at it.

The session announces changes; widgets listen and draw. Everything the mouse can do is a method
here, so a test or a script can do it without a widget. Looking and fitting run off the interface
thread; while a look is under way only the newest request waits.
"""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QUndoCommand, QUndoStack

from yapa import trials
from yapa.case import Case, Target, Track, Trial, Unknown, get_number, label_of, quantity_of, with_numbers
from yapa.case.model import Case as CaseModel
from yapa.desktop.recovery import Recovery
from yapa.errors import YapaError, bad_input
from yapa.fitting import Cancel, Fit, FitResult, Problem, Progress, fit
from yapa.fitting.takes import with_takes
from yapa.formats.any_track import read_any
from yapa.formats.case_file import load_case, save_case
from yapa.report.picture import Looker, Picture

log = logging.getLogger("yapa.desktop")


class _Edit(QUndoCommand):
    def __init__(self, session: Session, before: Case, after: Case, text: str) -> None:
        super().__init__(text)
        self._session, self._before, self._after = session, before, after

    def redo(self) -> None:
        self._session._put(self._after)

    def undo(self) -> None:
        self._session._put(self._before)


class Session(QObject):
    """One open case."""

    case_changed = Signal()
    looked = Signal(object)
    playhead_moved = Signal(float)
    compared = Signal(object)
    fit_started = Signal()
    fit_progressed = Signal(object)
    fit_ended = Signal(object)
    trouble = Signal(str)
    said = Signal(str)
    _from_worker = Signal(object)

    def __init__(self, recovery: Recovery | None = None) -> None:
        super().__init__()
        self.case: Case | None = None
        self.path: Path | None = None
        self.opened = 0
        self.undo = QUndoStack(self)
        self.live: dict[str, float] = {}
        self.picture: Picture | None = None
        self.compare: Picture | None = None
        self.compare_name = ""
        self.result: FitResult | None = None
        self.playhead = 0.0
        self.recovery = recovery
        self._look_pool = ThreadPoolExecutor(1, thread_name_prefix="look")
        self._work_pool = ThreadPoolExecutor(1, thread_name_prefix="work")
        self._looker: Looker | None = None
        self._looker_case: Case | None = None
        self._looking = False
        self._again: tuple[dict[str, float], float] | None = None
        self._fit_running = False
        self._cancel = Cancel()
        self._closed = False
        self._from_worker.connect(lambda call: None if self._closed else call())
        self._autosave = QTimer(self, interval=1500, singleShot=True)
        self._autosave.timeout.connect(self._write_recovery)
        self.latencies: list[tuple[float, float]] = []
        self.asked_at = 0.0

    # -- opening and saving ----------------------------------------------------------------------

    def open_case(self, case: Case, path: Path | None = None, title: str | None = None) -> None:
        """Take a case as the one that is open; a first trial keeps how it came."""
        self.stop_fit()
        if not case.trials:
            case = trials.add_trial(case, trials.as_set_up(case))
        self.path = path
        self.opened += 1
        self.undo.clear()
        self.live, self.result, self.compare, self.picture = {}, None, None, None
        self.playhead = 0.0
        self._put(case)
        self.undo.setClean()
        self.compared.emit(None)

    def load(self, path: Path, done: Callable[[], None] | None = None) -> None:
        """Read a case off the interface thread and open it; a fault leaves the present case untouched."""

        def read() -> tuple[Case, list[str]]:
            case, notices = load_case(path)
            if not case.trials:
                case = trials.add_trial(case, trials.as_set_up(case))
            return case, notices

        def use(found: tuple[Case, list[str]]) -> None:
            self.open_case(found[0], path)
            for notice in found[1]:
                self.said.emit(notice)
            if done is not None:
                done()

        self.work(read, use)

    def save(self, path: Path) -> bool:
        """Save atomically; a fault is told and nothing is lost."""
        if self.case is None:
            return False
        try:
            saved = save_case(self.case, path, self.path)
        except YapaError as error:
            self.trouble.emit(str(error))
            return False
        self.path = path
        if saved is not self.case:
            self.case = saved
        self.undo.setClean()
        self._forget_recovery()
        self.said.emit(f"saved {path.name}")
        self.case_changed.emit()
        return True

    def work(self, job: Callable[[], Any], use: Callable[[Any], None]) -> Future:
        """Run a job off the interface thread; its result is used on it, its YapaError is told."""

        def run() -> None:
            try:
                found = job()
            except YapaError as error:
                text = str(error)
                self._from_worker.emit(lambda: self.trouble.emit(text))
                return
            except Exception as error:
                log.exception("a job failed")
                text = f"something unexpected went wrong ({type(error).__name__}: {error}); the case is untouched"
                self._from_worker.emit(lambda: self.trouble.emit(text))
                return
            self._from_worker.emit(lambda: use(found))

        return self._work_pool.submit(run)

    # -- edits -----------------------------------------------------------------------------------

    def edit(self, after: Case, text: str) -> None:
        """One undoable edit."""
        if self.case is not None and after is not self.case:
            self.undo.push(_Edit(self, self.case, after, text))

    def _put(self, case: Case) -> None:
        self.case = case
        self.live = {}
        self._autosave.start()
        self.case_changed.emit()
        self.ask_look()

    def _try(self, make: Callable[[Case], Case], text: str) -> bool:
        """Make an edit; what cannot be done is said and changes nothing."""
        if self.case is None:
            return False
        try:
            after = make(self.case)
            after = CaseModel.model_validate(after) if not isinstance(after, CaseModel) else after
            if after.tracks is not self.case.tracks or after.targets is not self.case.targets:
                Problem(after, look_only=True)  # says at once what cannot be used
        except YapaError as error:
            self.trouble.emit(str(error))
            return False
        except ValueError as error:
            self.trouble.emit(str(error).split("\n")[-1])
            return False
        self.edit(after, text)
        return True

    def turn(self, path: str, value: float) -> None:
        """A knob under the hand: every curve follows, nothing is kept yet."""
        self.live = {**self.live, path: value}
        self.ask_look()

    def release(self, path: str, value: float) -> None:
        """The knob is let go: one edit, and the 'by hand' trial."""
        self.set_number(path, value)

    def set_number(self, path: str, value: float) -> bool:
        """Set a number of the case by hand."""

        def make(case: Case) -> Case:
            if get_number(case, path) == value:
                self.live = {}
                return case
            after = with_numbers(case, {path: value})
            return trials.add_trial(after, trials.hand_trial(after))

        return self._try(make, f"set {label_of(path)}")

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
            fresh = Unknown(path=path, low=low, high=high, scale="log" if q.scale == "log" else "linear")
            return case.model_copy(update={"unknowns": (*case.unknowns, fresh)})

        return self._try(make, f"free {label_of(path)}")

    def lock(self, path: str, locked: bool) -> bool:
        """Lock an unknown at its value, or let the fit have it again."""
        return self._try(lambda c: replace_unknown(c, path, locked=locked), f"{'lock' if locked else 'free'} {label_of(path)}")

    def set_range(self, path: str, low: float, high: float) -> bool:
        """Change the range of an unknown."""

        def make(case: Case) -> Case:
            old = next(u for u in case.unknowns if u.path == path)
            if not low < high:
                raise bad_input(label_of(path), f"{low:g} .. {high:g}", "a range that rises")
            scale = old.scale if low > 0 else "linear"
            fresh = Unknown(path=path, low=low, high=high, scale=scale, locked=old.locked)
            return case.model_copy(update={"unknowns": tuple(fresh if u.path == path else u for u in case.unknowns)})

        return self._try(make, f"range of {label_of(path)}")

    def remove_unknown(self, path: str) -> bool:
        """Take a card away; the number keeps its value."""
        return self._try(
            lambda c: c.model_copy(update={"unknowns": tuple(u for u in c.unknowns if u.path != path)}),
            f"remove {label_of(path)}")

    def add_target(self, target: Target) -> bool:
        """Ask for an outcome."""
        return self._try(lambda c: c.model_copy(update={"targets": (*c.targets, target)}), f"want {target.label}")

    def replace_target(self, index: int, target: Target | None) -> bool:
        """Change a target, or take it away."""

        def make(case: Case) -> Case:
            rows = list(case.targets)
            rows[index : index + 1] = [] if target is None else [target]
            return case.model_copy(update={"targets": tuple(rows)})

        return self._try(make, "remove target" if target is None else f"want {target.label}")

    def import_track(self, path: Path, body: str) -> None:
        """Bring a track in as evidence of a body."""

        def use(read: Any) -> None:
            if self.case is None:
                return
            taken = {t.name for t in self.case.tracks}
            name = next(n for n in [path.stem, *(f"{path.stem} {k}" for k in range(2, 99))] if n not in taken)
            track = Track(name=name, body=body, samples=read.samples, reading=read.how)
            last = read.samples.t[-1]
            self._try(lambda c: c.model_copy(update={
                "tracks": (*c.tracks, track), "duration": max(c.duration, float(last))}), f"bring {name}")
            for notice in read.notices:
                self.said.emit(notice)

        self.work(lambda: read_any(path), use)

    def remove_track(self, name: str) -> bool:
        """Take a track away."""
        return self._try(
            lambda c: c.model_copy(update={"tracks": tuple(t for t in c.tracks if t.name != name)}), f"remove {name}")

    # -- trials ----------------------------------------------------------------------------------

    def restore(self, index: int) -> None:
        """Set the values of a trial again."""
        if self.case is None:
            return
        trial = self.case.trials[index]
        known = {p: v for p, v in trial.values.items() if any(u.path == p for u in self.case.unknowns)}
        self._try(lambda c: with_numbers(c, known), f"restore {trial.name}")
        self.said.emit(f"restored {trial.name}")

    def compare_with(self, index: int | None) -> None:
        """Lay a trial's motion faintly under the present one."""
        if self.case is None or index is None:
            self.compare, self.compare_name = None, ""
            self.compared.emit(None)
            return
        case, trial = self.case, self.case.trials[index]
        known = {p: v for p, v in trial.values.items() if any(u.path == p for u in case.unknowns)}
        self.compare_name = trial.name

        def use(picture: Picture) -> None:
            self.compare = picture
            self.compared.emit(picture)

        self.work(lambda: Looker(case).look(known), use)

    def change_trial(self, index: int, **changes: Any) -> None:
        """Rename or pin a trial."""

        def make(case: Case) -> Case:
            rows = list(case.trials)
            rows[index] = rows[index].model_copy(update=changes)
            return case.model_copy(update={"trials": tuple(rows)})

        self._try(make, "change trial")

    def remove_trial(self, index: int) -> None:
        """Take a trial out of the ledger."""

        def make(case: Case) -> Case:
            rows = list(case.trials)
            del rows[index]
            return case.model_copy(update={"trials": tuple(rows)})

        self._try(make, "remove trial")

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
        request = (dict(self.live), self.asked_at)
        if self._looking:
            self._again = request
            return
        self._start_look(request)

    def _start_look(self, request: tuple[dict[str, float], float]) -> None:
        case = self.case
        if case is None:
            return
        self._looking, self._again = True, None

        def job() -> Picture:
            return self.picture_at(case, request[0])

        def finish(future: Future) -> None:
            self._from_worker.emit(lambda: self._took_look(future, case, request[1]))

        self._look_pool.submit(job).add_done_callback(finish)

    def _took_look(self, future: Future, case: Case, asked: float) -> None:
        self._looking = False
        error = future.exception()
        if error is not None:
            if not isinstance(error, YapaError):
                log.error("a look failed", exc_info=error)
            self.trouble.emit(str(error))
        elif case is self.case:
            self.picture = future.result()
            self.looked.emit(self.picture)
            self.latencies.append((asked, time.perf_counter()))
        if self._again is not None:
            self._start_look(self._again)
        elif case is not self.case:
            self.ask_look()

    def on_look_thread(self, job: Callable[[], Any], done: Callable[[Any, BaseException | None], None]) -> None:
        """Run a job where the looks run, in its turn; its result, or its error, is used on the interface thread."""
        def finish(future: Future) -> None:
            error = None if future.cancelled() else future.exception()
            found = None if future.cancelled() or error is not None else future.result()
            self._from_worker.emit(lambda: done(found, error))

        self._look_pool.submit(job).add_done_callback(finish)

    def picture_at(self, case: Case, values: dict[str, float]) -> Picture:
        """A look at a case; only on the thread of the looks."""
        if self._looker is None or self._looker_case is not case:
            self._looker, self._looker_case = Looker(case), case
        return self._looker.look(values)

    def show_live(self, values: dict[str, float], picture: Picture) -> None:
        """Show values that are under the hand, and the picture that goes with them."""
        self.live, self.picture = values, picture
        self.looked.emit(picture)

    def from_worker(self, act: Callable[[], None]) -> None:
        """Have the interface thread do something."""
        self._from_worker.emit(act)

    # -- fitting ---------------------------------------------------------------------------------

    @property
    def looker(self) -> Looker | None:
        """The measured side of the present case, once it has been read."""
        return self._looker if self._looker_case is self.case else None

    @property
    def fitting(self) -> bool:
        """Whether a fit is under way."""
        return self._fit_running

    def start_fit(self) -> bool:
        """Fit the case off the interface thread."""
        if self.case is None or self.fitting:
            return False
        case = self.case
        self._cancel = Cancel()
        last = [0.0]

        def progress(p: Progress) -> None:
            now = time.perf_counter()
            if now - last[0] > 0.05:
                last[0] = now
                self._from_worker.emit(lambda: self._progressed(p))

        try:
            Fit(case)  # says at once what cannot be fitted
        except YapaError as error:
            self.trouble.emit(str(error))
            return False
        self._fit_running = True
        cancel = self._cancel

        def job() -> tuple[FitResult, Case]:
            try:
                result = fit(case, progress, cancel)
            except YapaError:
                self._from_worker.emit(lambda: self._fit_over(None))
                raise
            after = with_takes(with_numbers(case, result.values), result)
            return result, trials.add_trial(after, trials.fit_trial(after, result))

        self.fit_started.emit()
        self.work(job, self._took_fit)
        return True

    def _progressed(self, p: Progress) -> None:
        if not self._fit_running:
            return
        if p.values:
            self.live = dict(p.values)
            self.ask_look()
        self.fit_progressed.emit(p)

    def _took_fit(self, found: tuple[FitResult, Case]) -> None:
        result, after = found
        self._fit_running = False
        self.result = result
        self.edit(after, "fit")
        self.fit_ended.emit(result)

    def _fit_over(self, result: FitResult | None) -> None:
        self._fit_running = False
        self.live = {}
        self.fit_ended.emit(result)

    def stop_fit(self) -> None:
        """Stop; the best so far is kept as a trial."""
        if self._fit_running:
            self._cancel.set()

    # -- time ------------------------------------------------------------------------------------

    def move_playhead(self, t: float) -> None:
        """Go to a time."""
        end = self.case.duration if self.case is not None else 0.0
        self.playhead = min(max(0.0, t), end)
        self.playhead_moved.emit(self.playhead)

    # -- safety ----------------------------------------------------------------------------------

    def _write_recovery(self) -> None:
        if self.recovery is not None and self.case is not None and not self.undo.isClean():
            case, path = self.case, self.path
            self._look_pool.submit(self.recovery.write, case, path)

    def _forget_recovery(self) -> None:
        self._autosave.stop()
        if self.recovery is not None:
            self.recovery.forget()

    def close(self) -> None:
        """Stop everything; the work is either saved or the person chose to leave it."""
        self.stop_fit()
        self._closed = True  # what a worker still has to say is not heard any more
        self._look_pool.shutdown(wait=True, cancel_futures=True)
        self._forget_recovery()
        self._work_pool.shutdown(wait=True, cancel_futures=True)


def replace_unknown(case: Case, path: str, **changes: Any) -> Case:
    """A case with one unknown changed."""
    rows = tuple(u.model_copy(update=changes) if u.path == path else u for u in case.unknowns)
    return case.model_copy(update={"unknowns": rows})
