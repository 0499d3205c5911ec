"""The notice of a fault of the program: what was under way, what became of the case, what can be done, and the details to copy."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QVBoxLayout, QWidget

from yapa.desktop.app.theme import px
from yapa.desktop.widgets.card import label
from yapa.session.faults import Fault

TITLE = "A fault of Yapa"


class FaultNotice(QDialog):
    """One notice for all faults until it is closed; it takes no keys from the window."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(TITLE)
        self.setAttribute(Qt.WidgetAttribute.WA_ShowWithoutActivating)
        self.faults: list[Fault] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 12)
        column.setSpacing(8)
        self.head = label("", 12, True, wrap=True)
        self.head.setAccessibleName("what went wrong")
        self.case = label("", 10, wrap=True)
        self.case.setAccessibleName("what became of the case")
        self.advice = label("You can go on. If it comes again, copy the details and send them with the case.", 10, role="soft",
                            wrap=True)
        self.copied = label("", 9, role="soft")
        for words in (self.head, self.case, self.advice, self.copied):
            column.addWidget(words)
        buttons = QDialogButtonBox()
        copy = buttons.addButton("Copy details", QDialogButtonBox.ButtonRole.ActionRole)
        copy.setToolTip("What was under way and where in the program it went wrong, as text; nothing of the case")
        copy.clicked.connect(self._copy)
        buttons.addButton("Close", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        self.setMinimumWidth(px(460))

    def add(self, fault: Fault) -> None:
        """Say one more fault; the same again is counted."""
        self.faults.append(fault)
        again = sum(other.details == fault.details for other in self.faults)
        self.head.setText(f"Something unexpected went wrong while {fault.activity}" + (f" ({again} times)" if again > 1 else ""))
        self.case.setText(f"{fault.consequence[0].upper()}{fault.consequence[1:]}.")
        self.copied.setText(fault.error)

    def _copy(self) -> None:
        details = dict.fromkeys(f"{fault}\n{fault.details}" for fault in self.faults)
        QGuiApplication.clipboard().setText("\n".join(details))
        self.copied.setText("copied")
