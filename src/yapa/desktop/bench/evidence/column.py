"""The left column: bodies, tracks, targets, and measured beside simulated."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QInputDialog, QMenu, QWidget
from shiboken6 import isValid

from yapa.case import Case, Target
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.bench.builder.scene_list import account
from yapa.desktop.bench.evidence.body_card import BodyCard
from yapa.desktop.bench.evidence.comparison_table import ComparisonTable
from yapa.desktop.bench.evidence.table_card import TableCard
from yapa.desktop.bench.evidence.target_card import TargetCard
from yapa.desktop.bench.evidence.track_card import TrackCard
from yapa.desktop.dialogs.numbers import NumbersDialog, prefixes_of_body
from yapa.desktop.dialogs.target import TargetDialog
from yapa.desktop.widgets.card import button, label
from yapa.desktop.widgets.column import Column, _clear
from yapa.desktop.widgets.form_dialog import ask
from yapa.desktop.widgets.later import Later
from yapa.session.comparison import Comparison, TrackData, track_data
from yapa.session.edits import add_target, remove_track, replace_target
from yapa.session.table_form import remove_table

MAX_BODY_CARDS = 40
"""Cards of bodies in the column; what moves comes first."""


class EvidenceColumn(Column):
    """Bodies, tracks, targets, and measured | simulated | gap."""

    def __init__(self, session: Session, run_command: Callable[[str], None]) -> None:
        super().__init__(264)
        self._session, self._run_command = session, run_command
        self.targets: list[TargetCard] = []
        self._track_cards: dict[str, TrackCard] = {}
        self._shape: tuple[object, ...] | None = None
        self.table = ComparisonTable(self)
        self._soon = Later(self, self.rebuild, 4)
        session.case_changed.connect(self._soon)
        session.comparison_changed.connect(self._on_comparison)

    def rebuild(self) -> None:
        """Cards for what the case has."""
        case = self._session.case
        if case is None:
            return
        told = tuple((name, account(body), body.shapes[0].kind) for name, body in case.bodies.items())
        shape = (case.tracks, case.targets, case.table, case.takes, told)
        if self._shape is not None and shape[-1] == self._shape[-1] and all(
                a is b for a, b in zip(shape[:-1], self._shape[:-1], strict=True)):
            return  # numbers that no card shows
        self._shape = shape
        self.cards.removeWidget(self.table)
        _clear(self.cards)
        self.targets, self._track_cards = [], {}
        self.cards.addWidget(self._head())
        self._tracks(case)
        for k, target in enumerate(case.targets):
            wanted = TargetCard(k, target)
            wanted.removed.connect(lambda i: self._session.make(replace_target(i, None)))
            wanted.pressed.connect(self._edit_target)
            self.cards.addWidget(wanted)
            self.targets.append(wanted)
        if case.targets:
            ways = button("other ways…", "Every different way to what should happen, the smallest change first (A)", "other ways")
            ways.clicked.connect(lambda: self._run_command("Other ways…"))
            self.cards.addWidget(ways)
        if case.table is not None:
            self.cards.addWidget(TableCard(case.table, lambda: self._session.make(remove_table())))
        self.cards.addWidget(self.table)
        self._bodies(case)
        self.cards.addStretch(1)
        if self._session.preview.comparison is not None:
            self._on_comparison(self._session.preview.comparison)

    def _head(self) -> QWidget:
        """What can be brought, noted and asked for."""
        head = QWidget()
        row = QHBoxLayout(head)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(2)
        row.addWidget(label("Evidence", 11, True, role="soft"), 1)
        for text, tip, commands in (
            ("+ bring", "A track, or a table of trials", ("Bring a track…", "Bring a table of trials…")),
            ("+ by hand", "Marks, a stopwatch, a drawn path, heights",
             ("Mark here", "Tap the stopwatch", "Draw a path", "Note by hand…")),
            ("+ want", "Say what should happen, with a tolerance (T)", ("Say what should happen…",)),
        ):
            b = button(text, tip, text.removeprefix("+ "))
            b.clicked.connect(lambda _on=False, b=b, commands=commands: self._offer(b, commands))
            row.addWidget(b)
        return head

    def _offer(self, under: QWidget, commands: Sequence[str]) -> None:
        """Do the command, or let one of several be chosen."""
        if len(commands) == 1:
            self._run_command(commands[0])
            return
        menu = QMenu(self)
        menu.setAccessibleName("evidence")
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for text in commands:
            menu.addAction(text).triggered.connect(lambda _on=False, text=text: self._run_command(text))
        menu.popup(under.mapToGlobal(under.rect().bottomLeft()))

    def _bodies(self, case: Case) -> None:
        """A card a body, and the fields."""
        self.cards.addWidget(label("Bodies", 11, True, role="soft"))
        moving = sorted(case.bodies, key=lambda name: case.bodies[name].motion == "static")
        shown = set(moving[:MAX_BODY_CARDS])
        for name, body in case.bodies.items():
            if name in shown:
                card = BodyCard(name, body)
                card.pressed.connect(self._open_body)
                self.cards.addWidget(card)
        if len(moving) > MAX_BODY_CARDS:
            self._more_bodies(moving[MAX_BODY_CARDS:])
        fields = button("gravity and air…", "Edit, free or lock the numbers of the fields", "fields")
        fields.clicked.connect(lambda: self._numbers("Gravity and air", ("gravity", "air.")))
        self.cards.addWidget(fields)

    def _more_bodies(self, names: list[str]) -> None:
        """What has no card of its own is picked from a menu."""
        more = button(f"{len(names)} more bodies…", "Pick one to see, edit, free or lock its numbers", "more bodies")

        def pick() -> None:
            name, ok = QInputDialog.getItem(self.window(), "Bodies", "Body", names, 0, False)
            if ok:
                self._open_body(name)

        more.clicked.connect(pick)
        self.cards.addWidget(more)

    def _tracks(self, case: Case) -> None:
        for track in case.tracks:
            take = next((take.name for take in case.takes if track.name in take.tracks), "")
            card = TrackCard(track.name, f"{take} · {track.body}" if take else track.body)
            self._track_cards[track.name] = card
            self._session.work(f"reading {track.name}", partial(track_data, track), partial(_fill, card))
            card.removed.connect(lambda name: self._session.make(remove_track(name)))
            self.cards.addWidget(card)

    def _on_comparison(self, picture: Comparison) -> None:
        if self._shape is None:
            return  # its cards are made in a turn to come
        for wanted, report in zip(self.targets, picture.targets, strict=False):
            wanted.show_report(report)
        for name, card in self._track_cards.items():
            card.show_misfit(picture.misfits.get(name))
        self.table.show_gaps(picture.gaps)

    def _open_body(self, name: str) -> None:
        case = self._session.case
        if case is not None and name in case.bodies:  # cards of another case stand until its own are made
            self._numbers(name, prefixes_of_body(self._session, name))

    def _numbers(self, title: str, prefixes: tuple[str, ...]) -> None:
        dialog = NumbersDialog(self.window(), self._session, title, prefixes)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.show()

    def ask_target(self) -> None:
        """Ask for an outcome."""
        self._target_dialog(None, None)

    def _edit_target(self, index: int) -> None:
        case = self._session.case
        if case is not None and index < len(case.targets):
            self._target_dialog(index, case.targets[index])

    def _target_dialog(self, index: int | None, target: Target | None) -> None:
        case = self._session.case
        if case is None:
            return
        dialog = TargetDialog(self.window(), [*case.dynamic_bodies(),
                                              *(f"{each} of {name}" for name in case.groups for each in ("all", "any"))],
                              target)
        if ask(dialog) and dialog.target is not None:
            if index is None:
                self._session.make(add_target(dialog.target))
            else:
                self._session.make(replace_target(index, dialog.target))


def _fill(card: TrackCard, data: TrackData) -> None:
    """Fill the card of a track, unless it is gone by now."""
    if isValid(card):
        card.show_data(data)
