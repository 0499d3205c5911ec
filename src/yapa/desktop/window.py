"""The main window: start page and bench, menus and keys, and closing without losing anything."""

from __future__ import annotations

import re
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtGui import QAction, QCloseEvent, QKeySequence
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QInputDialog,
    QLineEdit,
    QMainWindow,
    QMessageBox,
    QStackedWidget,
    QWidget,
)

from yapa.case import Case
from yapa.demo import demo_paths
from yapa.desktop.bench import Bench
from yapa.desktop.cards import label, set_role
from yapa.desktop.dialogs import ask, show_once
from yapa.desktop.import_dialog import ImportDialog
from yapa.desktop.new_outcomes import NewFromOutcomes
from yapa.desktop.new_track import TRACK_FILES, NewFromTrack
from yapa.desktop.note import NoteDialog
from yapa.desktop.outcome_table import OutcomeTable
from yapa.desktop.session import Session
from yapa.desktop.start import StartPage
from yapa.desktop.ways import WaysDialog
from yapa.desktop.why import WhyDialog
from yapa.formats.case_file import load_case
from yapa.formats.roles import Questions
from yapa.session.desk import OutsideQuestion
from yapa.session.recovery import Recovery
from yapa.trials import curve_of


def demo_cases() -> list[tuple[Path, Case]]:
    """The demo cases that ship with the program."""
    return [(path, load_case(path)[0]) for path in demo_paths()]


def suggested_name(title: str) -> str:
    """A file name made of a title."""
    words = re.findall(r"[^\W_]+", title.lower())
    return "-".join(words)[:80].strip("-") + ".yapa" if words else "case.yapa"


class MainWindow(QMainWindow):
    """One window, one case."""

    def __init__(self, recovery: Recovery | None = None) -> None:
        super().__init__()
        self.recovery = recovery or Recovery()
        self.session = Session(self.recovery)
        self.setWindowTitle("Yapa")
        self.resize(1280, 800)
        self.bench = Bench(self.session)
        self.start = StartPage(demo_cases(), self.recovery)
        self.pages = QStackedWidget()
        self.pages.addWidget(self.start)
        self.pages.addWidget(self.bench)
        self.setCentralWidget(self.pages)
        self.message = label("", 10, role="soft")
        self.message.setAccessibleName("message")
        self.statusBar().addWidget(self.message, 1)
        self.statusBar().setSizeGripEnabled(False)
        self.statusBar().setContentsMargins(14, 0, 14, 2)
        self.help = label("Space plays · F fits · Ctrl+Z undoes", 10, role="soft")
        self.statusBar().addPermanentWidget(self.help)
        self._opened = self.session.opened
        self._quiet = QTimer(self, interval=12000, singleShot=True)
        self._quiet.timeout.connect(lambda: self.message.setText(""))
        self._menus()
        s = self.session
        s.trouble.connect(self.tell_trouble)
        s.said.connect(self.say)
        s.case_changed.connect(self._on_case)
        s.fit_ended.connect(self._on_fit_end)
        s.history_changed.connect(self._on_history)
        s.changed_on_disk.connect(self._on_changed_on_disk)
        s.outside_asked.connect(self._on_outside)
        self.start.opened.connect(self.open_demo)
        self.start.new_track.connect(self.new_from_track)
        self.start.new_outcomes.connect(self.new_from_outcomes)
        self.start.browse.connect(self.browse)
        self.start.recovered.connect(self.recover)
        self.bench.evidence.import_track.connect(self.import_track)
        self.bench.evidence.show_ways.connect(self.show_ways)
        puller = self.bench.stage.puller
        puller.began.connect(lambda h: self.say(f"pulling {h.name}: let go or Enter keeps it, Esc puts it back"))
        self.troubles: list[str] = []
        for card in self.start.cards:  # a case without a track shows its own motion, once that is known
            if not card.curve:
                s.work(lambda case=card.case: curve_of(case), card.show_curve)

    # -- menus and keys --------------------------------------------------------------------------

    def _menus(self) -> None:
        bar = self.menuBar()
        self.undo_action = QAction("Undo", self)
        self.undo_action.setShortcut(QKeySequence.StandardKey.Undo)
        self.undo_action.triggered.connect(lambda _on=False: self.session.undo())
        self.redo_action = QAction("Redo", self)
        self.redo_action.setShortcut(QKeySequence.StandardKey.Redo)
        self.redo_action.triggered.connect(lambda _on=False: self.session.redo())
        for action in (self.undo_action, self.redo_action):
            action.setEnabled(False)
        file = bar.addMenu("Case")
        self._add(file.addAction("New from a track…"), self.new_from_track, "Ctrl+N")
        self._add(file.addAction("New from outcomes…"), self.new_from_outcomes, "Ctrl+Shift+N")
        self._add(file.addAction("Open…"), self.browse, "Ctrl+O")
        self._add(file.addAction("Save"), self.save, "Ctrl+S")
        self._add(file.addAction("Save as…"), self.save_as, "Ctrl+Shift+S")
        file.addSeparator()
        self._add(file.addAction("Start page"), self.show_start, "Ctrl+Home")
        self._add(file.addAction("Quit"), self.close, "Ctrl+Q")
        edit = bar.addMenu("Edit")
        edit.addActions([self.undo_action, self.redo_action])
        self._add(edit.addAction("Bring a track…"), self.import_track, "Ctrl+I")
        self._add(edit.addAction("Note by hand…"), self.note_by_hand, "N")
        self._add(edit.addAction("Say what should happen…"), self.bench.evidence.ask_target, "T")
        self._add(edit.addAction("Copy values"), self.bench.unknowns.copy_values, "Ctrl+Shift+C")
        run = bar.addMenu("Try")
        self._add(run.addAction("Fit"), self.session.start_fit, "F")
        self._add(run.addAction("Stop the fit"), self.session.stop_fit, "Esc")
        self._add(run.addAction("Play or pause"), self.bench.top.toggle, "Space")
        self._add(run.addAction("To start"), lambda: self.session.move_playhead(0.0), "Home")
        self._add(run.addAction("Step back"), lambda: self._step(-1), ",")
        self._add(run.addAction("Step on"), lambda: self._step(1), ".")
        self._add(run.addAction("Whole scene"), self.bench.stage.show_whole_scene, "W")
        run.addSeparator()
        self._add(run.addAction("What may be wrong…"), self.show_why, "Y")
        self._add(run.addAction("Outcomes…"), self.show_outcomes, "O")
        self._add(run.addAction("Other ways…"), self.show_ways, "A")
        self._add(run.addAction("Take the next handle"), self.bench.stage.next_handle, "H")
        self._add(run.addAction("Compare with nothing"), lambda: self.session.compare_with(None), "Ctrl+D")

    def _add(self, action: QAction, act, key: str) -> None:  # type: ignore[no-untyped-def]
        action.setShortcut(QKeySequence(key))
        action.triggered.connect(lambda _on=False: self._unless_typing(act, key))
        self.addAction(action)

    def _unless_typing(self, act, key: str) -> None:  # type: ignore[no-untyped-def]
        plain = "+" not in key and key != "Esc"
        if plain and isinstance(QApplication.focusWidget(), QLineEdit):
            return
        act()

    def _step(self, frames: int) -> None:
        case = self.session.case
        if case is not None:
            self.session.move_playhead(self.session.playhead + frames / min(case.output_rate, 120.0))

    def show_why(self) -> None:
        """The findings of the case."""
        if self.session.case is not None:
            self.why = WhyDialog(self, self.session)
            show_once(self.why)

    def show_outcomes(self) -> None:
        """Every outcome, simulated beside measured."""
        if self.session.picture is not None:
            self.outcomes = OutcomeTable(self, self.session)
            show_once(self.outcomes)

    def note_by_hand(self) -> None:
        """Evidence without a recording."""
        case = self.session.case
        if case is None or not case.movers():
            return
        dialog = NoteDialog(self, case)
        if ask(dialog) and dialog.after is not None:
            self.session.edit(dialog.after, "note by hand")
            self.say("noted: " + "; ".join(dialog.lines))

    def show_ways(self) -> None:
        """Every different way to what should happen."""
        case = self.session.case
        if case is None:
            return
        if not case.targets or all(u.locked for u in case.unknowns):
            self.say("say what should happen first (T), and free a number that may change")
            return
        self.ways = WaysDialog(self, self.session)
        show_once(self.ways)

    # -- saying ----------------------------------------------------------------------------------

    def say(self, text: str) -> None:
        """A quiet word in the status line."""
        set_role(self.message, "soft")
        self.message.setText(text)
        self._quiet.start()

    def tell_trouble(self, text: str) -> None:
        """What went wrong and how to mend it; the present case stays as it is."""
        self.troubles.append(text)
        del self.troubles[:-200]
        first = text.split("\n")[0]
        more = text.count("\n")
        self.message.setText(first + (f" (and {more} more)" if more else ""))
        self.message.setToolTip(text)
        set_role(self.message, "trouble")
        self._quiet.stop()

    def _on_case(self) -> None:
        case = self.session.case
        if case is None:
            return
        if self.session.opened != self._opened:  # what was said of another case is over
            self._opened = self.session.opened
            self.say("")
            self.message.setToolTip("")
        if self.pages.currentWidget() is not self.bench:
            self.pages.setCurrentWidget(self.bench)
            self.bench.stage.setFocus()
        self._on_history()

    def _on_history(self) -> None:
        document = self.session.document
        if document is None:
            return
        history = document.history
        self.setWindowTitle(f"{document.case.title}{'' if history.is_clean else ' · changed'} · Yapa")
        for action, word, text in ((self.undo_action, "Undo", history.undo_text), (self.redo_action, "Redo", history.redo_text)):
            action.setEnabled(text is not None)
            action.setText(f"{word} {text}" if text else word)

    def dress(self) -> None:
        """Take on the theme that is in use; labels follow the style sheet by themselves."""
        self.bench.traces.dress()
        if self.session.picture is not None:
            self.session.looked.emit(self.session.picture)  # the colours of table cells are those of when they were filled
        for widget in self.findChildren(QWidget):
            widget.update()

    def _on_fit_end(self, result) -> None:  # type: ignore[no-untyped-def]
        if result is not None:
            words = {"converged": "the fit has converged", "cancelled": "stopped; the best so far is kept"}
            first = words.get(result.stopped, "the fit did not converge; the best it met is kept")
            self.say(f"{first} · {result.simulations} simulations in {result.seconds:.1f} s")

    # -- opening and saving ----------------------------------------------------------------------

    def _may_leave(self) -> bool:
        """Ask before work that is not saved is left."""
        if self.session.is_clean:
            return True
        box = QMessageBox(QMessageBox.Icon.NoIcon, "Not saved", f"“{self.session.case.title}” has changes that are not saved.",
                          parent=self)
        keep = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        leave = box.addButton("Leave them", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole)
        ask(box)
        if box.clickedButton() is keep:
            return self.save() and self.session.is_clean
        return box.clickedButton() is leave

    def open_demo(self, path: Path) -> None:
        """Open a demo case; it is saved elsewhere, never over the one that ships."""
        if not self._may_leave():
            return

        def read() -> Case:
            case = load_case(path)[0]
            return case.model_copy(update={"tracks": tuple(t.model_copy(update={"file": None}) for t in case.tracks)})

        self.session.open_by(read, self.session.open_case)

    def open_path(self, path: Path) -> None:
        """Open a case file."""
        self.session.load(path)

    def browse(self) -> None:
        """Choose a case file."""
        if self._may_leave():
            name, _ = QFileDialog.getOpenFileName(self, "Open a case", "", "Yapa cases (*.yapa);;All files (*)")
            if name:
                self.open_path(Path(name))

    def save(self) -> bool:
        """Save where it was opened, or ask."""
        return self.session.save(self.session.path) if self.session.path is not None else self.save_as()

    def save_as(self) -> bool:
        """Save under a name."""
        if self.session.case is None:
            return False
        start = self.session.path or Path.cwd() / suggested_name(self.session.case.title)
        name, _ = QFileDialog.getSaveFileName(self, "Save the case", str(start), "Yapa cases (*.yapa)")
        if not name:
            return False
        path = Path(name)
        return self.session.save(path if path.suffix else path.with_suffix(".yapa"))

    def _on_changed_on_disk(self, path: Path) -> None:
        """The file holds something else than when it was read: nobody's work is replaced without a word."""
        box = QMessageBox(QMessageBox.Icon.NoIcon, "Changed on disk",
                          f"“{path.name}” was changed by someone else since it was read here.", parent=self)
        other = box.addButton("Save as…", QMessageBox.ButtonRole.AcceptRole)
        over = box.addButton("Overwrite", QMessageBox.ButtonRole.DestructiveRole)
        theirs = box.addButton("Open theirs", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(other)
        ask(box)
        chosen = box.clickedButton()
        if chosen is other:
            self.save_as()
        elif chosen is over:
            self.session.save(path, overwrite=True)
        elif chosen is theirs:
            self.session.mark_clean()
            self.session.load(path)

    def _on_outside(self, question: OutsideQuestion) -> None:
        """A case wants to read files from elsewhere: only what the person knows of is read."""
        names = "\n".join(str(file) for file in question.files[:8])
        more = f"\nand {len(question.files) - 8} more" if len(question.files) > 8 else ""
        box = QMessageBox(QMessageBox.Icon.NoIcon, "Files from elsewhere",
                          f"“{question.path.name}” reads files outside its own folder:\n\n{names}{more}", parent=self)
        read = box.addButton("Read them", QMessageBox.ButtonRole.AcceptRole)
        leave = box.addButton("Do not open", QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(leave)
        ask(box)
        if box.clickedButton() is read:
            question.allow()

    def new_from_track(self) -> None:
        """The form for a new case from a track."""
        if not self._may_leave():
            return
        dialog = NewFromTrack(self, self.session)
        if ask(dialog) and dialog.prepared is not None:
            self.session.open_case(dialog.prepared.case)
            self.say("ready: press F to fit")

    def new_from_outcomes(self) -> None:
        """The form for a new case from outcomes."""
        if not self._may_leave():
            return
        dialog = NewFromOutcomes(self)
        if ask(dialog) and dialog.case is not None:
            self.session.open_case(dialog.case)
            self.say("ready: press F to find the numbers")

    def import_track(self) -> None:
        """Bring a CSV track into the case."""
        case = self.session.case
        if case is None:
            return
        name, _ = QFileDialog.getOpenFileName(self, "Bring a track", "", TRACK_FILES)
        if not name:
            return
        body = case.movers()[0]
        if len(case.movers()) > 1:
            body, ok = QInputDialog.getItem(self, "Whose track?", "Body", case.movers(), 0, False)
            if not ok:
                return
        self.bring_track(Path(name), body)

    def bring_track(self, path: Path, body: str) -> None:
        """Bring a file in as a track of a body; what only a person can say of it is asked in a dialog."""
        def asked(questions: Questions) -> None:
            dialog = ImportDialog(self, path, questions)
            if ask(dialog) and dialog.read is not None:
                self.session.take_track(path.stem, body, dialog.read)

        self.session.import_track(path, body, None, asked)

    def recover(self, file: Path) -> None:
        """Take up the work of a window that ended without saving."""
        if self._may_leave() and self.session.recover(file):
            self.say("recovered; save it to keep it")

    def show_start(self) -> None:
        """The start page; the case stays open behind it."""
        self.pages.setCurrentWidget(self.start)

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self._may_leave():
            event.ignore()
            return
        self.session.close()
        self.bench.stage.close_solids()
        event.accept()

