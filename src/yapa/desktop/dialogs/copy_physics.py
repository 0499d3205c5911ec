"""What of a body's physics the others that are selected are given: each part ticked by itself."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QCheckBox, QWidget

from yapa.desktop.widgets.form_dialog import FormDialog, ask
from yapa.errors import bad_input
from yapa.session.building import assembling

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow

TIPS = {"mass": "Its mass or density, and whether it is hollow", "surface": "Its skin, worn by the others too",
        "damping": "Damping, drag, and how strongly gravity pulls", "launch": "Its start velocity and spin"}


class CopyPhysics(FormDialog):
    """Ticks; the launch is off at first."""

    def __init__(self, parent: QWidget | None, source: str, others: Sequence[str]) -> None:
        super().__init__(f"Copy from {source} to {', '.join(others)}", parent, "Copy")
        self.ticks: dict[str, QCheckBox] = {}
        self.what: list[str] = []
        for part in assembling.PHYSICS:
            tick = QCheckBox(part)
            tick.setAccessibleName(f"copy {part}")
            tick.setToolTip(TIPS.get(part, part))
            tick.setChecked(part != "launch")
            self.form.addRow(tick)
            self.ticks[part] = tick

    def take(self) -> None:
        """Note what is ticked."""
        self.what = [part for part, tick in self.ticks.items() if tick.isChecked()]
        if not self.what:
            raise bad_input("copy", "nothing ticked", "one part or more")


def open_dialog(window: MainWindow) -> None:
    """Ask what of the first selected body the others are given."""
    session, names = window.session, window.session.builder.selected
    if session.case is None:
        return
    if len(names) < 2:
        session.error.emit(f"copy physics: found {len(names)} bodies selected; expected two or more: the first is copied from")
        return
    dialog = CopyPhysics(window, names[0], names[1:])
    if ask(dialog):
        session.builder.edit(assembling.copy_physics(names[0], names[1:], dialog.what))
