"""Forms: a dialog with fields, a line that says what is wrong, Done and Cancel."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent, QShowEvent
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from yapa.case.quantity_text import plain_number
from yapa.case.validation import in_words
from yapa.desktop.widgets.card import label
from yapa.errors import YapaError
from yapa.session.jobs import in_words as shown_error


def number_from(edit: QLineEdit, what: str) -> float:
    """The number in a field.

    Raises
    ------
    InputError
        If it is none.
    """
    return plain_number(edit.text(), what)


def ask(dialog: QDialog) -> bool:
    """Show a dialog until it is answered; its widgets go with it, what it holds stays."""
    try:
        return bool(dialog.exec())
    finally:
        dialog.deleteLater()


def show_once(dialog: QDialog) -> None:
    """Show a dialog beside the window; its widgets go when it is closed."""
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.show()


class FormDialog(QDialog):
    """A form with Done and Cancel, and a line that says what is wrong."""

    def __init__(self, title: str, parent: QWidget | None, done: str = "Done") -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(16, 16, 16, 12)
        self.column.setSpacing(8)
        self.form = QFormLayout()
        self.form.setHorizontalSpacing(12)
        self.column.addLayout(self.form)
        self.wrong = label("", 10, role="trouble", wrap=True)
        self.wrong.setAccessibleName("what is wrong")
        self.wrong.hide()
        self.column.addWidget(self.wrong)
        self.buttons = QDialogButtonBox()
        self.done_button = self.buttons.addButton(done, QDialogButtonBox.ButtonRole.AcceptRole)
        self.done_button.setDefault(True)
        self.buttons.addButton("Cancel", QDialogButtonBox.ButtonRole.RejectRole)
        self.buttons.accepted.connect(self._accept)
        self.buttons.rejected.connect(self.reject)
        self.column.addWidget(self.buttons)

    def field(self, name: str, text: str, tip: str, unit: str = "") -> QLineEdit:
        """A row with one field."""
        edit = QLineEdit(text)
        edit.setToolTip(tip)
        edit.setAccessibleName(name)
        self.form.addRow(f"{name}{f' [{unit}]' if unit else ''}", edit)
        return edit

    def show_message(self, text: str) -> None:
        """Say what is wrong, or nothing."""
        self.wrong.setText(text)
        self.wrong.setVisible(bool(text))

    def showEvent(self, event: QShowEvent) -> None:
        """The first field has the keys, unless a dialog gave them to another."""
        super().showEvent(event)
        if self.focusWidget() is not None:
            return
        item = self.form.itemAt(0, QFormLayout.ItemRole.FieldRole) or self.form.itemAt(0, QFormLayout.ItemRole.SpanningRole)
        widget = item.widget() if item is not None else None
        widget = widget or next((edit for edit in self.findChildren(QLineEdit) if edit.isVisibleTo(self)), None)
        if widget is not None:
            widget.setFocus(Qt.FocusReason.OtherFocusReason)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Enter in a field takes the form; a button that has the keys does what it says."""
        enter = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if enter and self.done_button.isEnabled() and not isinstance(self.focusWidget(), QPushButton):
            self._accept()
        else:
            super().keyPressEvent(event)

    def take(self) -> None:
        """Read the form; raise YapaError if it cannot be used."""
        raise NotImplementedError

    def _accept(self) -> None:
        try:
            with in_words("this form"):
                self.take()
        except YapaError as error:
            self.show_message(str(error))
            return
        except Exception as error:  # a fault: the form can be used again, and the one place that hears faults says what it was
            self.show_message(shown_error(error))
            raise
        self.accept()
