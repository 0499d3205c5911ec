"""New from outcomes: an empty scene, a thing that is dropped in it, and what should happen."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from yapa.case import Target
from yapa.desktop.app.theme import px
from yapa.desktop.dialogs.target import TargetDialog
from yapa.desktop.dialogs.thing_fields import ThingFields
from yapa.desktop.widgets.card import label
from yapa.desktop.widgets.form_dialog import number_from, show_once
from yapa.errors import YapaError
from yapa.session.edits import Edit
from yapa.session.new_case import BODY, dropped_scene
from yapa.session.outcomes import target_text

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow


class NewFromOutcomes(TargetDialog):
    """The form of an outcome, with what it is of above it; any number of outcomes one after the other."""

    def __init__(self, parent: QWidget | None) -> None:
        super().__init__(parent, [BODY], title="New from outcomes", done="Make the case")
        self.made: Edit | None = None
        self.wanted: list[Target] = []
        self.setMinimumWidth(px(520))
        self.thing = ThingFields("0.2", "Matters only with drag")
        self.drop_height = self.thing.field("Drop height [m]", "1.0", "From its lowest point to the floor")
        self.column.insertWidget(0, self.thing)
        self._listed = QVBoxLayout()
        self._listed.setSpacing(2)
        self.column.insertLayout(1, self._listed)
        self.another = QPushButton("Keep it, ask for another")
        self.another.setToolTip("Puts this outcome on the list above, and leaves the form free for one more")
        self.another.setAutoDefault(False)
        self.another.clicked.connect(self._keep)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(self.another)
        self.column.insertLayout(3, row)
        self.outcome.setCurrentText("apex")
        self.value.setFocus()

    def _keep(self) -> None:
        try:
            super().take()
        except YapaError as error:
            self.show_message(str(error))
            return
        assert self.target is not None
        self.show_message("")
        self._list(self.target)
        self.index.setValue(self.index.value() + 1)
        self.value.clear()
        self.value.setFocus()

    def _list(self, target: Target) -> None:
        self.wanted.append(target)
        line = QWidget()
        row = QHBoxLayout(line)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(label(target_text(target), 10), 1)
        drop = QPushButton("Leave out")
        drop.setObjectName("quiet")
        drop.setAccessibleName(f"leave out {target.label}")
        drop.setToolTip("Takes this outcome off the list")
        drop.setAutoDefault(False)
        row.addWidget(drop)

        def leave_out() -> None:
            self.wanted.remove(target)
            line.hide()
            line.deleteLater()

        drop.clicked.connect(leave_out)
        self._listed.addWidget(line)

    def take(self) -> None:
        """Make the case: what is on the list, and what stands in the form."""
        every = list(self.wanted)
        if self.value.text().strip() or not self.value.isEnabled() or not every:
            super().take()
            assert self.target is not None
            every.append(self.target)
        self.made = dropped_scene(every, number_from(self.drop_height, "drop height"), self.thing.weight, self.thing.ball,
                                  self.thing.box)


def open_dialog(window: MainWindow) -> None:
    """An empty scene, and the form over it."""
    if not window.files.may_leave():
        return
    back = window.files.begin_new()
    dialog = NewFromOutcomes(window)

    def fill() -> None:
        if dialog.made is not None and window.session.fill(dialog.made):
            window.show_message("ready: press F to find the numbers")

    dialog.accepted.connect(fill)
    dialog.rejected.connect(back)
    show_once(dialog)
