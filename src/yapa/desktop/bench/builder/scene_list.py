"""What is in the scene: a card a body; click selects, Shift adds."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QWidget

from yapa.case import Body
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import font, px, theme
from yapa.desktop.bench.builder.rows import Field
from yapa.desktop.bench.evidence.sketches import draw
from yapa.desktop.widgets.card import button
from yapa.desktop.widgets.column import Column, _clear
from yapa.desktop.widgets.later import Later
from yapa.session.building import assembling
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
        self.name, self._body, self.selected, self.hidden = name, body, False, False
        self.setFixedHeight(px(36))
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
        p.drawText(QRectF(38, px(3), self.width() - 44, px(16)), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
                   p.fontMetrics().elidedText(self.name, Qt.TextElideMode.ElideRight, self.width() - 46))
        p.setPen(t.color("soft"))
        p.setFont(font(9))
        words = ("hidden · " if self.hidden else "") + account(self._body)
        p.drawText(QRectF(38, px(18), self.width() - 44, px(15)), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
                   p.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, self.width() - 46))
        p.end()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.chosen.emit(self.name, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.chosen.emit(self.name, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        else:
            super().keyPressEvent(event)


class GroupRow(QWidget):
    """A group of bodies: its button selects them, its field names it."""

    chosen = Signal(list)
    renamed = Signal(str, str)

    def __init__(self, name: str, members: tuple[str, ...]) -> None:
        super().__init__()
        line = QHBoxLayout(self)
        line.setContentsMargins(2, 0, 0, 0)
        field = Field(f"name of group {name}", "A group of bodies: its name, which targets know")
        field.show_text(name)
        field.committed.connect(lambda text: self.renamed.emit(name, text))
        line.addWidget(field, 1)
        select = button(f"{len(members)} bodies", f"Select {', '.join(members)}", f"select group {name}")
        select.clicked.connect(lambda: self.chosen.emit(list(members)))
        line.addWidget(select)


class SceneList(Column):
    """Every body, in the order of the case."""

    def __init__(self, session: Session, width: int) -> None:
        super().__init__(width)
        self._session = session
        self._shown: object = None
        self.rows: dict[str, BodyRow] = {}
        self.cards.setSpacing(4)
        self._soon = Later(self, self.rebuild, 12)
        session.case_changed.connect(self._soon)
        session.selection_changed.connect(self._mark)

    def rebuild(self) -> None:
        """Cards for what the case has."""
        case = self._session.case
        if case is None:
            return
        told = [(name, account(body), body.shapes[0].kind) for name, body in case.bodies.items()]
        if (told, case.groups) == self._shown:
            return  # numbers that no row shows
        self._shown = told, case.groups
        _clear(self.cards)
        self.rows = {}
        for name, members in case.groups.items():
            together = GroupRow(name, members)
            together.chosen.connect(self._session.builder.select)
            together.renamed.connect(self._rename)
            self.cards.addWidget(together)
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

    def _rename(self, old: str, new: str) -> None:
        self._session.make(assembling.rename_group(old, new.strip()))

    def _mark(self) -> None:
        for name, row in self.rows.items():
            row.selected = name in self._session.builder.selected
            row.hidden = name in self._session.builder.hidden
            row.update()
