"""The bench: the one screen people live in. Building and tuning share stage, time axis, trials and findings."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, Qt, QTimer
from PySide6.QtWidgets import (
    QApplication,
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QScrollArea,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import px
from yapa.desktop.bench.builder.card import BodyCard
from yapa.desktop.bench.builder.scene_list import SceneList
from yapa.desktop.bench.builder.stock import Stock
from yapa.desktop.bench.clicks import Clicks
from yapa.desktop.bench.evidence.column import EvidenceColumn
from yapa.desktop.bench.sentence import Sentence
from yapa.desktop.bench.stage.stage import Stage
from yapa.desktop.bench.timeline.contact_strip import BeatStrip
from yapa.desktop.bench.timeline.traces import CurveHead, Traces
from yapa.desktop.bench.top_bar import TopBar
from yapa.desktop.bench.trials.filmstrip import TrialCard
from yapa.desktop.bench.trials.foot import TrialsFoot
from yapa.desktop.bench.unknowns.column import UnknownColumn
from yapa.desktop.widgets.card import label

BUILD_LEFT, BUILD_RIGHT = 248, 276
"""pixels"""
STILL = 400
"""ms without a new picture: then what is asked of nobody is looked for"""


class Bench(QWidget):
    """Everything in its place."""

    def __init__(self, session: Session, run_command: Callable[[str], None]) -> None:
        super().__init__()
        self._session = session
        self.tune_split = [340, 270]
        self._tuning = False
        self.top = TopBar(session)
        self.evidence = EvidenceColumn(session, run_command)
        self.stage = Stage(session)
        self.beats = BeatStrip(session)
        self.traces = Traces(session)
        self.unknowns = UnknownColumn(session)
        self.trials = TrialsFoot(session)
        self.filmstrip = self.trials.strip
        self.sentence = Sentence(session)
        self.stock = Stock()
        self.scene = SceneList(session, BUILD_LEFT)
        self.card = BodyCard(session, BUILD_RIGHT)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.top)
        self._middle = QHBoxLayout()
        self._middle.setSpacing(8)
        self.left = QStackedWidget()
        self.left.addWidget(self.evidence)
        self.left.addWidget(self._things())
        self._middle.addWidget(self.left)
        self._middle.addWidget(self._split(), 1)
        self.right = QStackedWidget()
        self.right.addWidget(self.unknowns)
        self.right.addWidget(self.card)
        self._middle.addWidget(self.right)
        column.addLayout(self._middle, 1)
        column.addWidget(self.sentence)
        column.addWidget(self.trials)
        self._still = QTimer(self, interval=STILL, singleShot=True)
        self._still.timeout.connect(session.look_around)
        session.comparison_changed.connect(lambda _c: self._still.start())
        self.stock.put.connect(self.put)
        self.stock.dropped.connect(self._drop)
        self.top.page.connect(self.show_work)
        self.clicks = Clicks(session)
        self.top.played.connect(self.clicks.played)
        self.show_work("tune")

    def divide(self, split: list[int]) -> None:
        """Divide stage and curves as they were."""
        self.tune_split = split
        if self._tuning:
            self._stages.setSizes(split)

    @property
    def split_now(self) -> list[int]:
        """How stage and curves are divided while tuning [pixels]."""
        return self._stages.sizes() if self._tuning else self.tune_split

    def _things(self) -> QWidget:
        """The stock above what is in the scene."""
        things = QWidget()
        things.setFixedWidth(px(BUILD_LEFT))
        stack = QVBoxLayout(things)
        stack.setContentsMargins(0, 0, 0, 0)
        stack.setSpacing(4)
        stack.addWidget(label("Put in", 11, True, role="soft"))
        stack.addWidget(self.stock)
        stack.addWidget(label("In the scene", 11, True, role="soft"))
        stack.addWidget(self.scene, 1)
        return things

    def _split(self) -> QSplitter:
        """The stage above the time axis and the traces."""
        split = QSplitter(Qt.Orientation.Vertical)
        split.setChildrenCollapsible(False)
        split.setHandleWidth(6)
        below = QWidget()
        stack = QVBoxLayout(below)
        stack.setContentsMargins(0, 0, 0, 0)
        stack.setSpacing(2)
        strip_row = QHBoxLayout()
        strip_row.setContentsMargins(0, 0, 8, 0)  # as wide as the traces beside their scroll bar
        strip_row.addWidget(self.beats)
        stack.addLayout(strip_row)
        self.curves = CurveHead(self._session)
        stack.addWidget(self.curves)
        stack.addWidget(self.traces, 1)
        split.addWidget(self.stage)
        split.addWidget(below)
        self._stages = split
        return split

    @property
    def work(self) -> str:
        """What is done on the bench: "build" or "tune"."""
        return "build" if self.stage.building else "tune"

    def show_work(self, work: str) -> None:
        """Build or tune: the stage, the time axis and the trials stay, what stands beside them changes."""
        building = work == "build"
        keys = QApplication.focusWidget()
        if keys is not None and any(part.isAncestorOf(keys) for part in (self.left, self.right)):
            self.stage.setFocus(Qt.FocusReason.OtherFocusReason)  # what had them is not seen any more
        self.stage.building = building
        self.left.setCurrentIndex(int(building))
        self.right.setCurrentIndex(int(building))
        self.left.setFixedWidth(px(BUILD_LEFT) if building else self.evidence.width())
        self.right.setFixedWidth(px(BUILD_RIGHT) if building else self.unknowns.width())
        self._middle.setContentsMargins(*((12, 4, 4, 0) if building else (16, 6, 8, 2)))
        self.traces.setVisible(not building)
        self.curves.setVisible(not building)
        self.sentence.show_tuning(not building)
        if self._tuning:
            self.tune_split = self._stages.sizes()
        self._tuning = not building
        self._stages.setSizes([10_000, 1] if building else self.tune_split)
        self.top.mark(work)
        self.stage.handles.hovered = None
        self.stage.update()

    def parts(self) -> list[QWidget]:
        """The parts of the bench that the keys can be given to, as they stand from left to right."""
        left = [self.stock, self.scene] if self.work == "build" else [self.evidence]
        return [*left, self.stage, self.card if self.work == "build" else self.unknowns, self.filmstrip]

    def next_part(self, step: int) -> None:
        """Give the keys to the first control of the next part, or of the one before."""
        now, parts = QApplication.focusWidget(), self.parts()
        at = next((k for k, part in enumerate(parts) if now is not None and (part is now or part.isAncestorOf(now))), -1)
        at = at if at >= 0 or step > 0 else 0
        for k in range(1, len(parts) + 1):
            part = parts[(at + step * k) % len(parts)]
            takers = [w for w in (part, *part.findChildren(QWidget)) if w.focusPolicy() & Qt.FocusPolicy.TabFocus and w.isVisible()]
            takers = [w for w in takers if w.isEnabled() and not isinstance(w, QScrollArea)]
            if takers:
                self.go_to(takers[0])
                return

    def go_to(self, control: QWidget) -> None:
        """Give the keys to a control, where it can be seen; what stands in a field is marked."""
        if self.card.isAncestorOf(control):
            self.card.ensureWidgetVisible(control)
        control.setFocus(Qt.FocusReason.TabFocusReason)
        line = control.lineEdit() if isinstance(control, QComboBox) else control
        if isinstance(line, QLineEdit):
            line.selectAll()

    def rename(self) -> None:
        """Another name: of the trial that has the keys, else on the card, of the selected body or of the scene."""
        trial = QApplication.focusWidget()
        if isinstance(trial, TrialCard):
            trial.rename()
            return
        self.show_work("build")
        name = next((f for f in self.card.fields() if f.accessibleName() in ("name", "title")), None)
        if name is not None:
            self.go_to(name)

    def note(self, mode: str) -> None:
        """Note on the stage: marks, or a drawn path."""
        if self._session.case is not None:
            self.show_work("tune")
            self.stage.noting.speed = self.top.factor
            self.stage.noting.choose(mode)

    def put(self, thing: str) -> None:
        """Beside what is there; the stage has the keys then."""
        self._session.builder.put_in(thing)
        self.stage.setFocus(Qt.FocusReason.OtherFocusReason)

    def _drop(self, thing: str, at: QPointF, upright: bool) -> None:
        """Where it was let go, if that is on the stage."""
        place = self.stage.mapFromGlobal(at)
        if self.stage.rect().contains(place.toPoint()):
            self.stage.put_in(thing, QPointF(place), upright)
