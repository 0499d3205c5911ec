"""The hand on the stage while a case is tuned: it pulls handles, notes what was seen, or lets the stage turn."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent

from yapa.case.units import amount_text
from yapa.desktop.app.theme import px
from yapa.desktop.bench.stage.typed import TypedField

if TYPE_CHECKING:
    from yapa.desktop.bench.stage.stage import Stage

PULL, FINE = 0.01, 0.001
"""m that a key pulls, and with Ctrl"""


class TuneHand:
    """What the mouse and the keys do on one stage."""

    def __init__(self, stage: Stage) -> None:
        self._stage = stage

    def press(self, event: QMouseEvent) -> bool:
        """Whether the hand took something."""
        stage, left = self._stage, event.button() == Qt.MouseButton.LeftButton
        if stage.noting.mode and left:
            stage.noting.press(event.position())
            return True
        taken = stage.handles.under(event.position(), stage.view, stage.width(), stage.height())
        noted = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        return left and taken is not None and stage.handles.take(taken, event.position(), noted)

    def move(self, event: QMouseEvent) -> bool:
        """Whether the hand holds something, which follows."""
        stage = self._stage
        if not event.buttons() & Qt.MouseButton.LeftButton:
            return False
        if stage.noting.mode:
            stage.noting.move(event.position())
        elif stage.handles.holds:
            stage.handles.drag(event.position(), stage.view, stage.height())
        else:
            return False
        return True

    def release(self) -> None:
        """What the hand holds is let go."""
        if self._stage.noting.mode:
            self._stage.noting.release()
        elif self._stage.handles.holds or self._stage.drag.pulling:
            self._stage.handles.drop()

    def hover(self, point: QPointF) -> None:
        """The handle under the pointer says its value."""
        stage = self._stage
        under = stage.handles.under(point, stage.view, stage.width(), stage.height())
        name = under.name if under is not None else None
        if name != stage.handles.hovered:
            stage.handles.hovered = name
            stage.setCursor(Qt.CursorShape.ArrowCursor if name is None else Qt.CursorShape.PointingHandCursor)
            stage.update()

    def type_value(self) -> bool:
        """A field at the chosen handle: Enter pulls it to what was typed, in any unit; Esc leaves it."""
        stage = self._stage
        places = stage.handles.places(stage.view, stage.width(), stage.height())
        found = next(((h, at) for h, at, _ in places if h.name == stage.handles.chosen), None)
        if found is None:
            return False
        handle, at = found
        field = TypedField(f"value of {handle.name}", "What it should be, in any unit; Enter pulls it there, Esc leaves it")
        field.setParent(stage)
        field.setText(amount_text(handle.target.value, handle.target.unit, ".4g"))
        field.setFixedWidth(px(110))
        field.move(int(min(max(at.x() + 14, 4.0), stage.width() - 114)), int(max(at.y() - 12, 4.0)))

        def leave() -> None:
            field.hide()
            field.deleteLater()
            stage.setFocus()

        def keep() -> None:
            text = field.text()
            leave()
            stage.handles.pull_to(handle, text)

        field.returnPressed.connect(keep)
        field.left.connect(leave)
        field.show()
        field.selectAll()
        field.setFocus()
        return True

    @property
    def hears_keys(self) -> bool:
        """Whether Esc and Enter are the hand's."""
        return self._stage.drag.pulling or bool(self._stage.noting.mode)

    def key(self, event: QKeyEvent) -> bool:
        """Up and down pull the chosen handle, Enter keeps, Esc puts back."""
        key, stage = event.key(), self._stage
        if stage.noting.mode and key == Qt.Key.Key_Escape:
            stage.noting.end()
            return True
        turning = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and stage.handles.chosen and not turning:
            fine = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            return stage.handles.nudge((1 if key == Qt.Key.Key_Up else -1) * (FINE if fine else PULL))
        if not stage.drag.pulling and stage.handles.chosen and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            return self.type_value()
        if stage.drag.pulling and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            (stage.drag.keep if stage.drag.stuck else stage.drag.let_go)()
            return True
        if stage.drag.pulling and key == Qt.Key.Key_Escape:
            stage.drag.put_back()
            return True
        return False
