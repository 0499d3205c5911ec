"""A restless hand on the real window: ``python -m tests.hard.restless SEED SECONDS FOLDER [ACTS.json]``; a line of JSON at the end.

It clicks, drags, scrolls, presses keys, types and chooses at random, in whatever has the screen: menus, dialogs, the stage, lists.
An act is plain data (``{"do": "click", "widget": …, "at": …}``), so that a list of acts can be done again and made shorter.

Faults: an exception that reaches the event loop, a thread or an object's end; a line of the log at ERROR; a warning of Qt or NumPy;
"unexpected" said; a dialog or a job that does not end; the interface held; a title over another case; a case that cannot be saved
and loaded; a file changed that ships with the program; another case than the first after everything was undone.
"""

from __future__ import annotations

import faulthandler
import hashlib
import json
import logging
import os
import random
import sys
import threading
import time
import traceback
import warnings
from pathlib import Path
from typing import Any

ACT_PAUSE = 25
"""ms between two acts"""
HELD = float(os.environ.get("YAPA_HELD", "5"))
"""s that the interface may not answer"""
LAST_ACTS = 12
"""that are printed with a fault"""
PATIENCE = 8 * HELD
"""s that dialogs and jobs have to end when all is over"""
TEXTS = ("0", "1", "-1", "0.5", "1e999", "nan", "inf", "-inf", "abc", "", " ", "0,3", "12 cm", "3 deg", "1e-9", "1e9", "×1.1",
         "+2 cm", "5 parsec", "0.3 x 0.2 x 0.1", "orange", "x.y", "a+b", "ä" * 80, "0.74, 0.41", "t^2", "1.4 - g * t^2 / 2",
         "sqrt(", "apex 2", "1/0", "−3", "٣")
KEYS = ("Return", "Escape", "Tab", "Space", "Delete", "Backspace", "Up", "Down", "Left", "Right", "Home", "End", "F1", "F2", "F6",
        *"1234567890abcdefghijklmnopqrstuvwxyz,.+-")
QUIET_WORDS = ("propagateSizeHints", "XDG_RUNTIME_DIR", "QXcb", "xcb", "fontconfig", "setGeometry", "does not support")
"""in messages of Qt that are about the display, not about the program"""


class Watch:
    """What goes wrong, from whichever side it comes."""

    def __init__(self) -> None:
        self.faults: list[str] = []
        self.beat = time.monotonic()
        self._lock = threading.Lock()
        sys.excepthook = lambda kind, error, trace: self.add("exception", "".join(traceback.format_exception(error)))
        threading.excepthook = lambda a: self.add("thread", "".join(traceback.format_exception(a.exc_value)))
        sys.unraisablehook = lambda a: self.add("unraisable", "".join(traceback.format_exception(a.exc_value)) + str(a.err_msg))
        handler = logging.Handler(logging.ERROR)
        handler.emit = lambda record: self.add("log", logging.Formatter().format(record))  # type: ignore[method-assign]
        logging.getLogger().addHandler(handler)
        threading.Thread(target=self._look_at_beat, daemon=True).start()

    def add(self, kind: str, words: str) -> None:
        with self._lock:
            if len(self.faults) < 20:
                self.faults.append(f"{kind}: {words[-2500:]}")

    def on_qt(self, kind: Any, _context: Any, words: str) -> None:
        if "Fatal" in str(kind):
            print(f"Qt ends the process: {words}", file=sys.stderr, flush=True)
        if "Debug" not in str(kind) and "Info" not in str(kind) and not any(word in words for word in QUIET_WORDS):
            self.add("Qt", words)

    def _look_at_beat(self) -> None:
        main = threading.main_thread().ident
        said = 0.0
        while True:
            time.sleep(0.25)
            if time.monotonic() - self.beat > HELD and self.beat != said:
                said = self.beat
                frame = sys._current_frames().get(main or 0)
                self.add("held", f"the interface was held over {HELD:g} s\n" + "".join(traceback.format_stack(frame)))


class Restless:
    """The hand; acts are chosen by a seed, or given."""

    def __init__(self, seed: int, seconds: float, folder: Path, given: list[dict[str, Any]] | None) -> None:
        from PySide6.QtCore import QTimer, qInstallMessageHandler
        from PySide6.QtWidgets import QApplication

        from tests.hard.strangers_files import write_files
        from yapa.desktop.app.app import make_application

        self.watch, self.chance, self.folder, self.given = Watch(), random.Random(seed), folder, given
        self.acts: list[dict[str, Any]] = []
        self.app: QApplication = make_application()
        qInstallMessageHandler(self.watch.on_qt)
        self.files = write_files(folder / "work")
        os.chdir(folder / "work")
        self.first: dict[int, str] = {}
        self.window: Any = None
        self._acting: list[Any] = []
        """Of every act that is under way, the modal dialog it was begun in."""
        self.ending = False
        self.undone = False
        self._end = time.monotonic() + seconds
        self._patience = 0.0
        self._shipped = shipped_bytes()
        self._open_window()
        self._beat = QTimer(interval=100)
        self._beat.timeout.connect(self._tick_beat)
        self._beat.start()

    def run(self) -> dict[str, Any]:
        self._arm()
        self.app.exec()
        if shipped_bytes() != self._shipped:
            self.watch.add("files", "a file that ships with the program has changed")
        return {"faults": self.watch.faults, "acts": self.acts}

    # -- the loop --------------------------------------------------------------------------------

    def _arm(self, pause: int = ACT_PAUSE) -> None:
        from PySide6.QtCore import QTimer

        QTimer.singleShot(pause, self._tick)

    def _tick_beat(self) -> None:
        self.watch.beat = time.monotonic()

    def _tick(self) -> None:
        from PySide6.QtWidgets import QApplication

        over = bool(self.watch.faults) or time.monotonic() > self._end or (self.given is not None and not self.given)
        if over and not self.ending:
            self.ending, self._patience = True, time.monotonic() + PATIENCE
        if self.ending:
            if self._finish():
                self.app.exit()
                return
            self._arm(100)
            return
        self._arm(self.chance.choice((ACT_PAUSE, ACT_PAUSE, ACT_PAUSE, 200)) if self.given is None else ACT_PAUSE * 2)
        modal = QApplication.activeModalWidget()
        if self._acting and (modal is None or any(modal is other for other in self._acting)):
            return  # inside an act the test library goes through events as well; only a dialog that is waited for is acted on
        self._acting.append(modal)
        try:
            act = self.given.pop(0) if self.given is not None else self._choose()
            if act is not None:
                self.acts.append(act)
                self._do(act)
            self._look()
        except RuntimeError as error:
            if "already deleted" not in str(error):
                raise
        finally:
            self._acting.pop()

    def _open_window(self) -> None:
        from yapa.desktop.app.main_window import MainWindow
        from yapa.session.recovery import Recovery

        self.window = MainWindow(Recovery(self.folder / "state"))
        self.window.resize(1280, 800)
        self.window.show()

    def _look(self) -> None:
        """What should always hold."""
        from yapa.errors import YapaError
        from yapa.formats.case_json import case_text, parse_case

        if not self.window.isVisible():
            self._open_window()
        session = self.window.session
        document = session.document
        if any("unexpected" in words for words in self.window.troubles):
            self.watch.add("said", self.window.troubles[-1])
        if document is None:
            return
        if document.number not in self.first:
            self.first[document.number] = bare_text(document.history._states[0])
        if not self.window.windowTitle().startswith(document.case.title):
            self.watch.add("title", f"{self.window.windowTitle()!r} stands over {document.case.title!r}")
        if len(self.acts) % 10 == 0:
            try:
                parse_case(case_text(document.case), "the case that is open")
            except (YapaError, ValueError) as error:
                self.watch.add("unsavable", str(error))

    def _finish(self) -> bool:
        """Close what is open, wait for the jobs, undo everything; whether all is done."""
        from PySide6.QtCore import Qt
        from PySide6.QtTest import QTest
        from PySide6.QtWidgets import QApplication, QDialog

        late = time.monotonic() > self._patience
        popup = QApplication.activePopupWidget()
        if popup is not None and not late:
            popup.close()
            return False
        dialogs = [w for w in self.app.topLevelWidgets() if isinstance(w, QDialog) and w.isVisible()]
        if dialogs and not late:
            dialog = QApplication.activeModalWidget() or dialogs[-1]
            if QApplication.activeWindow() is not dialog:
                dialog.activateWindow()
            QTest.keyPress(dialog.windowHandle() or dialog, Qt.Key.Key_Escape)
            return False
        for dialog in dialogs:
            focus = dialog.focusWidget()
            where = f"{type(dialog).__name__}, the keys go to {word_of(focus) if focus is not None else 'nothing'}"
            self.watch.add("stuck", f"the dialog {dialog.windowTitle()!r} ({where}) does not close by Esc")
            dialog.close()
        session = self.window.session
        if not session.jobs.idle and not late:
            session.stop()
            session.jobs.cancel()
            return False
        if not session.jobs.idle:
            self.watch.add("stuck", f"jobs do not end: {[job.text for job in session.jobs.under_way()]}")
        document = session.document
        if document is not None and not self.watch.faults and not self.undone:
            self.undone = True
            while document.history.undo_text is not None:
                session.undo()
            first = self.first.get(document.number)
            if first is not None and document.history.steps < 5000 and bare_text(document.case) != first:
                self.watch.add("undo", "after undoing everything the case is not as it was")
            return False
        session.mark_clean()
        self.window.close()
        return True

    # -- choosing --------------------------------------------------------------------------------

    def _screen(self) -> Any:
        """What hears the mouse and the keys: a popup, a modal dialog, else the window or a dialog beside it."""
        from PySide6.QtWidgets import QApplication, QDialog

        top = QApplication.activePopupWidget() or QApplication.activeModalWidget()
        if top is not None:
            return top
        beside = [w for w in self.app.topLevelWidgets() if isinstance(w, QDialog) and w.isVisible()]
        return self.chance.choice(beside) if beside and self.chance.random() < 0.7 else self.window

    def _choose(self) -> dict[str, Any] | None:
        from PySide6.QtWidgets import QFileDialog, QMenu

        chance, screen = self.chance, self._screen()
        if isinstance(screen, QFileDialog):
            file = chance.choice([*[str(f) for f in self.files], *(f"saved {k}.yapa" for k in range(3)), "out.csv"])
            return {"do": "file", "path": "" if chance.random() < 0.2 else file}
        if isinstance(screen, QMenu):
            actions = [a for a in screen.actions() if a.isVisible() and not a.isSeparator()]
            if actions and chance.random() < 0.8:
                return {"do": "menu", "text": chance.choice(actions).text()}
            return {"do": "key", "key": "Escape", "mods": ""}
        kinds = ("click",) * 8 + ("drag",) * 3 + ("key",) * 5 + ("type",) * 5 + ("wheel",) + ("choose",) * 2 + ("action",) * 2 + (
            "start",) + ("accept",) * 2
        kind = chance.choice(kinds)
        if kind == "key":
            return {"do": "key", "key": chance.choice(KEYS), "mods": chance.choice(("", "", "", "", "C", "S", "CS", "CA"))}
        if kind == "action":
            every = self.window.actions_by_text.items()
            enabled = [t for t, a in every if a.isEnabled() and (t != "Quit" or chance.random() < 0.2)]
            return {"do": "action", "text": chance.choice(enabled)} if screen is self.window else None
        if kind == "start":
            return {"do": "start", "k": chance.randrange(7)} if screen is self.window and chance.random() < 0.2 else None
        if kind == "accept":
            return {"do": "key", "key": "Return", "mods": ""} if screen is not self.window else None
        found = self._widget(screen, kind)
        if found is None:
            return None
        widget, name = found
        act: dict[str, Any] = {"do": kind, "widget": name, "at": [round(chance.random(), 3), round(chance.random(), 3)]}
        if kind == "click":
            act |= {"button": chance.choice("LLLLLLLR"), "twice": chance.random() < 0.1,
                    "mods": chance.choice(("", "", "", "S", "C"))}
        elif kind == "drag":
            onto = self._widget(screen, "drag")
            act |= {"onto": onto[1] if onto and chance.random() < 0.3 else name, "mods": chance.choice(("", "", "S", "C", "A")),
                    "to": [round(chance.random(), 3), round(chance.random(), 3)]}
        elif kind == "type":
            act |= {"text": chance.choice(TEXTS), "end": chance.choice(("Return", "Return", "Tab", "Escape", ""))}
        elif kind == "choose":
            act |= {"k": chance.randrange(12)}
        elif kind == "wheel":
            act |= {"by": chance.choice((-120, 120, -480, 480))}
        return act

    def _widgets(self, screen: Any) -> list[Any]:
        from PySide6.QtWidgets import QWidget

        return [w for w in screen.findChildren(QWidget) if w.isVisible() and w.isEnabled() and w.width() > 3 and w.height() > 3
                and w.window() is screen]

    def _widget(self, screen: Any, kind: str) -> tuple[Any, str] | None:
        from PySide6.QtWidgets import QAbstractSpinBox, QComboBox, QLineEdit

        found = self._widgets(screen)
        if kind == "type":
            found = [w for w in found if isinstance(w, QLineEdit | QAbstractSpinBox)]
        elif kind == "choose":
            found = [w for w in found if isinstance(w, QComboBox)]
        elif self.chance.random() < 0.85:
            named = [w for w in found if w.accessibleName() or w.focusPolicy().value]
            found = [w for w in named if "stage" in w.objectName()] if self.chance.random() < 0.25 else named
        if not found:
            return None
        widget = self.chance.choice(found)
        return widget, self._name_of(widget, screen)

    def _name_of(self, widget: Any, screen: Any) -> str:
        word = word_of(widget)
        alike = [w for w in self._widgets(screen) if word_of(w) == word]
        return f"{word}#{alike.index(widget)}"

    def _named(self, name: str) -> Any:
        from PySide6.QtWidgets import QApplication

        word, _, k = name.rpartition("#")
        top = QApplication.activePopupWidget() or QApplication.activeModalWidget()
        screens = [top] if top is not None else [w for w in self.app.topLevelWidgets() if w.isVisible()]
        alike = [w for screen in screens for w in self._widgets(screen) if word_of(w) == word]
        return alike[int(k)] if int(k) < len(alike) else None

    # -- doing -----------------------------------------------------------------------------------

    def _do(self, act: dict[str, Any]) -> None:
        getattr(self, f"_do_{act['do']}")(act)

    def _place(self, widget: Any, at: list[float]) -> tuple[Any, Any]:
        """The window of a widget, and the place in it."""
        from PySide6.QtCore import QPoint

        top = widget.window()
        there = widget.mapTo(top, QPoint(int(at[0] * (widget.width() - 1)), int(at[1] * (widget.height() - 1))))
        return top.windowHandle(), QPoint(min(max(there.x(), 0), top.width() - 1), min(max(there.y(), 0), top.height() - 1))

    def _do_click(self, act: dict[str, Any]) -> None:
        from PySide6.QtCore import Qt
        from PySide6.QtTest import QTest

        widget = self._named(act["widget"])
        if widget is None:
            return
        handle, at = self._place(widget, act["at"])
        button = Qt.MouseButton.LeftButton if act["button"] == "L" else Qt.MouseButton.RightButton
        if handle is None:
            return
        if act["twice"] and widget.window() is self.window:
            QTest.mouseDClick(handle, button, modifiers(act["mods"]), at)
            return
        top = widget.window()
        QTest.mousePress(handle, button, modifiers(act["mods"]), at)
        if self._stands(top):
            QTest.mouseRelease(top.windowHandle(), button, modifiers(act["mods"]), at)

    def _stands(self, top: Any) -> bool:
        """Whether a window was not cleared away by the first half of what was done to it."""
        return any(top is w for w in self.app.topLevelWidgets()) and top.isVisible() and top.windowHandle() is not None

    def _do_drag(self, act: dict[str, Any]) -> None:
        from PySide6.QtCore import QPoint, Qt
        from PySide6.QtTest import QTest

        widget, onto = self._named(act["widget"]), self._named(act["onto"])
        if widget is None or onto is None or onto.window() is not widget.window():
            return
        handle, a = self._place(widget, act["at"])
        _, b = self._place(onto, act["to"])
        if handle is None:
            return
        mods, left, top = modifiers(act["mods"]), Qt.MouseButton.LeftButton, widget.window()
        QTest.mousePress(handle, left, mods, a)
        for k in range(1, 7):
            if self._stands(top):
                QTest.mouseMove(top.windowHandle(), a + (b - a) * k / 6 if k < 6 else QPoint(b))
        if self._stands(top):
            QTest.mouseRelease(top.windowHandle(), left, mods, b)

    def _do_key(self, act: dict[str, Any]) -> None:
        from PySide6.QtTest import QTest
        from PySide6.QtWidgets import QApplication

        top = QApplication.activePopupWidget() or QApplication.activeModalWidget() or QApplication.activeWindow() or self.window
        key, mods = key_of(act["key"]), modifiers(act["mods"])
        if top.windowHandle() is not None:
            QTest.keyPress(top.windowHandle(), key, mods)
            if self._stands(top):
                QTest.keyRelease(top.windowHandle(), key, mods)

    def _do_type(self, act: dict[str, Any]) -> None:
        from PySide6.QtCore import Qt
        from PySide6.QtTest import QTest

        widget = self._named(act["widget"])
        if widget is None:
            return
        widget.setFocus(Qt.FocusReason.MouseFocusReason)
        QTest.keyClick(widget, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
        QTest.keyClick(widget, Qt.Key.Key_Delete)
        for letter in act["text"]:
            self._type_letter(widget, letter)
        if act["end"] and self._named(act["widget"]) is widget:
            QTest.keyClick(widget, key_of(act["end"]))

    def _type_letter(self, widget: Any, letter: str) -> None:
        """Any letter of Unicode; the test library's own keys know those of ASCII."""
        from PySide6.QtCore import QEvent, Qt
        from PySide6.QtGui import QKeyEvent

        for kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
            self.app.sendEvent(widget, QKeyEvent(kind, 0, Qt.KeyboardModifier.NoModifier, letter))

    def _do_choose(self, act: dict[str, Any]) -> None:
        box = self._named(act["widget"])
        if box is not None and box.count():
            k = act["k"] % box.count()
            box.setCurrentIndex(k)
            box.activated.emit(k)

    def _do_wheel(self, act: dict[str, Any]) -> None:
        from PySide6.QtCore import QPoint, QPointF, Qt
        from PySide6.QtGui import QWheelEvent

        widget = self._named(act["widget"])
        if widget is not None:
            at = QPointF(act["at"][0] * widget.width(), act["at"][1] * widget.height())
            self.app.sendEvent(widget, QWheelEvent(
                at, widget.mapToGlobal(at), QPoint(), QPoint(0, act["by"]), Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier,
                Qt.ScrollPhase.NoScrollPhase, False))

    def _do_action(self, act: dict[str, Any]) -> None:
        action = self.window.actions_by_text[act["text"]]
        if action.isEnabled():
            action.trigger()

    def _do_menu(self, act: dict[str, Any]) -> None:
        from PySide6.QtCore import Qt
        from PySide6.QtTest import QTest
        from PySide6.QtWidgets import QApplication, QMenu

        menu = QApplication.activePopupWidget()
        if isinstance(menu, QMenu):
            found = next((a for a in menu.actions() if a.text() == act["text"]), None)
            if found is not None:
                left, none, at = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, menu.actionGeometry(found).center()
                QTest.mousePress(menu.windowHandle(), left, none, at)
                if self._stands(menu):
                    QTest.mouseRelease(menu.windowHandle(), left, none, at)

    def _do_file(self, act: dict[str, Any]) -> None:
        from PySide6.QtWidgets import QApplication, QFileDialog, QLineEdit

        dialog = QApplication.activeModalWidget()
        if isinstance(dialog, QFileDialog):
            if not act["path"]:
                dialog.reject()
                return
            field = dialog.findChild(QLineEdit)
            if field is not None:
                field.setText(act["path"])
            dialog.accept()

    def _do_start(self, act: dict[str, Any]) -> None:
        """Go to a demo case by way of the start page."""
        self.window.show_page("start")
        cards = self.window.start.cards
        card = cards[act["k"] % len(cards)]
        card.pressed.emit(card._thing)


def word_of(widget: Any) -> str:
    """What a widget is called."""
    text = widget.text() if hasattr(widget, "text") and callable(widget.text) and not hasattr(widget, "setReadOnly") else ""
    return f"{type(widget).__name__}:{widget.accessibleName() or widget.objectName() or text}"[:80]


def modifiers(letters: str) -> Any:
    from PySide6.QtCore import Qt

    out = Qt.KeyboardModifier.NoModifier
    for letter, key in (("C", Qt.KeyboardModifier.ControlModifier), ("S", Qt.KeyboardModifier.ShiftModifier),
                        ("A", Qt.KeyboardModifier.AltModifier)):
        if letter in letters:
            out |= key
    return out


def key_of(name: str) -> Any:
    from PySide6.QtCore import Qt
    from PySide6.QtGui import QKeySequence

    return getattr(Qt.Key, f"Key_{name}", None) or QKeySequence(name)[0].key()


def bare_text(case: Any) -> str:
    """A case as text, without what joins it later: its ledger, and the files of its tracks."""
    from yapa.formats.case_json import case_text

    return case_text(case.without_files().model_copy(update={"trials": (), "scenes": {}}))


def shipped_bytes() -> str:
    """A digest of all that ships with the program as data."""
    from yapa.demo import DATA

    digest = hashlib.sha256()
    for path in sorted(DATA.iterdir()):
        digest.update(path.name.encode() + path.read_bytes())
    return digest.hexdigest()


def main() -> None:
    """One seed, or given acts; the faults and the acts as a line of JSON."""
    seed, seconds, folder = int(sys.argv[1]), float(sys.argv[2]), Path(sys.argv[3])
    given = json.loads(Path(sys.argv[4]).read_text()) if len(sys.argv) > 4 else None
    warnings.simplefilter("error", RuntimeWarning)
    faulthandler.enable()
    folder.mkdir(parents=True, exist_ok=True)
    os.environ.setdefault("XDG_CACHE_HOME", str(Path.home() / ".cache"))  # the compiled engine stands there
    os.environ["HOME"] = str(folder)
    os.environ["XDG_STATE_HOME"] = os.environ["XDG_CONFIG_HOME"] = str(folder / "state")
    found = Restless(seed, seconds, folder, given).run()
    print(json.dumps({"seed": seed, "count": len(found["acts"]), "last": found["acts"][-LAST_ACTS:], **found}), flush=True)
    os._exit(1 if found["faults"] else 0)


if __name__ == "__main__":
    main()
