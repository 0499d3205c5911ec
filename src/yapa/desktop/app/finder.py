"""The finder in the status line: every command with its key, things of the stock and fields of the card, found by a word."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import QApplication, QHeaderView, QLineEdit, QTreeWidget, QTreeWidgetItem, QWidget
from shiboken6 import isValid

from yapa.desktop.app.commands import COMMANDS, Act, Command
from yapa.desktop.app.theme import px, theme
from yapa.session.building.stock import STOCK

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow

WIDE, HIGH, LINE, HEIGHT = 640, 320, 320, 17
"""pixels of the list, and of the line"""


def matching(words: str, commands: Sequence[Command] = COMMANDS) -> list[Command]:
    """Commands in which every word occurs, in their text, their tip or their key; those that begin with the words come first."""
    terms = words.lower().split()
    found = [c for c in commands if all(w in f"{c.text} {c.tip} {c.key} {c.menu}".lower() for w in terms)]
    return sorted(found, key=lambda c: not c.text.lower().startswith(" ".join(terms)) if terms else False)


def at_hand(window: MainWindow) -> list[Command]:
    """What a person who builds can reach by its name: things to put in, and the fields of the card."""
    if window.session.case is None or window.bench.work != "build":
        return []

    def put(thing: str) -> Act:
        return lambda w: w.bench.put(thing)

    def go(field: QWidget) -> Act:
        return lambda w: w.bench.go_to(field)

    things = [Command("Put in", thing.name, "", thing.meaning, put(thing.name)) for thing in STOCK]
    fields = [Command("Card", field.accessibleName(), "", field.toolTip(), go(field)) for field in window.bench.card.fields()]
    return things + fields


class Finder(QLineEdit):
    """Type a word; Enter does the first command that is left, or the chosen one; Esc goes back to where the keys were."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__()
        self._window = window
        self._commands: Sequence[Command] = COMMANDS
        self._before: QWidget | None = None
        self.setPlaceholderText("a word of what you want to do")
        self.setAccessibleName("words of a command")
        self.setToolTip("Narrows the list; Enter does the chosen command, Esc goes back")
        self.setFixedSize(px(LINE), px(HEIGHT))
        self.textChanged.connect(self.show_matching)
        self.list = QTreeWidget(window)
        self.list.setAccessibleName("commands")
        self.list.setHeaderHidden(True)
        self.list.setColumnCount(3)
        self.list.setRootIsDecorated(False)
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.header().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.itemClicked.connect(lambda item, _column: self._do(item))
        self.installEventFilter(self)
        self.list.hide()
        self.hide()

    def open(self) -> None:
        """Ask for a command."""
        self._commands = (*COMMANDS, *at_hand(self._window))
        self._before = QApplication.focusWidget()
        self.show()
        self.clear()
        self.show_matching("")
        bottom = self._window.height() - self._window.statusBar().height()
        high = min(px(HIGH), bottom - 60)
        self.list.setGeometry(12, bottom - high - 4, min(px(WIDE), self._window.width() - 24), high)
        self.list.show()
        self.list.raise_()
        self.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def close_list(self, give_back: bool = True) -> None:
        """Ask for nothing any more."""
        self.list.hide()
        self.hide()
        if give_back and self._before is not None and isValid(self._before):  # a card may have been made anew meanwhile
            self._before.setFocus()
        self._before = None

    def show_matching(self, words: str) -> None:
        """List what these words leave."""
        self.list.clear()
        for command in matching(words, self._commands):
            item = QTreeWidgetItem([command.text.rstrip("…"), command.key, command.tip])
            item.setForeground(1, theme().color("soft"))
            item.setForeground(2, theme().color("soft"))
            item.setToolTip(2, command.tip)
            item.setData(0, Qt.ItemDataRole.UserRole, command)
            self.list.addTopLevelItem(item)
        self._choose_row(0)

    def _choose_row(self, row: int) -> None:
        item = self.list.topLevelItem(row % max(self.list.topLevelItemCount(), 1))
        if item is not None:
            self.list.setCurrentItem(item)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Arrow keys go through the list while the words keep the focus; Enter does what is chosen."""
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Escape:
            event.accept()  # Esc closes the list and stops nothing else
            return True
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
            item = self.list.currentItem()
            if step is not None and item is not None:
                self._choose_row(self.list.indexOfTopLevelItem(item) + step)
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._do(item)
                return True
            if event.key() == Qt.Key.Key_Escape:
                self.close_list()
                return True
        return super().eventFilter(watched, event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        if self.isVisible() and event.reason() not in (Qt.FocusReason.PopupFocusReason, Qt.FocusReason.ActiveWindowFocusReason):
            self.close_list(give_back=False)

    def _do(self, item: QTreeWidgetItem | None) -> None:
        if item is not None:
            command: Command = item.data(0, Qt.ItemDataRole.UserRole)
            self.close_list()
            command.act(self._window)
