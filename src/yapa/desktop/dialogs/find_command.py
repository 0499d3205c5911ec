"""Find a command: every command with its key and what it does, things of the stock and fields of the card, found by a word."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QDialog, QHeaderView, QLineEdit, QTreeWidget, QTreeWidgetItem, QVBoxLayout, QWidget

from yapa.desktop.app.commands import COMMANDS, Act, Command
from yapa.desktop.app.theme import theme
from yapa.desktop.widgets.form_dialog import ask
from yapa.session.building.stock import STOCK

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow


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


class FindCommand(QDialog):
    """Type a word; Enter does the first command that is left, or the chosen one."""

    def __init__(self, parent: QWidget | None, commands: Sequence[Command] = COMMANDS) -> None:
        super().__init__(parent)
        self._commands = commands
        self.setWindowTitle("Find a command")
        self.resize(640, 420)
        self.chosen: Command | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 12)
        self.words = QLineEdit()
        self.words.setPlaceholderText("a word of what you want to do")
        self.words.setAccessibleName("words of a command")
        self.words.setToolTip("Narrows the list; Enter does the chosen command")
        self.words.textChanged.connect(self.show_matching)
        self.words.installEventFilter(self)
        self.list = QTreeWidget()
        self.list.setAccessibleName("commands")
        self.list.setHeaderHidden(True)
        self.list.setColumnCount(3)
        self.list.setRootIsDecorated(False)
        self.list.header().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.itemActivated.connect(lambda item, _column: self._choose(item))
        column.addWidget(self.words)
        column.addWidget(self.list, 1)
        self.show_matching("")

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
        """Arrow keys go through the list while the words keep the focus; Enter takes what is chosen."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
            item = self.list.currentItem()
            if step is not None and item is not None:
                self._choose_row(self.list.indexOfTopLevelItem(item) + step)
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._choose(item)
                return True
        return super().eventFilter(watched, event)

    def _choose(self, item: QTreeWidgetItem | None) -> None:
        if item is not None:
            self.chosen = item.data(0, Qt.ItemDataRole.UserRole)
            self.accept()


def open_dialog(window: MainWindow) -> None:
    """Ask for a command, and do it."""
    dialog = FindCommand(window, (*COMMANDS, *at_hand(window)))
    if ask(dialog) and dialog.chosen is not None:
        dialog.chosen.act(window)
