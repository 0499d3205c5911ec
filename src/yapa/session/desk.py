"""The desk: the document that is open, and the parts that work on it. Everything the mouse can do is here, without a screen.

The desk announces changes (``signals``); a window listens and draws. Its parts share those signals: ``preview`` (what is under the
hand), ``fits``, ``saver``, ``playback``, ``drag``. Work runs in named queues (``jobs``); what it finds is heard through
``deliver``, on the thread of the interface. A result belongs to the document it was begun for, known by its identity, and is
dropped where that is gone.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from yapa.case import Case, Trial, get_number, has_number
from yapa.case.store import checked
from yapa.errors import YapaError
from yapa.files import FileStamp
from yapa.fitting.problem.cancel import Cancelled
from yapa.fitting.problem.identifiable import check_evidence
from yapa.formats.any_track import read_any
from yapa.formats.case_file import Loaded, OutsideError, load
from yapa.formats.csv_track import TrackFile
from yapa.formats.exports.values_text import values_text
from yapa.formats.importing import Said
from yapa.formats.roles import Questions
from yapa.session import edits, ledger
from yapa.session.document import Document, OutsideQuestion
from yapa.session.drag import Drag
from yapa.session.edits import Edit
from yapa.session.fit_job import FitJob, Fitter, find_numbers
from yapa.session.history import History
from yapa.session.jobs import Deliver, Job, Jobs, Queue, in_words
from yapa.session.late_trials import LateTrials
from yapa.session.playback import Playback
from yapa.session.preview import Preview
from yapa.session.recovery import Autosave, Kept, Recovery
from yapa.session.saving import Saver
from yapa.session.signals import Signals


class Desk(Signals):
    """What is open, and what can be done with it.

    Parameters
    ----------
    deliver : has something called on the interface's thread
    recovery : where unsaved work is kept safe; None: nowhere
    fit : finds the numbers
    pause : between two writings of unsaved work [s]
    """

    def __init__(self, deliver: Deliver, recovery: Recovery | None = None, fit: Fitter = find_numbers, pause: float = 1.0) -> None:
        self._deliver = deliver
        self._closed = False
        self._asked: object = None
        """What was last asked to be opened, until something is."""
        self.document: Document | None = None
        self.jobs = Jobs(deliver, self.jobs_changed.emit)
        self.preview = Preview(self, self.jobs, lambda: self.document)
        self.playback = Playback(self, lambda: self.case)
        self.fits = FitJob(self, self.jobs, self.from_worker, self, self.preview, fit)
        self.drag = Drag(self)
        self._late = LateTrials(self, self.jobs, self)
        self.saver = Saver(self, self.jobs, self)
        self.autosave = Autosave(recovery, lambda text: deliver(lambda: self._complain(text)), pause) if recovery else None

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
        self.fits.drop()
        self._asked = None
        self.document = Document(History(case), path, stamp)
        if changed:
            self.document.history.mark_changed()
        elif self.autosave is not None:
            self.autosave.forget()
        self.playback.time = 0.0
        self.preview.clear()
        self._changed()
        self._late.note_set_up()

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
                self._show_error(error)

        self.open_by(f"opening {path.name}", lambda: load(path, allow_outside), use, failed)

    def open_by(self, text: str, read: Callable[[], Any], use: Callable[[Any], None],
                failed: Callable[[Exception], None] | None = None) -> None:
        """Read something off the interface's thread and open it; of several that are asked for, the last is opened."""
        asked = self._asked = object()

        def newest(found: Any) -> None:
            if self._asked is asked:  # nothing else was asked for, or opened, meanwhile
                use(found)

        self.work(text, read, newest, Queue.FILES, failed)

    def saved(self, document: Document) -> None:
        """A state of a document stands in its file."""
        self.said.emit(f"saved {document.path.name}" if document.path else "saved")
        if document is self.document:
            self._keep_safe()
            self.history_changed.emit()
            self.case_changed.emit()

    def recover(self, file: Path) -> None:
        """Take up the work of a window that ended without saving."""
        autosave = self.autosave
        if autosave is None:
            return

        def use(kept: Kept) -> None:
            try:
                autosave.recovery.adopt(file)
            except YapaError as error:
                self.trouble.emit(str(error))
                return
            self.open_case(kept.case, kept.path, kept.stamp, changed=True)
            self.said.emit("recovered; save it to keep it")

        self.open_by("recovering", lambda: Recovery.read(file), use)

    def close(self) -> None:
        """Stop everything; the work is either saved or the person chose to leave it."""
        self.fits.stop()
        self._closed = True
        self.jobs.close()
        if self.autosave is not None:
            self.autosave.close()

    # -- work beside -----------------------------------------------------------------------------

    def work(self, text: str, work: Callable[[], Any], use: Callable[[Any], None], queue: Queue = Queue.SIDE,
             failed: Callable[[Exception], None] | None = None) -> Job:
        """Run something that hears no stop off the interface's thread; stopped, its result is dropped. A fault is told."""
        def heedful(job: Job) -> Any:
            job.cancel.heed()
            found = work()
            job.cancel.heed()
            return found

        return self.jobs.run(queue, text, heedful, use, failed or self._show_error)

    def search(self, text: str, work: Callable[[Job], Any], use: Callable[[Any], None], failed: Callable[[Exception], None]) -> Job:
        """Run a search, which hears its job's stop."""
        return self.jobs.run(Queue.SEARCH, text, work, use, failed)

    def from_worker(self, act: Callable[[], None]) -> None:
        """Have something done on the interface's thread."""
        self._deliver(lambda: None if self._closed else act())

    def stop(self) -> None:
        """Stop what a person waits for: the fit with its best so far, files that are read, searches."""
        self.fits.stop()
        self.saver.stop()
        self.jobs.cancel(Queue.FILES, Queue.SEARCH)

    def _show_error(self, error: Exception) -> None:
        if not isinstance(error, Cancelled):
            self.trouble.emit(in_words(error))

    # -- edits -----------------------------------------------------------------------------------

    def edit(self, after: Case, text: str) -> None:
        """One step that can be undone."""
        if self.document is not None and after is not self.document.case:
            self.document.history.push(after, text)
            self._changed()

    def make(self, edit: Edit) -> bool:
        """Make an edit; what cannot be done is said and changes nothing."""
        case = self.case
        if case is None:
            return False
        try:
            after = edit.change(case)
            if after is not case:
                checked(after)
                if after.tracks is not case.tracks or after.targets is not case.targets:
                    check_evidence(after)  # says at once what cannot be used
        except YapaError as error:
            self.trouble.emit(str(error))
            return False
        self.edit(after, edit.text)
        return True

    def make_by_hand(self, edit: Edit) -> bool:
        """An edit of values; the 'by hand' trial joins the ledger as soon as it is known."""
        if not self.make(edit):
            return False
        self._late.note_by_hand()
        return True

    def set_number(self, path: str, value: float) -> bool:
        """Set a number of the case by hand, as a knob that is let go does: one edit, and the 'by hand' trial."""
        case = self.case
        if case is not None and has_number(case, path) and get_number(case, path) == value:
            self.preview.set({})
            return True
        return self.make_by_hand(edits.set_number(path, value))

    def restore(self, index: int) -> None:
        """Set the values of a trial again."""
        case = self.case
        if case is not None and self.make(edits.restore_trial(case, index)):
            self.said.emit(f"restored {case.trials[index].name}")

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

    def amended(self, document: Document) -> None:
        """The ledger of a document has grown, without a step."""
        if document is self.document:
            self._keep_safe()
            self.case_changed.emit()

    def newest_fit(self) -> Trial | None:
        """The last fit whose values the case still has, for whiskers and values."""
        return None if self.case is None else ledger.newest_fit(self.case)

    def values_text(self) -> str:
        """The values with units, intervals and the conditions they hold under, as text to hand over."""
        return "" if self.case is None else values_text(self.case, self.newest_fit())

    def _changed(self) -> None:
        self.preview.drop_stale()
        self._keep_safe()
        self.history_changed.emit()
        self.case_changed.emit()
        self.preview.request()

    def _keep_safe(self) -> None:
        document = self.document
        if self.autosave is None or document is None:
            return
        if document.history.is_clean:
            self.autosave.forget()
        else:
            self.autosave.keep(Kept(document.case, document.path, document.stamp))

    # -- tracks ----------------------------------------------------------------------------------

    def import_track(self, path: Path, body: str, said: Said | None = None,
                     asked: Callable[[Questions], None] | None = None) -> None:
        """Bring a track in as evidence of a body; ``asked`` hears what only a person can say of the file."""
        document = self.document

        def use(read: TrackFile) -> None:
            if self.document is document:
                self.take_track(path.stem, body, read)

        def failed(error: Exception) -> None:
            if asked is not None and isinstance(error, Questions):
                asked(error)
            else:
                self._show_error(error)

        self.work(f"reading {path.name}", lambda: read_any(path, None, said), use, Queue.FILES, failed)

    def take_track(self, name: str, body: str, read: TrackFile) -> bool:
        """Take what was read as a track of a body."""
        if not self.make(edits.add_track(name, body, read)):
            return False
        for notice in read.notices:
            self.said.emit(notice)
        return True
