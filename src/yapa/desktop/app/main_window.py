"""The main window: its pages, its menus and keys, what it says, and closing without losing anything."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any, cast

from PySide6.QtCore import QTimer
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence
from PySide6.QtWidgets import QApplication, QLineEdit, QMainWindow, QMenu, QStackedWidget, QWidget

from yapa.desktop.app.case_files import CaseFiles
from yapa.desktop.app.commands import COMMANDS, Command
from yapa.desktop.app.fault_hooks import FaultHooks
from yapa.desktop.app.finder import Finder
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.remembered import Remembered
from yapa.desktop.pages.registry import PAGES
from yapa.desktop.widgets.card import label, set_role
from yapa.session.faults import Fault
from yapa.session.jobs import Queue
from yapa.session.recovery import Recovery

if TYPE_CHECKING:
    from yapa.desktop.bench.bench import Bench
    from yapa.desktop.dialogs.fault import FaultNotice
    from yapa.desktop.pages.start import StartPage

SLOW = 400
"""ms after which what is read or searched is told in the status line"""
READING = 12_000
"""ms that a quiet word stands"""
MAX_TROUBLES = 200
"""that are kept to be read again"""


class MainWindow(QMainWindow):
    """One window, one case: that of a file, or none yet, and the start page."""

    def __init__(self, recovery: Recovery | None = None, path: Path | None = None) -> None:
        super().__init__()
        self.recovery = recovery or Recovery()
        self.session: Session = Session(self.recovery)
        self.fault_hooks = FaultHooks(self.session)
        self.fault_notice: FaultNotice | None = None
        self.files: CaseFiles = CaseFiles(self)
        self.dialogs: dict[str, Any] = {}
        self.troubles: list[str] = []
        self.setWindowTitle("Yapa")
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self.remembered = Remembered(self, self.recovery.folder)
        self.remembered.restore()
        self._built: dict[str, QWidget] = {}
        self.pages = QStackedWidget()
        self.setCentralWidget(self.pages)
        self._status_line()
        self._opened = self.session.opened
        self.actions_by_text = self._menus()
        s = self.session
        s.error.connect(self.show_error)
        s.fault.connect(self.show_fault)
        s.message.connect(self.show_message)
        s.case_changed.connect(self._on_case)
        s.fit_ended.connect(self._on_fit_end)
        s.history_changed.connect(self._on_history)
        s.jobs_changed.connect(self._on_jobs)
        s.pull_began.connect(lambda h: self.show_message(f"pulling {h.name}: let go or Enter keeps it, Esc puts it back"))
        if path is None:
            self.show_page("start")
        else:
            self.open_path(path)
        self._on_history()

    # -- pages -----------------------------------------------------------------------------------

    def page(self, name: str) -> QWidget:
        """A page, made when it is first asked for."""
        if name not in self._built:
            made = next(page for page in PAGES if page.name == name).build(self)
            self._built[name] = made
            self.pages.addWidget(made)
        return self._built[name]

    def show_page(self, name: str) -> None:
        """Show a page; the case stays open behind it."""
        self.pages.setCurrentWidget(self.page(name))

    def show_case(self) -> None:
        """The case that is open, if one is."""
        if self.session.case is not None:
            self.show_page("bench")
            self.bench.stage.setFocus()

    def show_work(self, work: str) -> None:
        """Build or tune the case that is open."""
        if self.session.case is not None:
            self.show_page("bench")
            self.bench.show_work(work)

    @property
    def start(self) -> StartPage:
        """The start page."""
        return cast("StartPage", self.page("start"))

    @property
    def bench(self) -> Bench:
        """The bench."""
        return cast("Bench", self.page("bench"))

    # -- menus and keys --------------------------------------------------------------------------

    def _menus(self) -> dict[str, QAction]:
        menus: dict[str, QMenu] = {}
        actions = {}
        for command in COMMANDS:
            if command.menu not in menus:
                menus[command.menu] = self.menuBar().addMenu(command.menu)
                menus[command.menu].setToolTipsVisible(True)
            menu = menus[command.menu]
            if command.apart:
                menu.addSeparator()
            action = menu.addAction(command.text)
            action.setShortcut(QKeySequence(command.key))
            action.setToolTip(command.tip)
            action.triggered.connect(lambda _on=False, c=command: self._on_key(c))
            self.addAction(action)
            actions[command.text] = action
        return actions

    def _on_key(self, command: Command) -> None:
        if command.while_typing or not isinstance(QApplication.focusWidget(), QLineEdit):
            command.act(self)

    def run_command(self, text: str) -> None:
        """Do what a command of this name does."""
        next(c for c in COMMANDS if c.text == text).act(self)

    # -- saying ----------------------------------------------------------------------------------

    def _status_line(self) -> None:
        self.message = label("", 10, role="soft")
        self.message.setAccessibleName("message")
        self.finder: Finder = Finder(self)
        self.statusBar().addWidget(self.finder)
        self.statusBar().addWidget(self.message, 1)
        self.statusBar().setSizeGripEnabled(False)
        self.statusBar().setContentsMargins(14, 0, 14, 2)
        self.help = label(HELP, 10, role="soft")
        self.help.setAccessibleName("what is under way, or keys")
        self.statusBar().addPermanentWidget(self.help)
        self._quiet = QTimer(self, interval=READING, singleShot=True)
        self._quiet.timeout.connect(lambda: self.message.setText(""))
        self._slow = QTimer(self, interval=SLOW, singleShot=True)
        self._slow.timeout.connect(self._show_jobs)

    def show_message(self, text: str) -> None:
        """A quiet word in the status line."""
        set_role(self.message, "soft")
        self.message.setText(text)
        self._quiet.start()

    def show_error(self, text: str) -> None:
        """What went wrong and how to mend it; the present case stays as it is."""
        self.troubles.append(text)
        del self.troubles[:-MAX_TROUBLES]
        first = text.split("\n")[0]
        more = text.count("\n")
        self.message.setText(first + (f" (and {more} more)" if more else ""))
        self.message.setToolTip(text)
        set_role(self.message, "trouble")
        self._quiet.stop()

    def show_fault(self, fault: Fault) -> None:
        """A fault of the program: said in the line, and in a notice that has the details."""
        self.show_error(str(fault))
        if self.fault_notice is None or not self.fault_notice.isVisible():
            from yapa.desktop.dialogs.fault import FaultNotice  # a window opens sooner without

            if self.fault_notice is not None:
                self.fault_notice.deleteLater()
            self.fault_notice = FaultNotice(self)
        self.fault_notice.add(fault)
        self.fault_notice.show()

    def _on_jobs(self) -> None:
        """Files and searches that last are told, with how to stop them; a fit is told in the bar of the bench."""
        waited_for = self.session.jobs.under_way(Queue.FILES, Queue.SEARCH)
        if not waited_for:
            self._slow.stop()
            self.help.setText(HELP)
            if not self._built:  # the file that it began with could not be opened
                self.show_page("start")
        elif not self._slow.isActive():
            self._slow.start()

    def _show_jobs(self) -> None:
        waited_for = self.session.jobs.under_way(Queue.FILES, Queue.SEARCH)
        if waited_for:
            job = waited_for[0]
            done = "" if job.fraction is None else f" · {job.fraction:.0%}"
            self.help.setText(f"{job.text}{done} · Esc stops")

    # -- what the session announces --------------------------------------------------------------

    def _on_case(self) -> None:
        if self.session.case is None:
            return
        if self.session.opened != self._opened:  # what was said of another case is over
            self._opened = self.session.opened
            self.show_message("")
            self.message.setToolTip("")
            self.show_case()
        self._on_history()

    def _on_history(self) -> None:
        document = self.session.document
        history = None if document is None else document.history
        if document is not None and history is not None:
            self.setWindowTitle(f"{document.case.title}{'' if history.is_clean else ' · changed'} · Yapa")
        for word, text in (("Undo", history and history.undo_text), ("Redo", history and history.redo_text)):
            action = self.actions_by_text[word]
            action.setEnabled(text is not None)
            action.setText(f"{word} {text}" if text else word)

    def _on_fit_end(self, result) -> None:  # type: ignore[no-untyped-def]
        if result is not None:
            words = {"converged": "the fit has converged", "cancelled": "stopped; the best so far is kept",
                     "not reachable": "not reachable: nothing that may change moves what is wanted"}
            first = words.get(result.stopped, "the fit did not converge; the best it met is kept")
            self.show_message(f"{first} · {result.simulations} simulations in {result.seconds:.1f} s")

    def choose_type(self, step: int) -> None:
        """Larger or smaller type."""
        self.show_message(f"type is {self.remembered.choose_type(step):g} times as large from the next start on")

    def open_path(self, path: Path) -> None:
        """Open a case file."""
        self.session.opener.load(path)

    def apply_theme(self) -> None:
        """Take on the theme that is in use; labels follow the style sheet by themselves."""
        if "bench" in self._built:
            self.bench.traces.apply_theme()
        comparison = self.session.preview.comparison
        if comparison is not None:
            self.session.comparison_changed.emit(comparison)  # the colours of table cells are those of when they were filled
        for widget in self.findChildren(QWidget):
            widget.update()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """A file that is dropped anywhere is opened, or brought in."""
        path = next((Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()), None)
        if path is not None:
            event.acceptProposedAction()
            QTimer.singleShot(0, self, lambda: self.files.take_in(path))  # the drag ends before anything is asked

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.files.may_leave():
            event.ignore()
            return
        self.session.close()
        self.fault_hooks.remove()
        if "bench" in self._built:
            self.bench.stage.close_solids()
            self.bench.clicks.hear(False)
        self.remembered.keep(self.bench.split_now if "bench" in self._built else None)
        event.accept()


HELP = "Space plays · F fits · Ctrl+Space finds a command"
