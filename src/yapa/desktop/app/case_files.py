"""Opening and saving: what is asked before work is left, and before somebody else's is replaced."""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QEventLoop, Qt
from PySide6.QtWidgets import QFileDialog, QMenu, QMessageBox

from yapa.desktop.widgets.form_dialog import ask
from yapa.session.demo_cases import demo_copy
from yapa.session.document import OutsideQuestion
from yapa.session.new_case import empty_scene

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow

CASES = "Yapa cases (*.yapa)"


def suggested_name(title: str) -> str:
    """A file name made of a title."""
    words = re.findall(r"[^\W_]+", title.lower())
    return "-".join(words)[:80].strip("-") + ".yapa" if words else "case.yapa"


class CaseFiles:
    """The files of one window's cases."""

    def __init__(self, window: MainWindow) -> None:
        self._window, self._session = window, window.session
        self._session.changed_on_disk.connect(self._on_changed_on_disk)
        self._session.outside_files.connect(self._on_outside)

    def may_leave(self) -> bool:
        """Ask before work that is not saved is left."""
        case = self._session.case
        if case is None or self._session.is_clean:
            return True
        box = self._box("Not saved", f"“{case.title}” has changes that are not saved.")
        keep = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        leave = box.addButton("Leave them", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole)
        ask(box)
        if box.clickedButton() is keep:
            return self._saved()
        return box.clickedButton() is leave

    def open_demo(self, path: Path) -> None:
        """Open a demo case; it is saved elsewhere, never over the one that ships."""
        if self.may_leave():
            self._session.opener.open_by(f"opening {path.stem}", lambda: demo_copy(path), self._session.open_case)

    def new_scene(self) -> None:
        """An empty scene, to be put together by hand."""
        if self.may_leave():
            self._session.open_case(empty_scene())
            self._window.show_work("build")

    def begin_new(self) -> Callable[[], None]:
        """Open an empty scene for a dialog to fill. What is returned goes back to what was open and shown before, unless the scene
        was edited meanwhile, or another case was opened."""
        session, window = self._session, self._window
        before, page = session.document, window.pages.currentWidget()
        work = window.bench.work if before is not None else "tune"
        session.open_case(empty_scene())
        window.show_work("tune")
        made = session.document

        def back() -> None:
            if session.document is not made or not session.is_clean:
                return
            if before is not None:
                session.take_up(before)
                window.bench.show_work(work)
            if page is not None:
                window.pages.setCurrentWidget(page)

        return back

    def browse(self) -> None:
        """Choose a case file."""
        if self.may_leave():
            name, _ = QFileDialog.getOpenFileName(self._window, "Open a case", "", f"{CASES};;All files (*)")
            if name:
                self._window.open_path(Path(name))

    def show_recent(self) -> None:
        """List the cases that were opened or saved last, under the menus; one of them is opened by Enter or a click."""
        recent = self._session.recent
        if recent is not None:
            self._session.work("looking for recent files", recent.present, self._list_recent)

    def _list_recent(self, files: list[Path]) -> None:
        if not files:
            self._window.show_message("no case was opened or saved yet")
            return
        menu = QMenu(self._window)
        menu.setAccessibleName("opened or saved last")
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for k, file in enumerate(files, start=1):
            menu.addAction(f"&{k}   {file.stem}   {file.parent}", partial(self.open_again, file))
        bar = self._window.menuBar()
        menu.setActiveAction(menu.actions()[0])
        menu.popup(bar.mapToGlobal(bar.rect().bottomLeft()))

    def open_again(self, path: Path) -> None:
        """Open a file that was opened before."""
        if self.may_leave():
            self._window.open_path(path)

    def take_in(self, path: Path) -> None:
        """Open a case; bring anything else in: into the case that is open, else as a new one."""
        if path.suffix.lower() == ".yapa":
            self.open_again(path)
            return
        case = self._session.case
        if case is not None and case.dynamic_bodies() and self._window.pages.currentWidget() is self._window.bench:
            from yapa.desktop.dialogs.bring_track import bring_file  # a window opens sooner without

            bring_file(self._window, path)
        else:
            from yapa.desktop.dialogs.new_from_track import new_from_track

            if self.may_leave():
                new_from_track(self._window, path)

    def save(self) -> None:
        """Save where it was opened, or ask."""
        if self._session.path is not None:
            self._session.saver.save(self._session.path)
        else:
            self.save_as()

    def save_as(self) -> None:
        """Save under a name."""
        if self._session.case is None:
            return
        start = self._session.path or Path.cwd() / suggested_name(self._session.case.title)
        name, _ = QFileDialog.getSaveFileName(self._window, "Save the case", str(start), CASES)
        if name:
            path = Path(name)
            self._session.saver.save(path if path.suffix else path.with_suffix(".yapa"))

    def recover(self, file: Path) -> None:
        """Take up the work of a window that ended without saving."""
        if self.may_leave():
            self._session.opener.recover(file)

    def _saved(self) -> bool:
        """Save, and wait for its end while the window goes on; whether nothing is left unsaved."""
        self.save()
        waiting = QEventLoop()
        self._session.jobs_changed.connect(waiting.quit)
        while self._session.saver.busy:
            waiting.exec()
        return self._session.is_clean

    def _box(self, title: str, text: str) -> QMessageBox:
        return QMessageBox(QMessageBox.Icon.NoIcon, title, text, parent=self._window)

    def _on_changed_on_disk(self, path: Path) -> None:
        """The file holds something else than when it was read: nobody's work is replaced without a word."""
        box = self._box("Changed on disk", f"“{path.name}” was changed by someone else since it was read here.")
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
            self._session.saver.save(path, overwrite=True)
        elif chosen is theirs:
            self._session.mark_clean()
            self._session.opener.load(path)

    def _on_outside(self, question: OutsideQuestion) -> None:
        """A case wants to read files from elsewhere: only what the person knows of is read."""
        names = "\n".join(str(file) for file in question.files[:8])
        more = f"\nand {len(question.files) - 8} more" if len(question.files) > 8 else ""
        box = self._box("Files from elsewhere", f"“{question.path.name}” reads files outside its own folder:\n\n{names}{more}")
        read = box.addButton("Read them", QMessageBox.ButtonRole.AcceptRole)
        leave = box.addButton("Do not open", QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(leave)
        ask(box)
        if box.clickedButton() is read:
            question.allow()
