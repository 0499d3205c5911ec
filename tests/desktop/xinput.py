"""The mouse and the keyboard as an X server hears them; only on a display that the test run started itself.

``tools/with_display.sh`` puts the number of its display and a token into the environment, and the token into a property of the root
window. Both are compared before every gesture; anywhere else nothing is sent and the test stops with an error.
"""

from __future__ import annotations

import os
import subprocess
import time
from collections.abc import Sequence

from PySide6.QtCore import QObject, QPoint, QTimer
from PySide6.QtWidgets import QApplication, QWidget

PROPERTY = "YAPA_TEST_DISPLAY"
PATIENCE = 40.0
"""How long a dialog may take to open, to be filled and to close [s]."""
AGAIN = 3.0
"""How long a dialog stays open before Enter is pressed again [s]."""


class NotOurDisplay(RuntimeError):
    """The display is one that the test run did not start."""


def check_display() -> None:
    """Stop where the display is not the one that the test run started."""
    display, told = os.environ.get("DISPLAY", ""), os.environ.get(PROPERTY, "")
    number, _, token = told.partition(" ")
    if not token or display != number:
        raise NotOurDisplay(f"DISPLAY is {display!r}, the tests' own is {number!r}")
    stands = subprocess.run(["xprop", "-root", PROPERTY], capture_output=True, text=True, check=False).stdout
    if f'"{token}"' not in stands:
        raise NotOurDisplay(f"the display {display} has not the token of this test run")


class Typist(QObject):
    """Types into a dialog once it has the keys, a word each turn of its loop.

    A dialog that does not close, or closes before all was typed, is sent away and said: a test fails then, it does not hang.
    """

    def __init__(self, title: str, words: Sequence[tuple[str, ...]]) -> None:
        super().__init__()
        check_display()
        self.title, self.words, self.trouble = title, list(words), ""
        self._until = time.monotonic() + PATIENCE
        self._again = 0.0
        self._timer = QTimer(self, interval=60)
        self._timer.timeout.connect(self._next)
        self._timer.start()

    def _next(self) -> None:
        dialog = QApplication.activeModalWidget()
        here = dialog is not None and dialog.windowTitle() == self.title
        focus = QApplication.focusWidget()
        if not here and not self.words:
            self._timer.stop()  # all was typed, and the dialog went
        elif time.monotonic() > self._until:
            self._timer.stop()
            what = f"does not take {self.words}" if self.words else "does not close"
            self.trouble = f"the dialog {self.title!r} {what}"
            if dialog is not None:
                dialog.close()
        elif here and self.words and dialog.isActiveWindow() and focus is not None and dialog.isAncestorOf(focus):
            subprocess.run(["xdotool", *self.words.pop(0)], check=True)
            self._again = time.monotonic() + AGAIN
        elif here and not self.words and time.monotonic() > self._again:
            subprocess.run(["xdotool", "key", "Return"], check=True)  # the first one went to a list of proposals
            self._again = time.monotonic() + AGAIN


class Person:
    """One who sits at the window. Counts what is done: clicks, drags, key chords, fields typed."""

    def __init__(self) -> None:
        self.actions = 0
        self._typist: Typist | None = None

    def _send(self, *words: str) -> None:
        check_display()
        if self._typist is not None:
            assert not self._typist.trouble, self._typist.trouble
        subprocess.run(["xdotool", *words], check=True)
        end = time.monotonic() + 0.06
        while time.monotonic() < end:
            QApplication.processEvents()
            time.sleep(0.004)

    def click(self, widget: QWidget, at: QPoint | None = None, button: int = 1, keys: Sequence[str] = ()) -> None:
        """Click in a widget: in its middle, or at a place of it."""
        self.actions += 1
        self._go(widget, at)
        self._held(keys, lambda: self._send("click", str(button)))

    def drag(self, widget: QWidget, start: QPoint, end: QPoint, keys: Sequence[str] = (), onto: QWidget | None = None) -> None:
        """Press at a place, move, and let go at another, of the same widget or of another."""
        self.actions += 1
        self._go(widget, start)

        def pull() -> None:
            self._send("mousedown", "1")
            a, b = widget.mapToGlobal(start), (onto or widget).mapToGlobal(end)
            for k in range(1, 9):
                self._send("mousemove", str(round(a.x() + (b.x() - a.x()) * k / 8)), str(round(a.y() + (b.y() - a.y()) * k / 8)))
            self._send("mouseup", "1")

        self._held(keys, pull)

    def key(self, chord: str) -> None:
        """Press keys together: ``ctrl+z``, ``Tab``, ``shift+Right``."""
        self.actions += 1
        self._send("key", chord)

    def type_into(self, widget: QWidget, text: str) -> None:
        """Fill a field: click it, mark what stands there, type, Enter."""
        self.actions += 1
        self._go(widget, None)
        self._send("click", "1")
        self._send("key", "ctrl+a")
        self._send("type", "--delay", "2", "--", text)
        self._send("key", "Return")

    def answer(self, title: str, *fields: str) -> None:
        """Type into the fields of a dialog that is about to open, one after the other by Tab, and press Enter; "[Down]" is a key.

        It is done while the window waits for the dialog: nothing is typed before the dialog has the keys.
        """
        self.actions += len(fields)
        words: list[tuple[str, ...]] = []
        for k, text in enumerate(fields):
            words += [("key", "Tab")][: bool(k)]
            words += [("key", text[1:-1])] if text.startswith("[") else [("key", "ctrl+a"), ("type", "--delay", "2", "--", text)]
        self._typist = Typist(title, [*words, ("key", "Return")])

    def _go(self, widget: QWidget, at: QPoint | None) -> None:
        place = widget.mapToGlobal(at if at is not None else widget.rect().center())
        self._send("mousemove", str(place.x()), str(place.y()))

    def _held(self, keys: Sequence[str], act) -> None:  # type: ignore[no-untyped-def]
        for key in keys:
            self._send("keydown", key)
        act()
        for key in reversed(keys):
            self._send("keyup", key)
