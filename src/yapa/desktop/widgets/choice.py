"""A box of choices whose words can be typed, spaces and all."""

from __future__ import annotations

from PySide6.QtCore import QElapsedTimer, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QApplication, QComboBox


class Choice(QComboBox):
    """A box of choices: a space while a name is typed is part of the name; alone it opens the list."""

    def __init__(self) -> None:
        super().__init__()
        self._typed = QElapsedTimer()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Look for what is typed."""
        going_on = self._typed.isValid() and self._typed.elapsed() < QApplication.keyboardInputInterval()
        if event.text().isprintable() and event.text() and not self.isEditable() and (going_on or event.key() != Qt.Key.Key_Space):
            self.view().setCurrentIndex(self.model().index(self.currentIndex(), self.modelColumn()))
            self.view().keyboardSearch(event.text())
            found = self.view().currentIndex()
            if found.isValid():
                self.setCurrentIndex(found.row())
                self.activated.emit(found.row())
            self._typed.start()
            return
        super().keyPressEvent(event)
