"""The left column: bodies, tracks, targets, and measured beside simulated."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QInputDialog,
    QTableWidget,
    QTableWidgetItem,
)

from yapa.case import Case, Target
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import font, theme
from yapa.desktop.bench.evidence.body_card import BodyCard
from yapa.desktop.bench.evidence.target_card import TargetCard
from yapa.desktop.bench.evidence.track_card import TrackCard
from yapa.desktop.dialogs.numbers import NumbersDialog, prefixes_of_body
from yapa.desktop.dialogs.target import TargetDialog
from yapa.desktop.widgets.card import button, label
from yapa.desktop.widgets.column import Column, _clear
from yapa.desktop.widgets.form_dialog import ask
from yapa.session.comparison import Comparison, Gap, track_data
from yapa.session.edits import add_target, remove_track, replace_target
from yapa.session.headline import amount

MOST_BODY_CARDS = 40
"""Cards of bodies in the column; what moves comes first."""

class EvidenceColumn(Column):
    """Bodies, tracks, targets, and measured | simulated | gap."""

    def __init__(self, session: Session, run_command: Callable[[str], None]) -> None:
        super().__init__(252)
        self._session, self._run_command = session, run_command
        self.targets: list[TargetCard] = []
        self._shape: tuple[object, ...] | None = None
        self.table = QTableWidget(0, 4)
        self.table.setHorizontalHeaderLabels(["", "measured", "simulated", "gap"])
        self.table.verticalHeader().hide()
        self.table.setShowGrid(False)
        self.table.setFont(font(9.5))
        self.table.horizontalHeader().setFont(font(9))
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.NoSelection)
        self.table.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.table.setAccessibleName("measured, simulated, gap")
        self.table.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.table.verticalHeader().setDefaultSectionSize(19)
        self.table.horizontalHeader().setFixedHeight(20)
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        session.case_changed.connect(self.rebuild)
        session.looked.connect(self._on_look)

    def rebuild(self) -> None:
        """Cards for what the case has."""
        case = self._session.case
        if case is None:
            return
        shape = (case.bodies, case.tracks, case.targets)
        if self._shape is not None and all(a is b for a, b in zip(shape, self._shape, strict=True)):
            return
        self._shape = shape
        self.table.setParent(None)
        _clear(self.cards)
        self.targets = []
        self.cards.addWidget(label("Bodies", 11, True, role="soft"))
        moving = sorted(case.bodies, key=lambda name: case.bodies[name].motion == "static")
        shown = set(moving[:MOST_BODY_CARDS])
        for name, body in case.bodies.items():
            if name in shown:
                card = BodyCard(name, body)
                card.clicked.connect(self._open_body)
                self.cards.addWidget(card)
        if len(moving) > MOST_BODY_CARDS:
            self._more_bodies(moving[MOST_BODY_CARDS:])
        fields = button("gravity and air…", "Edit, free or lock the numbers of the fields", "fields")
        fields.clicked.connect(lambda: self._numbers("Gravity and air", ("gravity", "air.")))
        self.cards.addWidget(fields)
        self.cards.addWidget(label("Evidence", 11, True, role="soft"))
        self._tracks(case)
        for k, target in enumerate(case.targets):
            wanted = TargetCard(k, target)
            wanted.removed.connect(lambda i: self._session.make(replace_target(i, None)))
            wanted.edited.connect(self._edit_target)
            self.cards.addWidget(wanted)
            self.targets.append(wanted)
        if case.targets:
            ways = button("other ways…", "Every different way to what should happen, the smallest change first (A)", "other ways")
            ways.clicked.connect(lambda: self._run_command("Other ways…"))
            self.cards.addWidget(ways)
        for text, tip, act in (("+ bring a track", "Import a CSV track of a body (Ctrl+I)",
                                lambda: self._run_command("Bring a track…")),
                               ("+ say what should happen", "Ask for an outcome, with a tolerance (T)", self.ask_target)):
            b = button(text, tip)
            b.clicked.connect(lambda _on=False, a=act: a())
            self.cards.addWidget(b)
        self.cards.addWidget(self.table)
        self.cards.addStretch(1)
        if self._session.preview.comparison is not None:
            self._on_look(self._session.preview.comparison)

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
            card = TrackCard(track_data(track))
            card.removed.connect(lambda name: self._session.make(remove_track(name)))
            self.cards.addWidget(card)

    def _on_look(self, picture: Comparison) -> None:
        for card, report in zip(self.targets, picture.targets, strict=False):
            card.show_report(report)
        many = len({g.body for g in picture.gaps}) > 1
        rows: list[Gap | str] = []
        for gap in picture.gaps:
            if many and not any(row == gap.body for row in rows):
                rows.append(gap.body)
            rows.append(gap)
        self.table.clearSpans()
        self.table.setRowCount(len(rows))
        for k, row in enumerate(rows):
            if isinstance(row, str):  # whose rows follow
                head = QTableWidgetItem(row)
                head.setForeground(theme().color("soft"))
                self.table.setItem(k, 0, head)
                self.table.setSpan(k, 0, 1, 4)
                continue
            gap, name = row, row.name
            texts = [name, *("–" if v is None else f"{v:.3f}" for v in (gap.measured, gap.simulated))]
            d = gap.gap
            said = "–" if d is None else amount(d, gap.unit)
            zero = d is None or not any(c in "123456789" for c in said)
            texts.append(said if zero else f"{'+' if (d or 0) > 0 else '−'}{said}")
            for c, text in enumerate(texts):
                item = QTableWidgetItem(text)
                item.setToolTip(f"{name} [{gap.unit}]: measured, simulated, and simulated less measured")
                item.setTextAlignment(Qt.AlignmentFlag.AlignVCenter
                                      | (Qt.AlignmentFlag.AlignRight if c else Qt.AlignmentFlag.AlignLeft))
                if c == 3 and gap.grade > 3:
                    item.setForeground(theme().color("trouble"))
                if c == 1:
                    item.setForeground(theme().color("measured"))
                if c == 2:
                    item.setForeground(theme().color("simulated"))
                self.table.setItem(k, c, item)
        self.table.setFixedHeight(22 + 19 * len(rows) + 2)
        self.table.setVisible(bool(rows))

    def _open_body(self, name: str) -> None:
        self._numbers(name, prefixes_of_body(self._session, name))

    def _numbers(self, title: str, prefixes: tuple[str, ...]) -> None:
        dialog = NumbersDialog(self.window(), self._session, title, prefixes)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.show()

    def ask_target(self) -> None:
        """Ask for an outcome."""
        self._target_dialog(None, None)

    def _edit_target(self, index: int) -> None:
        assert self._session.case is not None
        self._target_dialog(index, self._session.case.targets[index])

    def _target_dialog(self, index: int | None, target: Target | None) -> None:
        case = self._session.case
        if case is None:
            return
        dialog = TargetDialog(self.window(), case.movers(), target)
        if ask(dialog) and dialog.target is not None:
            if index is None:
                self._session.make(add_target(dialog.target))
            else:
                self._session.make(replace_target(index, dialog.target))
