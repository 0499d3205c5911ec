"""Trials: every set of values kept, as a strip. Click compares, double-click restores."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRectF, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QInputDialog, QScrollArea, QWidget

from yapa.case import Trial
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import font, px, theme
from yapa.desktop.widgets.card import curve_polygon
from yapa.desktop.widgets.menus import Menu
from yapa.session.edits import change_trial, remove_trial
from yapa.session.ledger import made_elsewhere

LOW = 28
"""pixels of a trial in one line"""
TALL = 84


class TrialCard(QWidget):
    """One trial: curve, score, name, what changed."""

    clicked = Signal(int)
    restored = Signal(int, bool)
    """a trial, and whether its scene comes back too"""

    def __init__(self, index: int, trial: Trial, session: Session) -> None:
        super().__init__()
        self.index, self.trial, self._session = index, trial, session
        self.compared = self.elsewhere = False
        self._low = False
        self.setFixedSize(px(176), px(84))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.show_trial(trial)

    def show_trial(self, trial: Trial) -> None:
        """Show another trial at the same place of the ledger."""
        self.trial = trial
        self.setAccessibleName(f"trial {trial.name}")
        self._say()
        self.update()

    def show_elsewhere(self, elsewhere: bool) -> None:
        """Whether it was made in another scene: its score says nothing of this one."""
        if elsewhere != self.elsewhere:
            self.elsewhere = elsewhere
            self._say()
            self.update()

    def _say(self) -> None:
        where = "; made in another scene, so its score is not of this one" if self.elsewhere else ""
        self.setToolTip(f"{self.trial.name}: {self.trial.summary or 'nothing changed'}{where}\nClick compares, double-click or "
                        "Enter restores, P pins, F2 renames, Delete removes")

    def score(self) -> str:
        """Misfit, or targets met."""
        if self.trial.misfit is not None:
            m = self.trial.misfit
            return f"{m:.2f}" if m < 100 else f"{m:.0f}"
        return f"{self.trial.targets_met}/{self.trial.targets}" if self.trial.targets else "–"

    def show_low(self, low: bool) -> None:
        """One line, or the curve and words too."""
        self._low = low
        self.setFixedSize(px(176), px(LOW if low else TALL))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        border, width = ("pinned", 2.0) if self.compared or self.trial.pinned else ("hairline", 1.0)
        p.setPen(QPen(t.color("ink" if self.hasFocus() else border), 2.0 if self.hasFocus() else width))
        p.setBrush(t.color("card"))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 6, 6)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(t.color("pinned" if self.compared else "simulated"), 1.4))
        if self._low:
            p.drawPolyline(curve_polygon(self.trial.curve, px(8), px(8), px(34), px(12)))
            p.setPen(t.color("ink"))
            p.setFont(font(10, True))
            p.drawText(QRectF(px(50), px(6), px(84), px(16)), Qt.AlignmentFlag.AlignLeft,
                       p.fontMetrics().elidedText(self.trial.name, Qt.TextElideMode.ElideRight, px(68)))
            p.setPen(t.color("soft" if self.elsewhere else "ink", 0.6 if self.elsewhere else 1.0))
            p.drawText(QRectF(px(120), px(6), px(48), px(16)), Qt.AlignmentFlag.AlignRight, self.score())
            p.end()
            return
        p.drawPolyline(curve_polygon(self.trial.curve, px(12), px(12), px(84), px(26)))
        p.setPen(t.color("soft" if self.elsewhere else "ink", 0.6 if self.elsewhere else 1.0))
        p.setFont(font(13, True))
        p.drawText(QRectF(px(96), px(6), px(70), px(24)), Qt.AlignmentFlag.AlignRight, self.score())
        p.setPen(t.color("ink"))
        p.setFont(font(11, True))
        p.drawText(QRectF(px(12), px(42), px(150), px(18)), Qt.AlignmentFlag.AlignLeft,
                   p.fontMetrics().elidedText(self.trial.name, Qt.TextElideMode.ElideRight, px(92)))
        p.setPen(t.color("soft"))
        p.setFont(font(9))
        words = self.trial.summary or "–"
        p.drawText(QRectF(px(12), px(62), px(152), px(16)), Qt.AlignmentFlag.AlignLeft,
                   p.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, px(152)))
        marks = " ".join(w for w, on in (("compared", self.compared), ("pinned", self.trial.pinned)) if on)
        if marks:
            p.setPen(t.color("pinned"))
            p.drawText(QRectF(px(60), px(44), px(106), px(16)), Qt.AlignmentFlag.AlignRight, marks)
        p.end()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.clicked.emit(self.index)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self._restore(event.globalPosition().toPoint())

    def _restore(self, at: QPoint) -> None:
        """Its values; of one made in another scene it is asked whether that comes back too."""
        if not self.elsewhere:
            self.restored.emit(self.index, False)
            return
        menu = Menu(self, "restore")
        self._offer(menu)
        menu.popup(at)

    def _offer(self, menu: Menu) -> None:
        menu.offer("Values only", lambda: self.restored.emit(self.index, False))
        menu.offer("Scene and values", lambda: self.restored.emit(self.index, True))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key == Qt.Key.Key_Space:
            self.clicked.emit(self.index)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._restore(self.mapToGlobal(self.rect().center()))
        elif key == Qt.Key.Key_P:
            self._pin()
        elif key == Qt.Key.Key_F2:
            self.rename()
        elif key == Qt.Key.Key_Delete:
            self._session.make(remove_trial(self.index))
        else:
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        menu = Menu(self, "of a trial")
        menu.offer("Compare", lambda: self.clicked.emit(self.index))
        if self.elsewhere:
            self._offer(menu)
        else:
            menu.offer("Restore its values", lambda: self.restored.emit(self.index, False))
        menu.offer("Unpin" if self.trial.pinned else "Pin", self._pin)
        menu.offer("Rename…", self.rename)
        menu.offer("Remove", lambda: self._session.make(remove_trial(self.index)))
        menu.popup(event.globalPos())

    def _pin(self) -> None:
        self._session.make(change_trial(self.index, pinned=not self.trial.pinned))

    def rename(self) -> None:
        """Ask for another name."""
        name, ok = QInputDialog.getText(self.window(), "Rename trial", "Name", text=self.trial.name)
        if ok and name.strip():
            self._session.make(change_trial(self.index, name=name.strip()[:60]))


class Filmstrip(QScrollArea):
    """The ledger as a strip."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setWidgetResizable(True)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Trials")
        inner = QWidget()
        self._row = QHBoxLayout(inner)
        self._row.setContentsMargins(0, 1, 0, 1)
        self._row.setSpacing(8)
        self._row.addStretch(1)
        self.setWidget(inner)
        self.cards: list[TrialCard] = []
        self._low = False
        self._chosen: int | None = None
        self._shown: tuple[Trial, ...] = ()
        session.case_changed.connect(self.rebuild)
        session.beside_changed.connect(self._on_compared)

    def show_low(self, low: bool) -> None:
        """One line a trial, or its curve and words too."""
        self._low = low
        self.setFixedHeight(px((LOW if low else TALL) + (4 if low else 12)))
        for card in self.cards:
            card.show_low(low)

    def rebuild(self) -> None:
        """Cards for the trials of the case."""
        case = self._session.case
        trials = case.trials if case is not None else ()
        if trials is not self._shown:
            self._show(trials)
        for card, elsewhere in zip(self.cards, made_elsewhere(case) if case is not None else [], strict=False):
            card.show_elsewhere(elsewhere)

    def _show(self, trials: tuple[Trial, ...]) -> None:
        grown = len(trials) > len(self._shown)
        self._shown = trials
        for card, trial in zip(self.cards, trials, strict=False):  # a card that is under the pointer stays what it is
            if card.trial is not trial:
                card.show_trial(trial)
        for card in self.cards[len(trials) :]:
            card.hide()
            card.deleteLater()
        del self.cards[len(trials) :]
        for k, trial in list(enumerate(trials))[len(self.cards) :]:
            card = TrialCard(k, trial, self._session)
            card.show_low(self._low)
            card.compared = k == self._chosen and self._session.preview.other is not None
            card.clicked.connect(self._toggle)
            card.restored.connect(self._session.restore)
            self._row.insertWidget(k, card)
            self.cards.append(card)
        if grown:
            bar = self.horizontalScrollBar()
            bar.rangeChanged.connect(lambda _a, b: bar.setValue(b), Qt.ConnectionType.SingleShotConnection)

    def _toggle(self, index: int) -> None:
        self._chosen = None if self._chosen == index else index
        self._session.preview.lay_beside(self._chosen)

    def _on_compared(self, picture: object) -> None:
        if picture is None:
            self._chosen = None
        for card in self.cards:
            card.compared = card.index == self._chosen
            card.update()
