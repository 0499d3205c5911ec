"""The main window: start page and bench, menus and keys, and closing without losing anything."""

from __future__ import annotations

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
)

from yapa.case import Case
from yapa.demo import demo_paths
from yapa.desktop.bench import Bench
from yapa.desktop.cards import label
from yapa.desktop.new_outcomes import NewFromOutcomes
from yapa.desktop.new_track import TRACK_FILES, NewFromTrack
from yapa.desktop.note import NoteDialog
from yapa.desktop.outcome_table import OutcomeTable
from yapa.desktop.recovery import Recovery
from yapa.desktop.session import Session
from yapa.desktop.start import StartPage
from yapa.desktop.ways import WaysDialog
from yapa.desktop.why import WhyDialog
from yapa.errors import YapaError
from yapa.formats.case_file import load_case


def demo_cases() -> list[tuple[Path, Case]]:
    """The demo cases that ship with the program."""
    return [(path, load_case(path)[0]) for path in demo_paths()]


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
        s.undo.cleanChanged.connect(lambda _c: self._on_case())
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

    # -- menus and keys --------------------------------------------------------------------------

    def _menus(self) -> None:
        bar = self.menuBar()
        undo = self.session.undo.createUndoAction(self, "Undo")
        undo.setShortcut(QKeySequence.StandardKey.Undo)
        redo = self.session.undo.createRedoAction(self, "Redo")
        redo.setShortcut(QKeySequence.StandardKey.Redo)
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
        edit.addActions([undo, redo])
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
            self.why.show()

    def show_outcomes(self) -> None:
        """Every outcome, simulated beside measured."""
        if self.session.picture is not None:
            self.outcomes = OutcomeTable(self, self.session)
            self.outcomes.show()

    def note_by_hand(self) -> None:
        """Evidence without a recording."""
        case = self.session.case
        if case is None or not case.movers():
            return
        dialog = NoteDialog(self, case)
        if dialog.exec() and dialog.after is not None:
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
        self.ways.show()

    # -- saying ----------------------------------------------------------------------------------

    def say(self, text: str) -> None:
        """A quiet word in the status line."""
        self.message.setStyleSheet("")
        self.message.setText(text)
        self._quiet.start()

    def tell_trouble(self, text: str) -> None:
        """What went wrong and how to mend it; the present case stays as it is."""
        from yapa.desktop.theme import theme

        self.troubles.append(text)
        first = text.split("\n")[0]
        more = text.count("\n")
        self.message.setText(first + (f" (and {more} more)" if more else ""))
        self.message.setToolTip(text)
        self.message.setStyleSheet(f"color: {theme().trouble}")
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
        changed = "" if self.session.undo.isClean() else " · changed"
        self.setWindowTitle(f"{case.title}{changed} · Yapa")

    def _on_fit_end(self, result) -> None:  # type: ignore[no-untyped-def]
        if result is not None:
            words = {"converged": "the fit has converged", "cancelled": "stopped; the best so far is kept"}
            first = words.get(result.stopped, "the fit did not converge; the best it met is kept")
            self.say(f"{first} · {result.simulations} simulations in {result.seconds:.1f} s")

    # -- opening and saving ----------------------------------------------------------------------

    def _may_leave(self) -> bool:
        """Ask before work that is not saved is left."""
        if self.session.case is None or self.session.undo.isClean():
            return True
        box = QMessageBox(QMessageBox.Icon.NoIcon, "Not saved", f"“{self.session.case.title}” has changes that are not saved.",
                          parent=self)
        keep = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        leave = box.addButton("Leave them", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        if box.clickedButton() is keep:
            return self.save()
        return box.clickedButton() is leave

    def open_demo(self, path: Path) -> None:
        """Open a demo case; it is saved elsewhere, never over the one that ships."""
        if not self._may_leave():
            return

        def read() -> Case:
            from yapa.trials import add_trial, as_set_up

            case = load_case(path)[0]
            case = case.model_copy(update={"tracks": tuple(t.model_copy(update={"file": None}) for t in case.tracks)})
            return add_trial(case, as_set_up(case))

        self.session.work(read, lambda case: self.session.open_case(case))

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
        start = str(self.session.path or f"{self.session.case.title.lower().replace(' ', '-')}.yapa")
        name, _ = QFileDialog.getSaveFileName(self, "Save the case", start, "Yapa cases (*.yapa)")
        if not name:
            return False
        path = Path(name)
        return self.session.save(path if path.suffix else path.with_suffix(".yapa"))

    def new_from_track(self) -> None:
        """The form for a new case from a track."""
        if not self._may_leave():
            return
        dialog = NewFromTrack(self, self.session)
        if dialog.exec() and dialog.prepared is not None:
            self.session.open_case(dialog.prepared.case)
            self.say("ready: press F to fit")

    def new_from_outcomes(self) -> None:
        """The form for a new case from outcomes."""
        if not self._may_leave():
            return
        dialog = NewFromOutcomes(self)
        if dialog.exec() and dialog.case is not None:
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
        self.session.import_track(Path(name), body)

    def recover(self, file: Path) -> None:
        """Take up the work of a window that ended without saving."""
        try:
            case, path = Recovery.read(file)
        except YapaError as error:
            self.tell_trouble(str(error))
            return
        self.session.open_case(case, path)
        self.session.undo.resetClean()
        file.unlink(missing_ok=True)
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

