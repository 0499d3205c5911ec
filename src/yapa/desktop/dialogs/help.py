"""Help: what has the keys and how it is used, then every command with its key."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QApplication, QDialog, QDialogButtonBox, QPlainTextEdit, QVBoxLayout, QWidget

from yapa.desktop.app.commands import COMMANDS
from yapa.desktop.app.theme import font, px
from yapa.desktop.widgets.form_dialog import show_once

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow


def help_text(focus: QWidget | None) -> str:
    """What the thing that has the keys says of itself, and the keys of all commands, menu by menu."""
    lines: list[str] = []
    widget = focus
    while widget is not None and not (widget.accessibleName() and widget.toolTip()):
        widget = widget.parentWidget()
    if widget is not None:
        lines += [widget.accessibleName(), f"    {widget.toolTip()}", ""]
    menu = ""
    for command in COMMANDS:
        if command.menu != menu:
            menu = command.menu
            lines += [menu]
        lines.append(f"    {command.key:<14}  {command.text.rstrip('…')}: {command.tip}")
    return "\n".join(lines)


class HelpDialog(QDialog):
    """The words, to be scrolled and searched by eye."""

    def __init__(self, parent: QWidget | None, text: str) -> None:
        super().__init__(parent)
        self.setWindowTitle("Help")
        self.resize(px(760), px(560))
        column = QVBoxLayout(self)
        self.words = QPlainTextEdit(text)
        self.words.setReadOnly(True)
        self.words.setFont(font(10))
        self.words.setAccessibleName("help")
        column.addWidget(self.words)
        buttons = QDialogButtonBox()
        buttons.addButton("Close", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)


def open_dialog(window: MainWindow) -> None:
    """Show it beside the window."""
    show_once(HelpDialog(window, help_text(QApplication.focusWidget())))
