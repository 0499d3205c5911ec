"""The desk: the document that is open, and the parts that work on it. Everything the mouse can do is here, without a screen.

The desk announces changes (``signals``); a window listens and draws. Its parts share those signals: ``preview`` (what is under the
hand), ``fits``, ``saver``, ``playback``, ``drag``. Work runs in named queues (``jobs``); what it finds is heard through
``deliver``, on the thread of the interface. A result belongs to the document it was begun for, known by its identity, and is
dropped where that is gone.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from psygnal import SignalInstance

from yapa.case import Case, Trial, get_number, has_number
from yapa.case.ledger import newest_fit
from yapa.case.model import FORMAT_VERSION
from yapa.case.validation import in_words
from yapa.errors import YapaError
from yapa.files import FileStamp
from yapa.fitting.problem.identifiable import check_evidence
from yapa.formats.case_file import upgrade_notice
from yapa.formats.exports.values_text import values_text
from yapa.session import edits
from yapa.session.background import Background
from yapa.session.bringing import TrackBringer
from yapa.session.building.builder import Builder
from yapa.session.document import Document
from yapa.session.drag import Drag
from yapa.session.edits import Edit
from yapa.session.findings import Finding, check
from yapa.session.fit_job import FitJob, Fitter, find_numbers
from yapa.session.hand_notes import HandNotes
from yapa.session.history import History
from yapa.session.idle_look import IdleLook
from yapa.session.jobs import Deliver, Queue
from yapa.session.late_trials import LateTrials
from yapa.session.leverage import Leverage, leverage_of
from yapa.session.liked_units import LikedUnits
from yapa.session.opening import Opener
from yapa.session.playback import Playback
from yapa.session.preview import Preview
from yapa.session.recent import RecentFiles
from yapa.session.recovery import Autosave, Kept, Recovery
from yapa.session.remedies import Remedies
from yapa.session.saving import Saver
from yapa.session.verdict import AdviceLook


class Desk(Background):
    """What is open, and what can be done with it.

    Parameters
    ----------
    deliver : has something called on the interface's thread
    recovery : where unsaved work is kept safe; None: nowhere
    fit : finds the numbers
    pause : between two writings of unsaved work [s]
    """

    def __init__(self, deliver: Deliver, recovery: Recovery | None = None, fit: Fitter = find_numbers, pause: float = 1.0) -> None:
        self.document: Document | None = None
        super().__init__(deliver)
        self.opener = Opener(self)
        self.preview = Preview(self, self.jobs, lambda: self.document)
        self.playback = Playback(self, lambda: self.case)
        self.fits = FitJob(self, self.jobs, self.from_worker, self, self.preview, fit)
        self.drag = Drag(self)
        self.builder = Builder(self)
        self.notes = HandNotes(self)
        self.remedies = Remedies(self)
        self.leverage: IdleLook[Leverage] = IdleLook(self, "looking what the evidence says", leverage_of, Leverage(),
                                                     self.leverage_changed.emit)
        self.findings: IdleLook[list[Finding]] = IdleLook(self, "looking for what may be wrong",
                                                          lambda case, cancel: check(case, cancel=cancel), [],
                                                          self.findings_changed.emit)
        self.advice = AdviceLook(self)
        self.tracks = TrackBringer(self)
        self.case_changed.connect(self.builder.keep_up)
        self._late = LateTrials(self, self.jobs, self)
        self.saver = Saver(self, self.jobs, self)
        self.units = LikedUnits(recovery.folder if recovery else None)
        self.recent = RecentFiles(recovery.folder) if recovery else None
        self.autosave = Autosave(recovery, self._complain, pause) if recovery else None

    def _complain(self, text: str) -> None:
        self.from_worker(lambda: self.error.emit(text))

    def _open_document(self) -> Document | None:
        return self.document

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

    def open_case(self, case: Case, path: Path | None = None, stamp: FileStamp | None = None, changed: bool = False,
                  format_version: int = FORMAT_VERSION) -> None:
        """Take a case as the document that is open; a first trial keeps how it came.

        Parameters
        ----------
        case : the case
        path : the file; None for a case that has none yet
        stamp : of the file at ``path``
        changed : the case holds what the file does not
        format_version : of the file
        """
        document = Document(History(case), path, stamp, format_version)
        if changed:
            document.history.mark_changed()
        self._note_file(path)
        self.take_up(document)
        self._late.note_set_up()

    def take_up(self, document: Document) -> None:
        """Have a document open: a new one, or one that was open before, with its history and what is not saved.

        Parameters
        ----------
        document : the document
        """
        self.fits.drop()
        self.opener.forget()
        self.document = document
        self.playback.time = 0.0
        self.playback.show_all()
        self.notes.discard()
        self.preview.clear()
        self._changed()

    def saved(self, document: Document, was_version: int = FORMAT_VERSION) -> None:
        """A state of a document stands in its file, which held an older format before, or not.

        Parameters
        ----------
        document : the open document
        was_version : version of the format in the file before
        """
        self.message.emit((f"saved {document.path.name}" if document.path else "saved") + upgrade_notice(was_version))
        self._note_file(document.path)
        if document is self.document:
            self._keep_safe()
            self._announce(self.history_changed, self.case_changed)

    def _note_file(self, path: Path | None) -> None:
        recent = self.recent
        if path is not None and recent is not None:
            self.work("noting what was opened", lambda: recent.note(path), lambda _: None, failed=lambda _: None)

    def close(self) -> None:
        """Stop everything; the work is either saved or the person chose to leave it."""
        self.fits.stop()
        self._closed = True
        self.jobs.close()
        if self.autosave is not None:
            self.autosave.close()

    # -- work beside -----------------------------------------------------------------------------

    def stop(self) -> None:
        """Stop what a person waits for: the fit with its best so far, files that are read, searches."""
        self.fits.stop()
        self.saver.stop()
        self.jobs.cancel(Queue.FILES, Queue.SEARCH)

    def look_around(self) -> None:
        """The hand is still: look for what may be wrong, what the evidence says, and what would meet a missed target."""
        for look in (self.findings, self.leverage, self.advice, self.remedies):
            look.look()

    # -- edits -----------------------------------------------------------------------------------

    def edit(self, after: Case, text: str, *, merge: bool = False) -> bool:
        """Take a case that was made of the present one as one step that can be undone; one that no file could hold is refused.

        Parameters
        ----------
        after : the case as it becomes
        text : what undo calls it
        merge : whether it goes on with the last step, in place of being one of its own

        Returns
        -------
        Whether it was taken.
        """
        return self.make(Edit(text, lambda _case: after), merge=merge)

    def make(self, edit: Edit, *, merge: bool = False) -> bool:
        """Make an edit, the one way a case is changed; what cannot be done is said and changes nothing.

        Parameters
        ----------
        edit : the change
        merge : whether it goes on with the last step

        Returns
        -------
        Whether it was made.
        """
        document = self.document
        if document is None:
            return False
        case = document.case
        try:
            after = edit.applied(case)
            if after.tracks is not case.tracks or after.targets is not case.targets:
                check_evidence(after)  # says at once what cannot be used
        except YapaError as error:
            self.error.emit(str(error))
            return False
        if after is not case:
            if merge:
                document.history.undo()
            document.history.push(after, edit.text)
            self._changed()
        return True

    def make_from(self, build: Callable[[], Edit | None]) -> bool:
        """Make an edit that may be refused while it is put together, as where a box spans nothing.

        Parameters
        ----------
        build : returns the edit; None where there is nothing to do

        Returns
        -------
        Whether it was made.
        """
        try:
            with in_words("this edit"):
                edit = build()
        except YapaError as error:
            self.show_error(error)
            return False
        return edit is not None and self.make(edit)

    def fill(self, edit: Edit) -> bool:
        """Fill an empty scene; a first trial keeps how it came.

        Parameters
        ----------
        edit : what fills it

        Returns
        -------
        Whether it was filled.
        """
        made = self.make(edit)
        if made:
            self._late.note_set_up()
        return made

    def make_by_hand(self, edit: Edit, *, merge: bool = False) -> bool:
        """Make an edit of values; the 'by hand' trial joins the ledger as soon as it is known.

        Parameters
        ----------
        edit : the change
        merge : whether it goes on with the last step

        Returns
        -------
        Whether it was made.
        """
        if not self.make(edit, merge=merge):
            return False
        self._late.note_by_hand()
        return True

    def set_number(self, path: str, value: float) -> bool:
        """Set a number of the case by hand, as a knob that is let go does: one edit, and the 'by hand' trial.

        Parameters
        ----------
        path : path of the number
        value : its value

        Returns
        -------
        Whether the case has it now.
        """
        case = self.case
        if case is not None and has_number(case, path) and get_number(case, path) == value:
            self.preview.set({})
            return True
        return self.make_by_hand(edits.set_number(path, value))

    def restore(self, index: int, scene: bool = False) -> None:
        """Set the values of a trial again, or its scene and its values.

        Parameters
        ----------
        index : which trial of the ledger, from 0
        scene : whether the scene that it was made in comes back too
        """
        case = self.case
        if case is not None and self.make(edits.restore_trial(case, index, scene=scene)):
            self.message.emit(f"restored {case.trials[index].name}")

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
            self._keep_safe()
            self._announce(self.history_changed)

    def amended(self, document: Document) -> None:
        """The ledger of a document has grown, without a step.

        Parameters
        ----------
        document : the open document
        """
        if document is self.document:
            self._keep_safe()
            self._announce(self.case_changed)

    def newest_fit(self) -> Trial | None:
        """Return the last fit whose values the case still has, for whiskers and values."""
        return None if self.case is None else newest_fit(self.case)

    def values_text(self) -> str:
        """Return the values with units, intervals and the conditions they hold under, as text to hand over."""
        return "" if self.case is None else values_text(self.case, self.newest_fit())

    def _changed(self) -> None:
        self.preview.drop_stale()
        self._keep_safe()
        self._announce(self.history_changed, self.case_changed)
        self.preview.request()

    def _announce(self, *changes: SignalInstance) -> None:
        """Emit signals; what one listener raises is a fault, and the others and the stage follow all the same."""
        for change in changes:
            try:
                change.emit()
            except Exception as error:
                self.faults.hear(error, "showing a change")

    def _keep_safe(self) -> None:
        document = self.document
        if self.autosave is None or document is None:
            return
        if document.history.is_clean:
            self.autosave.forget()
        else:
            self.autosave.keep(Kept(document.case, document.path, document.stamp, document.format_version))
