"""The hand on the stage while a scene is built: selecting, moving, turning, sizing, throwing, asking."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPoint, QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QKeyEvent

from yapa.desktop.app.theme import px
from yapa.desktop.bench.stage.typed import TypedField as Field
from yapa.desktop.bench.stage.wishes import Wishes
from yapa.desktop.widgets.menus import Menu
from yapa.motion import Motion
from yapa.session.building.asking import Ask
from yapa.session.building.gestures import Snapping
from yapa.session.building.grips import Grip
from yapa.session.building.rays import Ray, nice_step

if TYPE_CHECKING:
    from yapa.desktop.bench.stage.stage import Stage

NEAR = 9.0
"""pixels: within this of a grip the hand takes it"""
GRID = 12.0
"""pixels that a step of the grid is near to"""
CLICK = 4.0
"""pixels: a press that moves less is a click"""
PAUSE = 16
"""ms between two places that a body under the hand follows to"""
ANGLE = np.radians(5.0)
"""rad: turns are rounded to it"""


class BuildHand:
    """What the pointer and the keys do to bodies."""

    def __init__(self, stage: Stage) -> None:
        self._stage = stage
        self._session = stage.session
        self._builder = stage.session.builder
        self._pressed: QPointF | None = None
        self._hit: str | None = None
        self._behind: tuple[QPointF, int] | None = None
        self.box: tuple[QPointF, QPointF] | None = None
        self.hovered: str | None = None
        self.hovered_grip: str | None = None
        self.over_end = False
        self.held_grip: Grip | None = None
        self.aiming = False
        self._grips: tuple[tuple[object, ...], list[tuple[Grip, QPointF, QPointF]]] | None = None
        self.wishes = Wishes(stage)
        self._last: tuple[QPointF, Qt.KeyboardModifier] | None = None
        self._pause = QTimer(stage, interval=PAUSE, singleShot=True)
        self._pause.timeout.connect(self._follow)

    # -- places ------------------------------------------------------------------------------------

    @property
    def holds(self) -> bool:
        """Whether something is under the hand."""
        return self._builder.hand.holding

    def ray(self, at: QPointF) -> Ray:
        """Where the pointer looks."""
        return Ray(*self._stage.view.ray(at.x(), at.y(), self._stage.width(), self._stage.height()))

    @property
    def pixel(self) -> float:
        """Of how many metres a pixel is."""
        return 2 * self._stage.view.half_height / max(self._stage.height(), 1)

    @property
    def step(self) -> float:
        """The step of the grid [m]."""
        return nice_step(GRID * self.pixel)

    def motion(self) -> Motion | None:
        comparison = self._session.preview.comparison
        return comparison.motion if comparison is not None and len(comparison.motion.times) else None

    def grips(self) -> list[tuple[Grip, QPointF, QPointF]]:
        """The grips of the one body that is selected, each with its pixel and that of its foot: they are of the start."""
        if self.motion() is None:
            return []
        right, _, eye = self._stage.view.axes()
        shown = self._session.preview.draft or self._session.case
        key = shown, self._builder.body, tuple(self._builder.held_fast), self._stage.view, self._stage.width(), self._stage.height()
        if self._grips is None or shown is not self._grips[0][0] or key[1:] != self._grips[0][1:]:
            self._grips = key, self._in_pixels(self._builder.grips(right, eye, self.pixel))
        return self._grips[1]

    def _in_pixels(self, found: list[Grip]) -> list[tuple[Grip, QPointF, QPointF]]:
        if not found:
            return []
        tips, feet = (self._stage.to_pixels(np.array([getattr(g, part) for g in found])) for part in ("place", "foot"))
        return [(g, QPointF(*tip), QPointF(*foot)) for g, tip, foot in zip(found, tips, feet, strict=True)]

    def grip_at(self, at: QPointF) -> Grip | None:
        """The grip that the hand would take at a place of the stage: the nearest."""
        near = [((tip - at).manhattanLength(), grip) for grip, tip, _ in self.grips()]
        away, grip = min(near, key=lambda one: one[0], default=(2 * NEAR, None))
        return grip if away < 2 * NEAR else None

    def _is_end(self, at: QPointF) -> bool:
        """Whether the pointer is over the arrow of something that still moves at the end of the clip."""
        motion = self.motion()
        ends = self._stage.trails.going_on(motion) if motion is not None else []
        return any((tip - at).manhattanLength() < NEAR for _, _, tip in ends)

    # -- the mouse ---------------------------------------------------------------------------------

    def press(self, at: QPointF, button: Qt.MouseButton, keys: Qt.KeyboardModifier) -> bool:
        """Take what is under the pointer; False where the view is to be turned or shifted."""
        self._pressed = at
        if button != Qt.MouseButton.LeftButton:
            return False
        if self.aiming:
            self.aiming = False
            self._builder.aim(self.ray(at), high=bool(keys & Qt.KeyboardModifier.AltModifier))
            return True
        if self._is_end(at):
            self._builder.lengthen()
            return True
        if self.wishes.press(at):
            return True
        name, grip = self._builder.body, self.grip_at(at)
        if grip is not None and name is not None and self._builder.hand.take_grip(name, grip):
            self.held_grip = grip
            return True
        hits = [hit for hit in self._builder.under(self.ray(at)) if not self.is_ground(hit.body)]
        if hits:
            k = 0  # again at the same place: the one behind
            if self._behind is not None and (self._behind[0] - at).manhattanLength() < CLICK and self._builder.body is not None:
                k = (self._behind[1] + 1) % len(hits)
            self._hit, self._behind = hits[k].body, (at, k)
            if keys & Qt.KeyboardModifier.ShiftModifier:
                self._builder.toggle(self._hit)
            elif self._hit not in self._builder.selected:
                self._builder.select([self._hit])
            return True
        self._hit = None
        if keys & Qt.KeyboardModifier.ShiftModifier:
            self.box = at, at
            return True
        return False

    def is_ground(self, name: str) -> bool:
        case = self._session.case
        return case is not None and name in case.bodies and case.bodies[name].shapes[0].kind == "plane"

    def move(self, at: QPointF, keys: Qt.KeyboardModifier) -> bool:
        """Follow the pointer with what is held."""
        if self.box is not None:
            self.box = self.box[0], at
            self._stage.update()
            return True
        if self.wishes.held:
            self.wishes.move(at)
            return True
        hand = self._builder.hand
        if not hand.holding:
            if self._hit is None or self._pressed is None or (at - self._pressed).manhattanLength() < CLICK:
                return self._hit is not None
            if not hand.take(self._hit, self.ray(self._pressed)):
                return True
        self._last = at, keys
        if not self._pause.isActive():
            self._follow()
        return True

    def _follow(self) -> None:
        """Follow to where the pointer is now; not again before a picture's time is over."""
        hand, last = self._builder.hand, self._last
        if last is None or not hand.holding:
            return
        (at, keys), self._last = last, None
        self._pause.start()
        free, alt = bool(keys & Qt.KeyboardModifier.ControlModifier), bool(keys & Qt.KeyboardModifier.AltModifier)
        # it is drawn with the future that follows it
        hand.follow(self.ray(at), Snapping(0.0 if free else self.step, 0.0 if free else ANGLE, in_picture=alt, about_centre=free))

    def release(self, at: QPointF, button: Qt.MouseButton) -> bool:
        """Keep what was done; a click on nothing selects nothing, a right click asks."""
        if button == Qt.MouseButton.LeftButton and self.wishes.release(at):
            return True
        clicked = self._pressed is not None and (at - self._pressed).manhattanLength() < CLICK
        held, hit = self._builder.hand.holding, self._hit
        self._hit, self._pressed = None, None
        if self.box is not None:
            (a, b), self.box = self.box, None
            self._builder.select(self._within(QRectF(a, b).normalized()))
            return True
        if held:
            self._follow()
            self.held_grip = None
            self._builder.hand.let_go()
            return True
        if clicked and button == Qt.MouseButton.LeftButton and hit is None:
            ground = self._builder.under(self.ray(at))
            self._builder.select([ground[0].body] if ground else [])
            return True
        if clicked and button == Qt.MouseButton.RightButton:
            self.asks(at)
            return True
        return False

    def _within(self, box: QRectF) -> list[str]:
        motion = self.motion()
        if motion is None:
            return []
        states = self._stage.states(motion)
        pixels = self._stage.to_pixels(states[:, :3]) if len(states) else np.zeros((0, 2))
        return [name for name, (x, y) in zip(motion.names, pixels, strict=True)
                if box.contains(QPointF(x, y)) and not self.is_ground(name)]

    def hover(self, at: QPointF) -> None:
        """Say what is under the pointer."""
        if self.wishes.held:
            self.wishes.move(at)
            self._stage.setCursor(Qt.CursorShape.CrossCursor)
            return
        hits = [hit for hit in self._builder.under(self.ray(at)) if not self.is_ground(hit.body)]
        name = hits[0].body if hits else None
        grip = self.grip_at(at)
        over = grip.name if grip is not None else None
        shape = Qt.CursorShape.CrossCursor if self.aiming else Qt.CursorShape.PointingHandCursor
        end = self._is_end(at)
        self._stage.setCursor(shape if self.aiming or name or over or end else Qt.CursorShape.ArrowCursor)
        if (name, over, end) != (self.hovered, self.hovered_grip, self.over_end):
            self.hovered, self.hovered_grip, self.over_end = name, over, end
            self._stage.update()

    def asks(self, at: QPointF) -> None:
        """What can be asked of the selected body at this place, as a menu; with nothing selected, what can be done here."""
        found = self._builder.asks_at(self.ray(at), self.pixel)
        menu = Menu(self._stage, "asks")
        if self._builder.body is None or not found:
            action = menu.addAction("select a body that moves, then ask here")
            action.setEnabled(False)
        for ask in found:
            menu.offer(f"{self._builder.body}: {ask.text}", partial(self._want, ask))
        if self._builder.body is not None and found:
            menu.offer(f"{self._builder.body}: end inside a box that you draw…", partial(self.wishes.draw_box, self._builder.body))
        menu.popup(self._stage.mapToGlobal(QPoint(int(at.x()), int(at.y()))))

    def _want(self, ask: Ask) -> None:
        self._builder.ask(ask.targets)

    @property
    def hears_escape(self) -> bool:
        """Whether Esc puts back what is held, or takes the selection away; a fit that runs is stopped by it in any case."""
        busy = self._builder.hand.holding or self.aiming or self.wishes.held
        return busy or (bool(self._builder.selected) and not self._session.fits.running)

    # -- the keys ----------------------------------------------------------------------------------

    def key(self, event: QKeyEvent) -> bool:
        """Tab walks bodies, arrows and Page keys move them, Delete takes out, the Menu key asks, Esc puts back."""
        key, keys = Qt.Key(event.key()), event.modifiers()
        right, up, eye = self._stage.view.axes()
        ways = {Qt.Key.Key_Left: -right, Qt.Key.Key_Right: right, Qt.Key.Key_Up: up, Qt.Key.Key_Down: -up,
                Qt.Key.Key_PageUp: -eye, Qt.Key.Key_PageDown: eye}
        times = 10.0 if keys & Qt.KeyboardModifier.ShiftModifier else 0.1 if keys & Qt.KeyboardModifier.ControlModifier else 1.0
        name, grip = self._builder.body, self.chosen_grip()
        if key in ways and grip is not None and name is not None:
            sign = 1.0 if key in (Qt.Key.Key_Up, Qt.Key.Key_Right, Qt.Key.Key_PageUp) else -1.0
            self._builder.hand.nudge_grip(name, grip, sign * self.step * times, sign * ANGLE * times)
        elif key in ways and self._builder.selected:
            self._builder.hand.nudge(np.round(ways[key], 9) * self.step * times)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and name is not None:
            self._type_number(name, grip)
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self._builder.take_out()
        elif key == Qt.Key.Key_Escape and (self._builder.hand.holding or self.aiming or self.wishes.held):
            self._builder.hand.put_back()
            self.wishes.give_up()
            self.aiming, self.held_grip = False, None
        elif key == Qt.Key.Key_Escape and self._builder.selected:
            self._builder.select([])
        elif key == Qt.Key.Key_Menu:
            self.asks(self._middle())
        else:
            return False
        return True

    def walk(self, step: int) -> None:
        """Tab: on through the grips of the selected body, then to the next body."""
        self._builder.walk(step, [grip for grip, _, _ in self.grips()])

    def chosen_grip(self) -> Grip | None:
        """The grip that the keys move."""
        return next((grip for grip, _, _ in self.grips() if grip.name == self._builder.grip), None)

    def aim(self) -> None:
        """The next click on the stage is what the selected body is thrown at."""
        self.aiming = self._builder.body is not None
        words = "click where its centre is to pass (Alt: over the higher arc)"
        self._session.message.emit(words if self.aiming else "select one body to aim it")
        self._stage.setFocus(Qt.FocusReason.OtherFocusReason)

    def _middle(self) -> QPointF:
        """Where the selected body is on the stage; the middle where none is."""
        name, motion = self._builder.body, self.motion()
        if name is None or motion is None or name not in motion.names:
            return QPointF(self._stage.width() / 2, self._stage.height() / 2)
        states = self._stage.states(motion)
        return QPointF(*self._stage.to_pixels(states[motion.names.index(name), :3][None])[0])

    def _type_number(self, name: str, grip: Grip | None) -> None:
        """A field at the grip, or at the body for its place: Enter keeps what was typed, Esc leaves it."""
        at = next((tip for g, tip, _ in self.grips() if grip is not None and g.name == grip.name), self._middle())
        called, text = self._builder.number_of(name, grip)
        field = Field(called, f"{called}; any unit will do")
        field.setParent(self._stage)
        field.setText(text)
        field.selectAll()
        field.setFixedWidth(px(120))
        x, y = min(at.x() + 12, self._stage.width() - 126.0), min(at.y() - 12, self._stage.height() - 30.0)
        field.move(int(max(x, 4)), int(max(y, 4)))

        def done() -> None:
            field.hide()
            field.deleteLater()
            self._stage.setFocus(Qt.FocusReason.OtherFocusReason)

        def keep() -> None:
            typed = field.text()
            done()
            if typed != text:
                self._builder.type_number(name, grip, typed)

        field.returnPressed.connect(keep)
        field.left.connect(done)
        field.show()
        field.setFocus(Qt.FocusReason.OtherFocusReason)
