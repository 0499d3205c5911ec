"""Which contacts stand on the time axis, and which are heard: by pair and by how hard they are."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QCheckBox, QDialog, QDialogButtonBox, QFormLayout, QLineEdit, QVBoxLayout, QWidget

from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.sound import sound_works
from yapa.desktop.bench.clicks import Clicks
from yapa.desktop.widgets.card import label
from yapa.desktop.widgets.form_dialog import number_from, show_once
from yapa.errors import YapaError
from yapa.session.beats import ContactChoice, no_hits, pairs_of

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow


class ContactsDialog(QDialog):
    """A least speed and a tick a pair; each is followed at once."""

    def __init__(self, parent: QWidget | None, session: Session, clicks: Clicks) -> None:
        super().__init__(parent)
        self._session, self._clicks = session, clicks
        self.setWindowTitle("Contacts shown and heard")
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 12)
        form = QFormLayout()
        choice = session.preview.contact_choice
        self.least = QLineEdit(f"{choice.least:g}")
        self.least.setAccessibleName("least speed")
        self.least.setToolTip("Contacts that approach more slowly are left out")
        self.least.textEdited.connect(lambda _text: self._choose())
        form.addRow("least speed [m/s]", self.least)
        column.addLayout(form)
        self.ticks: dict[frozenset[str], QCheckBox] = {}
        comparison = session.preview.comparison
        for body, partner in pairs_of(comparison.motion) if comparison is not None else []:
            tick = QCheckBox(f"{body} with {partner}")
            tick.setAccessibleName(f"contacts of {body} with {partner}")
            tick.setChecked(frozenset((body, partner)) not in choice.left_out)
            tick.toggled.connect(lambda _on: self._choose())
            column.addWidget(tick)
            self.ticks[frozenset((body, partner))] = tick
        if comparison is not None and not self.ticks:
            column.addWidget(label(no_hits(comparison.motion), 10, role="soft"))
        self.heard = QCheckBox("A click at each of them while it plays, the louder the harder")
        self.heard.setAccessibleName("click at each contact")
        self.heard.setChecked(clicks.on)
        self.heard.toggled.connect(self._hear)
        column.addWidget(self.heard)
        self.heard.setVisible(sound_works())
        self.wrong = label("", 10, role="trouble", wrap=True)
        self.wrong.setAccessibleName("what is wrong")
        self.wrong.hide()
        column.addWidget(self.wrong)
        buttons = QDialogButtonBox()
        buttons.addButton("Close", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)

    def _hear(self, on: bool) -> None:
        try:
            self._clicks.hear(on)
        except OSError as error:
            self.heard.setChecked(False)
            self._say(str(error))

    def _choose(self) -> None:
        try:
            least = number_from(self.least, "least speed")
        except YapaError as error:
            self._say(str(error))
            return
        self._say("")
        left_out = frozenset(pair for pair, tick in self.ticks.items() if not tick.isChecked())
        self._session.preview.choose_contacts(ContactChoice(least, left_out))

    def _say(self, text: str) -> None:
        self.wrong.setText(text)
        self.wrong.setVisible(bool(text))


def open_dialog(window: MainWindow) -> None:
    """Show the choice beside the window."""
    show_once(ContactsDialog(window, window.session, window.bench.clicks))
