"""What is shown on the stage beside the picture, each with a tick."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QCheckBox, QDialog, QDialogButtonBox, QVBoxLayout, QWidget

from yapa.desktop.bench.stage.stage import Stage
from yapa.desktop.widgets.card import label
from yapa.desktop.widgets.form_dialog import show_once
from yapa.session.vectors import VECTORS

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow


class ShownDialog(QDialog):
    """Ticks; each is followed at once."""

    def __init__(self, parent: QWidget | None, stage: Stage) -> None:
        super().__init__(parent)
        self.setWindowTitle("Show on the stage")
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 12)
        column.setSpacing(2)
        self.ticks: dict[str, QCheckBox] = {}
        for vectors in VECTORS:
            tick = QCheckBox(vectors.name)
            tick.setAccessibleName(f"show {vectors.name}")
            tick.setToolTip(vectors.meaning)
            tick.setChecked(vectors.name in stage.extras.shown)
            tick.toggled.connect(lambda on, name=vectors.name: stage.extras.show(name, on))
            column.addWidget(tick)
            column.addWidget(label(f"      {vectors.meaning}", 9, role="soft"))
            self.ticks[vectors.name] = tick
        buttons = QDialogButtonBox()
        buttons.addButton("Close", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)


def open_dialog(window: MainWindow) -> None:
    """Show the ticks beside the window."""
    show_once(ShownDialog(window, window.bench.stage))
