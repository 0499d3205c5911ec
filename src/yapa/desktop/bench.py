"""The bench: the one screen people live in."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QInputDialog,
    QPushButton,
    QScrollArea,
    QSplitter,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from yapa.case import Case, Target, get_number, numbers
from yapa.desktop.beats import BeatStrip
from yapa.desktop.cards import BodyCard, Card, TargetCard, TrackCard, UnknownCard, button, label
from yapa.desktop.dialogs import NumbersDialog, TargetDialog, ask, prefixes_of_body
from yapa.desktop.filmstrip import Filmstrip
from yapa.desktop.session import Session
from yapa.desktop.stage import Stage
from yapa.desktop.theme import font, theme
from yapa.desktop.traces import Traces
from yapa.fitting import FitResult, Progress
from yapa.report.picture import Gap, Picture, amount
from yapa.report.values import values_text

MOST_BODY_CARDS = 40
"""Cards of bodies in the column; what moves comes first."""
SPEEDS = {"1×": 1.0, "½×": 0.5, "¼×": 0.25, "1/10×": 0.1}


def _clear(layout: QVBoxLayout) -> None:
    while (item := layout.takeAt(0)) is not None:
        if (widget := item.widget()) is not None:
            widget.hide()
            widget.deleteLater()


class Column(QScrollArea):
    """A scrolling column of cards."""

    def __init__(self, width: int) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setFixedWidth(width)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        inner = QWidget()
        self.cards = QVBoxLayout(inner)
        self.cards.setContentsMargins(0, 0, 8, 0)
        self.cards.setSpacing(6)
        self.setWidget(inner)


class TopBar(QFrame):
    """Title, play, time, headline, Fit."""

    home = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("bar")
        self.setFixedHeight(52)
        self._session = session
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 4, 16, 4)
        row.setSpacing(8)
        self.title = label("", 14, True)
        row.addWidget(self.title)
        self.kept = label("", 9, role="soft")
        row.addWidget(self.kept)
        row.addStretch(1)
        self.back = button("to start", "Put the play head at the start (Home)", "to start", "")
        self.back.clicked.connect(lambda: session.move_playhead(0.0))
        self.play = button("Play", "Play the motion from the play head (Space)", "play", "")
        self.play.setFixedWidth(64)
        self.play.clicked.connect(self.toggle)
        self.speed = QComboBox()
        self.speed.addItems(list(SPEEDS))
        self.speed.setFont(font(10))
        self.speed.setAccessibleName("playing speed")
        self.speed.setToolTip("How fast it plays")
        self.clock = label("t = 0.00 s", 11)
        self.clock.setFixedWidth(84)
        for w in (self.back, self.play, self.speed, self.clock):
            row.addWidget(w)
        row.addStretch(1)
        words = QVBoxLayout()
        words.setSpacing(0)
        self.headline = label("", 12, True)
        self.detail = label("", 10, role="soft")
        for w in (self.headline, self.detail):
            w.setAlignment(Qt.AlignmentFlag.AlignRight)
            words.addWidget(w)
        self.headline.setAccessibleName("headline")
        row.addLayout(words)
        self.fit = QPushButton("Fit")
        self.fit.setObjectName("fit")
        self.fit.setFont(font(12, True))
        self.fit.setFixedWidth(96)
        self.fit.setToolTip("Find the free numbers from the evidence (F). While it runs: stop and keep the best (Esc)")
        self.fit.clicked.connect(self._fit_or_stop)
        row.addWidget(self.fit)
        self._timer = QTimer(self, interval=33)
        self._timer.timeout.connect(self._tick)
        session.playhead_moved.connect(lambda t: self.clock.setText(f"t = {t:.2f} s"))
        session.looked.connect(self._on_look)
        session.case_changed.connect(self._on_case)
        session.fit_started.connect(self._on_start)
        session.fit_progressed.connect(self._on_progress)
        session.fit_ended.connect(self._on_end)
        session.history_changed.connect(self._on_case)

    def _on_case(self) -> None:
        case = self._session.case
        if case is not None:
            self.title.setText(self.title.fontMetrics().elidedText(case.title, Qt.TextElideMode.ElideRight, 290))
            saved = self._session.path is not None and self._session.is_clean
            self.kept.setText("saved" if saved else "not saved" if self._session.path is None else "changed")
            self.fit.setEnabled(any(not u.locked for u in case.unknowns) and bool(case.tracks or case.targets))

    def _on_look(self, picture: Picture) -> None:
        if not self._session.fitting:
            self.headline.setText(picture.headline)
            self.detail.setText(picture.detail)

    def _on_start(self) -> None:
        self.fit.setText("Stop")
        self._restyle("stop")
        self.headline.setText("fitting")
        self.detail.setText("reading the track")

    def _on_progress(self, p: Progress) -> None:
        self.headline.setText("fitting" if p.misfit is None else f"misfit {p.misfit:.3g}")
        self.detail.setText(f"{p.phase} · {p.simulations} simulations")

    def _on_end(self, result: FitResult | None) -> None:
        self.fit.setText("Fit")
        self._restyle("fit")
        if self._session.picture is not None:
            self._on_look(self._session.picture)

    def _restyle(self, name: str) -> None:
        self.fit.setObjectName(name)
        self.fit.style().unpolish(self.fit)
        self.fit.style().polish(self.fit)

    def _fit_or_stop(self) -> None:
        if self._session.fitting:
            self._session.stop_fit()
        else:
            self._session.start_fit()

    def toggle(self) -> None:
        """Play or pause."""
        case = self._session.case
        if case is None:
            return
        if self._timer.isActive():
            self._timer.stop()
            self.play.setText("Play")
            return
        if self._session.playhead >= case.duration - 1e-6:
            self._session.move_playhead(0.0)
        self._timer.start()
        self.play.setText("Pause")

    def _tick(self) -> None:
        case = self._session.case
        if case is None:
            return
        step = 0.033 * SPEEDS[self.speed.currentText()]
        self._session.move_playhead(self._session.playhead + step)
        if self._session.playhead >= case.duration - 1e-6:
            self.toggle()


class EvidenceColumn(Column):
    """Bodies, tracks, targets, and measured | simulated | gap."""

    import_track = Signal()
    show_ways = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(252)
        self._session = session
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
            wanted.removed.connect(lambda i: self._session.replace_target(i, None))
            wanted.edited.connect(self._edit_target)
            self.cards.addWidget(wanted)
            self.targets.append(wanted)
        if case.targets:
            ways = button("other ways…", "Every different way to what should happen, the smallest change first (A)", "other ways")
            ways.clicked.connect(self.show_ways.emit)
            self.cards.addWidget(ways)
        for text, tip, act in (("+ bring a track", "Import a CSV track of a body (Ctrl+I)", self.import_track.emit),
                               ("+ say what should happen", "Ask for an outcome, with a tolerance (T)", self.ask_target)):
            b = button(text, tip)
            b.clicked.connect(lambda _on=False, a=act: a())
            self.cards.addWidget(b)
        self.cards.addWidget(self.table)
        self.cards.addStretch(1)
        if self._session.picture is not None:
            self._on_look(self._session.picture)

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
        from yapa.outcomes import track_data

        for track in case.tracks:
            card = TrackCard(track_data(track))
            card.removed.connect(self._session.remove_track)
            self.cards.addWidget(card)

    def _on_look(self, picture: Picture) -> None:
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
                self._session.add_target(dialog.target)
            else:
                self._session.replace_target(index, dialog.target)


class UnknownColumn(QWidget):
    """One card an unknown, and under them what the last fit said."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.rows: dict[str, UnknownCard] = {}
        self._shown: object = None
        self.setFixedWidth(296)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        scroll = Column(296)
        self.cards = scroll.cards
        column.addWidget(scroll, 1)
        self.verdict = Card()
        head = QHBoxLayout()
        head.addWidget(label("The fit says", 11, True), 1)
        copy = button("Copy values", "Numbers, units, intervals and the conditions they hold under (Ctrl+Shift+C)")
        copy.clicked.connect(self.copy_values)
        head.addWidget(copy)
        self.verdict.column.addLayout(head)
        self.verdict_words = label("", 9.5, wrap=True)
        self.verdict_words.setAccessibleName("what the fit says")
        self.verdict_words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.verdict_words.setAlignment(Qt.AlignmentFlag.AlignTop)
        words = QScrollArea()
        words.setWidgetResizable(True)
        words.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        words.setWidget(self.verdict_words)
        words.setFixedHeight(128)
        self.verdict.column.addWidget(words)
        self.explain = button("Free it", "Make the number that explains what is left over an unknown, at what was found", "free it")
        self.explain.clicked.connect(self._free_what_explains)
        self.explain.hide()
        self.verdict.column.addWidget(self.explain)
        self.verdict.hide()
        aside = QHBoxLayout()
        aside.setContentsMargins(0, 0, 8, 0)  # as wide as the cards above it
        aside.addWidget(self.verdict)
        column.addLayout(aside)
        session.case_changed.connect(self.rebuild)
        session.looked.connect(lambda _p: self._values())

    def rebuild(self) -> None:
        """Cards for the unknowns of the case."""
        case = self._session.case
        if case is None:
            return
        if self._shown is not case.unknowns:
            self._shown = case.unknowns
            _clear(self.cards)
            self.rows = {}
            free = sum(not u.locked for u in case.unknowns)
            self.cards.addWidget(label(f"Unknowns · {free} free · {len(case.unknowns) - free} locked", 11, True, role="soft"))
            for unknown in case.unknowns:
                card = UnknownCard(unknown)
                card.turned.connect(self._session.turn)
                card.released.connect(self._session.release)
                card.locked.connect(self._session.lock)
                card.ranged.connect(self._session.set_range)
                card.removed.connect(self._session.remove_unknown)
                self.cards.addWidget(card)
                self.rows[unknown.path] = card
            more = button("+ free another number", "Choose a body or a field on the left and tick the number; or pick it here")
            more.clicked.connect(self._free_another)
            self.cards.addWidget(more)
            self.cards.addStretch(1)
        self._values()

    def _values(self) -> None:
        case = self._session.case
        if case is None:
            return
        trial = None if self._session.live else self._session.newest_fit()
        live = self._session.live
        for path, card in self.rows.items():
            value = live[path] if path in live else get_number(case, path)
            card.show_value(value, trial.estimates.get(path) if trial is not None else None)
        if trial is not None:
            from yapa.fitting.result import sentence

            words = [sentence(p, e) for p, e in trial.estimates.items()]
            result = self._session.result
            if result is not None and result.values == {p: e.value for p, e in trial.estimates.items()}:
                words += [f for f in result.findings if not any(f.startswith(w.split(" cannot")[0]) for w in words)]
            self.verdict_words.setText(";\n".join(words) + ".")
            named = result.explained[:1] if result is not None else []
            self.explain.setVisible(bool(named))
            if named:
                self.explain.setText(f"Free the {named[0].kind}" if named[0].path else f"Set the {named[0].kind}")
        elif not self._session.live:
            self.verdict_words.setText("The numbers were changed by hand since; press F to fit them again.")
            self.explain.hide()
        if trial is not None or not any(t.estimates for t in case.trials):
            self.verdict.setVisible(trial is not None)

    def _free_what_explains(self) -> None:
        """One edit: the error of the model that the last fit named."""
        case, result = self._session.case, self._session.result
        if case is not None and result is not None and result.explained:
            explanation = result.explained[0]
            self._session.edit(explanation.edit(case), f"free the {explanation.kind}")

    def _free_another(self) -> None:
        from PySide6.QtWidgets import QMenu

        from yapa.case import label_of

        case = self._session.case
        if case is None:
            return
        menu = QMenu(self)
        taken = {u.path for u in case.unknowns}
        groups: dict[str, QMenu] = {}
        for path in numbers(case):
            if path in taken:
                continue
            name, _, whose = label_of(path).partition(" · ")
            group = whose or "fields"
            if group not in groups:
                groups[group] = menu.addMenu(group)
            action = groups[group].addAction(name)
            action.triggered.connect(lambda _on=False, p=path: self._session.free_number(p))
        menu.exec(self.mapToGlobal(self.rect().center()))

    def copy_values(self) -> None:
        """Put the values on the clipboard."""
        from PySide6.QtGui import QGuiApplication

        if self._session.case is not None:
            QGuiApplication.clipboard().setText(values_text(self._session.case, self._session.newest_fit()))
            self._session.said.emit("values copied, with units, intervals and conditions")


class Bench(QWidget):
    """Everything in its place."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.top = TopBar(session)
        self.evidence = EvidenceColumn(session)
        self.stage = Stage(session)
        self.beats = BeatStrip(session)
        self.traces = Traces(session)
        self.unknowns = UnknownColumn(session)
        self.filmstrip = Filmstrip(session)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.top)
        middle = QHBoxLayout()
        middle.setContentsMargins(16, 8, 8, 4)
        middle.setSpacing(8)
        middle.addWidget(self.evidence)
        split = QSplitter(Qt.Orientation.Vertical)
        split.setChildrenCollapsible(False)
        split.setHandleWidth(6)
        below = QWidget()
        stack = QVBoxLayout(below)
        stack.setContentsMargins(0, 0, 0, 0)
        stack.setSpacing(4)
        strip_row = QHBoxLayout()
        strip_row.setContentsMargins(0, 0, 8, 0)  # as wide as the traces beside their scroll bar
        strip_row.addWidget(self.beats)
        stack.addLayout(strip_row)
        stack.addWidget(self.traces, 1)
        split.addWidget(self.stage)
        split.addWidget(below)
        split.setSizes([300, 300])
        middle.addWidget(split, 1)
        middle.addWidget(self.unknowns)
        column.addLayout(middle, 1)
        foot = QFrame()
        foot.setObjectName("foot")
        strip = QVBoxLayout(foot)
        strip.setContentsMargins(16, 4, 16, 2)
        strip.setSpacing(0)
        strip.addWidget(label("Trials", 11, True, role="soft"))
        strip.addWidget(self.filmstrip)
        column.addWidget(foot)
