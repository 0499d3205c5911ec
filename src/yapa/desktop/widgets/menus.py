"""Menus of widgets that may be made anew while the menu stands open, as cards are."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu, QWidget
from shiboken6 import isValid


class Menu(QMenu):
    """A menu that belongs to the window and is shown by ``popup``, without a loop of its own.

    A menu that is a child of a card, and waited for, would be cleared away with it under the feet of who waits. What is chosen once
    the card is gone does nothing.

    Parameters
    ----------
    of : the widget whose menu it is
    name : for who hears it
    """

    def __init__(self, of: QWidget, name: str = "") -> None:
        super().__init__(of.window())
        self._of = of
        self.setAccessibleName(name)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)

    def offer(self, text: str, act: Callable[[], object]) -> QAction:
        """One more line, and what it does."""
        action = self.addAction(text)
        action.triggered.connect(lambda _on=False: act() if isValid(self._of) else None)
        return action
