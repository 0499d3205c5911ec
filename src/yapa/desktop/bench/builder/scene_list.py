"""What is in the scene: a card a body; click selects, Shift adds."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from yapa.case import Body
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import font, theme
from yapa.desktop.bench.evidence.sketches import draw
from yapa.desktop.widgets.column import Column, _clear
from yapa.session.building.scene_edits import WORDS


def account(body: Body) -> str:
    """A body in a line: what it is, how heavy, its skin."""
    heavy = f"{body.density:.4g} kg/m³" if body.density is not None else f"{body.mass:.3g} kg"
    weighs = body.motion == "dynamic" or body.max_force is not None
    return " · ".join([WORDS[body.motion], *([heavy] if weighs else []), body.shapes[0].surface])


class BodyRow(QWidget):
    """A body of the scene."""

    chosen = Signal(str, bool)

    def __init__(self, name: str, body: Body) -> None:
        super().__init__()
        self.name, self._body, self.selected = name, body, False
        self.setFixedHeight(36)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(f"in the scene: {name}")
        self.setToolTip(f"Select {name}; Shift adds it to what is selected")

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        strong = self.selected or self.hasFocus()
        p.setPen(QPen(t.color("ink" if strong else "hairline"), 2.0 if self.selected else 1.0))
        p.setBrush(t.color("card"))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 5, 5)
        p.save()
        p.translate(6, 6)
        p.setPen(QPen(t.color("ink"), 1.2))
        p.setBrush(t.color("paper_a"))
        draw(p, self._body.shapes[0].kind)
        p.restore()
        p.setPen(t.color("ink"))
        p.setFont(font(10, True))
        p.drawText(QRectF(38, 3, self.width() - 44, 16), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
                   p.fontMetrics().elidedText(self.name, Qt.TextElideMode.ElideRight, self.width() - 46))
        p.setPen(t.color("soft"))
        p.setFont(font(9))
        p.drawText(QRectF(38, 18, self.width() - 44, 15), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
                   p.fontMetrics().elidedText(account(self._body), Qt.TextElideMode.ElideRight, self.width() - 46))
        p.end()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.chosen.emit(self.name, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.chosen.emit(self.name, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        else:
            super().keyPressEvent(event)


class SceneList(Column):
    """Every body, in the order of the case."""

    def __init__(self, session: Session, width: int) -> None:
        super().__init__(width)
        self._session = session
        self._bodies: object = None
        self.rows: dict[str, BodyRow] = {}
        self.cards.setSpacing(4)
        session.case_changed.connect(self.rebuild)
        session.selection_changed.connect(self._mark)

    def rebuild(self) -> None:
        """Cards for what the case has."""
        case = self._session.case
        if case is None or case.bodies is self._bodies:
            return
        self._bodies = case.bodies
        _clear(self.cards)
        self.rows = {}
        for name, body in case.bodies.items():
            row = BodyRow(name, body)
            row.chosen.connect(self._choose)
            self.cards.addWidget(row)
            self.rows[name] = row
        self.cards.addStretch(1)
        self._mark()

    def _choose(self, name: str, added: bool) -> None:
        if added:
            self._session.builder.toggle(name)
        else:
            self._session.builder.select([name])

    def _mark(self) -> None:
        for name, row in self.rows.items():
            row.selected = name in self._session.builder.selected
            row.update()
