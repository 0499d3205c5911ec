"""The card of what is selected: what it is, how heavy, its skin, how it starts, what slows it; or of the scene."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import QTimer
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QApplication, QComboBox, QHBoxLayout, QLineEdit, QWidget

from yapa.case import Body, Case, has_number
from yapa.case.scene import LaunchAngles, NaturalRoll
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import font
from yapa.desktop.bench.builder.parts import heading, keys_of, push_limit, skin_rows
from yapa.desktop.bench.builder.rows import ChoiceRow, Field, NumberRow, SwitchRow
from yapa.desktop.bench.builder.scene_form import scene_parts
from yapa.desktop.widgets.card import button, label
from yapa.desktop.widgets.column import Column, _clear
from yapa.desktop.widgets.menus import Menu
from yapa.session.building import driven_paths, scene_edits
from yapa.session.building.weights import comes_to, give_other
from yapa.session.edits import Edit

LOCKS = (("x", "x"), ("y", "y"), ("z", "z"), ("rotation_x", "turn x"), ("rotation_y", "turn y"), ("rotation_z", "turn z"))
SIZES = {"sphere": (("radius", "radius"),), "box": (("size.x", "length"), ("size.y", "depth"), ("size.z", "height")),
         "capsule": (("radius", "radius"), ("length", "straight part")), "cylinder": (("radius", "radius"), ("length", "length"))}
STARTS = {"position": ("at x", "at y", "at z"), "tilt": ("turned, x", "turned, y", "turned, z"),
          "velocity": ("along x", "along y", "along z"), "angular_velocity": ("spin x", "spin y", "spin z")}


class BodyCard(Column):
    """The card of the bench's right side while a scene is built."""

    def __init__(self, session: Session, width: int) -> None:
        super().__init__(width)
        self._session = session
        self._shown: tuple[object, ...] = ()
        self._followers: list[Callable[[], object]] = []
        self.cards.setSpacing(3)
        session.case_changed.connect(self.refresh)
        session.selection_changed.connect(self.refresh)

    def refresh(self) -> None:
        """Show the present case: the same rows again where nothing but numbers changed; nothing while the card is not seen."""
        case = self._session.case
        if case is None or not self.isVisible():
            return
        chosen = tuple(name for name in self._session.builder.selected if name in case.bodies)
        shape = (chosen, *(_form(case.bodies[name]) for name in chosen), tuple(case.bodies), tuple(case.surfaces),
                 tuple((pair.surfaces, tuple(q for q, v in pair if v is None)) for pair in case.pairs),
                 case.pairing, case.collision_exclusions, tuple(b.group for b in case.bodies.values()),
                 tuple(self._session.units.liked.items()), None if chosen else (case.profile, tuple(case.cameras)))
        if shape == self._shown:
            for refresh in self._followers:
                refresh()
            return
        self._shown = shape
        keys, stage = QApplication.focusWidget(), self.window().findChild(QWidget, "stage")
        if keys is not None and stage is not None and self.isAncestorOf(keys):
            stage.setFocus()  # what had the keys goes, and no field that stands beside it is to get them
        _clear(self.cards)
        self._followers = []
        parts = self._body(case, chosen) if chosen else scene_parts(self, self._session, case)
        self._build([*parts, lambda: self.cards.addStretch(1)], shape)

    def _build(self, parts: list[Callable[[], object]], shape: tuple[object, ...]) -> None:
        """Make the first part at once and each other in a turn of its own: the interface never stands still for a whole card."""
        if self._shown is shape:
            parts[0]()
            if len(parts) > 1:
                QTimer.singleShot(2, self, lambda: self._build(parts[1:], shape))

    def showEvent(self, event: QShowEvent) -> None:
        """What changed while it was not seen."""
        super().showEvent(event)
        self.refresh()

    def fields(self) -> list[QWidget]:
        """The fields and choices of the card, from top to bottom."""
        every = [w for w in self.findChildren(QWidget) if isinstance(w, QLineEdit | QComboBox) and w.accessibleName()]
        return [w for w in every if w.isEnabled()]

    def follow(self, refresh: Callable[[], object]) -> None:
        """Have something shown anew whenever numbers of the case have changed."""
        self._followers.append(refresh)

    def add(self, widget: QWidget) -> None:
        """One more line."""
        self.cards.addWidget(widget)

    def number(self, name: str, paths: Sequence[str], can_be_free: bool = True) -> None:
        """A line of a number that the case has."""
        case = self._session.case
        have = [path for path in paths if case is not None and has_number(case, path)]
        if have:
            row = NumberRow(self._session, name, have, can_be_free)
            self.follow(row.refresh)
            self.add(row)

    def _body(self, case: Case, chosen: tuple[str, ...]) -> list[Callable[[], object]]:
        """What makes the card of bodies, part by part."""
        first = case.bodies[chosen[0]]
        parts: list[Callable[[], object]] = [lambda: self._what(case, chosen, first),
                                             lambda: skin_rows(self, self._session, case, chosen),
                                             lambda: self._start(case, chosen, first)]
        if first.motion == "dynamic":
            parts += [lambda: self._launch(case, chosen, first), lambda: self._slows(chosen, first)]
        return [*parts, lambda: self._meets(case, chosen)]

    def _what(self, case: Case, chosen: tuple[str, ...], first: Body) -> None:
        self._title(chosen)
        self.add(heading("what it is"))
        kinds = [(kind, scene_edits.WORDS[kind]) for kind in ("dynamic", "static", "kinematic")]
        tips = ("Forces move it", "It never moves", "It follows its path, and pushes")
        self.add(SwitchRow(kinds, [first.motion], lambda kind: self._each(chosen, kind), tips))
        kind = first.shapes[0].kind
        for key, name in SIZES.get(kind, ()):
            self.number(name, [f"bodies.{n}.{key}" for n in chosen])
        if len(first.shapes) > 1 or kind == "hull":
            self.number("size over all", [f"bodies.{n}.size" for n in chosen])
        if first.motion == "dynamic" or first.max_force is not None:
            self._weight(chosen, first)

    def _title(self, chosen: tuple[str, ...]) -> None:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        if len(chosen) == 1:
            name = Field("name", "Its name; it follows everywhere")
            name.setObjectName("value")
            name.setFont(font(13, True))
            name.show_text(chosen[0])
            name.committed.connect(self._session.builder.rename)
            line.addWidget(name, 1)
        else:
            line.addWidget(label(f"{len(chosen)} bodies", 13, True), 1)
        for text, tip, act in (("duplicate", "A copy beside it, at rest (Ctrl+K)", lambda: self._session.builder.duplicate()),
                               ("take out", "With what refers to it (Del)", self._session.builder.take_out)):
            b = button(text, tip)
            b.clicked.connect(lambda _on=False, a=act: a())
            line.addWidget(b)
        self.add(row)

    def _each(self, chosen: tuple[str, ...], kind: str) -> None:
        self._again(scene_edits.together(f"make {', '.join(chosen)} {scene_edits.WORDS[kind]}",
                                         [scene_edits.set_kind(name, kind) for name in chosen]))

    def _weight(self, chosen: tuple[str, ...], first: Body) -> None:
        self.add(heading("how heavy"))
        if first.density is not None:
            self.number("density", [f"bodies.{n}.density" for n in chosen])
        else:
            self.number("mass", [f"bodies.{n}.mass" for n in chosen])
        if len(chosen) == 1:
            other, unit = ("mass", "kg") if first.density is not None else ("density", "kg/m³")
            row = QWidget()
            line = QHBoxLayout(row)
            line.setContentsMargins(0, 0, 0, 0)
            words = label("", 9, role="soft")

            def show() -> None:
                case = self._session.case
                if case is not None and chosen[0] in case.bodies:
                    words.setText(f"comes to {comes_to(case.bodies[chosen[0]]):.4g} {unit}")

            show()
            self.follow(show)
            line.addWidget(words)
            line.addStretch(1)
            b = button(f"give its {other} instead", f"The {other} is then what is given; it weighs the same now")
            b.clicked.connect(lambda: self._again(give_other(chosen[0], other)))
            line.addWidget(b)
            self.add(row)

    def _again(self, edit: Edit) -> None:
        """Make an edit that changes which lines there are."""
        self._session.builder.edit(edit)
        self._shown = ()
        self.refresh()

    def _start(self, case: Case, chosen: tuple[str, ...], first: Body) -> None:
        self.add(heading("where it starts" if first.motion != "dynamic" else "how it starts"))
        if first.motion == "kinematic" and len(chosen) == 1:
            self.add(push_limit(self._session, chosen[0], first))
        if first.keyframes:
            keys_of(self, self._session, chosen[0], first)
            if len(first.keyframes) == 1:
                self._path_button(chosen[0])
            return
        for axis, name in zip("xyz", STARTS["position"], strict=True):
            self.number(name, [f"bodies.{n}.position.{axis}" for n in chosen])
        for axis, name in zip("xyz", STARTS["tilt"], strict=True):
            self.number(name, [f"bodies.{n}.tilt.{axis}" for n in chosen])

    def _path_button(self, name: str) -> None:
        b = button("give it a path", "Two keys: where it is now, and half a metre on after a second")
        b.clicked.connect(lambda: self._again(driven_paths.give_path(name)))
        self.add(b)

    def _launch(self, case: Case, chosen: tuple[str, ...], first: Body) -> None:
        if first.keyframes:
            return
        ways = (("parts", "x, y, z"), ("angles", "angles"), ("own angles", "own angles"))
        v = first.velocity
        way = "parts" if not isinstance(v, LaunchAngles) else "angles" if v.axes == "world" else "own angles"
        self.add(SwitchRow(ways, [way], lambda way: self._again(scene_edits.launch_as(chosen, way)),
                           ("The velocity by its parts", "The velocity by speed, elevation and azimuth",
                            "The same from the body's own axes: it turns with the body")))
        for key, name in (("speed", "speed"), ("elevation", "elevation"), ("azimuth", "azimuth")):
            self.number(name, [f"bodies.{n}.{key}" for n in chosen])
        for axis, name in zip("xyz", STARTS["velocity"], strict=True):
            self.number(name, [f"bodies.{n}.velocity.{axis}" for n in chosen])
        for axis, name in zip("xyz", STARTS["angular_velocity"], strict=True):
            self.number(name, [f"bodies.{n}.angular_velocity.{axis}" for n in chosen])
        if first.shapes[0].rolls and len(chosen) == 1:
            supports = [n for n, b in case.bodies.items() if n != chosen[0] and b.shapes[0].has_faces]
            rolls = first.angular_velocity.rolling_on if isinstance(first.angular_velocity, NaturalRoll) else "free spin"
            self.add(ChoiceRow("rolls on", ["free spin", *supports], rolls, lambda on: self._again(
                scene_edits.roll_on(chosen[0], None if on == "free spin" else on)),
                "Its spin follows its velocity as it rolls on a support, for good"))

    def _slows(self, chosen: tuple[str, ...], first: Body) -> None:
        self.add(heading("what slows it"))
        for key, name in (("drag_coefficient", "drag"), ("linear_damping", "damping"), ("angular_damping", "spin damping"),
                          ("gravity_multiplier", "gravity ×")):
            self.number(name, [f"bodies.{n}.{key}" for n in chosen])
        self.add(heading("free to move"))
        on = [key for key, _ in LOCKS if key not in first.locked_axes]

        def turn(key: str) -> None:
            locked = tuple(k for k, _ in LOCKS if (k in first.locked_axes) != (k == key))
            text = f"where {', '.join(chosen)} may move"
            self._again(scene_edits.together(text, [scene_edits.change_body(n, text, locked_axes=locked) for n in chosen]))

        for some in (LOCKS[:3], LOCKS[3:]):
            tips = [f"Whether it may {'move along' if key in 'xyz' else 'turn about'} {key[-1]}" for key, _ in some]
            self.add(SwitchRow(some, on, turn, tips))

    def _meets(self, case: Case, chosen: tuple[str, ...]) -> None:
        if len(chosen) != 1 or len(case.bodies) < 2:
            return
        name = chosen[0]
        excluded = {frozenset(pair) for pair in case.collision_exclusions}
        through = [other for other, body in case.bodies.items()
                   if other != name and frozenset((body.group, case.bodies[name].group)) in excluded]
        b = button(f"passes through: {', '.join(through) or 'nothing'}…", "Choose the bodies it passes through", "passes through")

        def choose() -> None:
            menu = Menu(b, "passes through")
            for other in case.bodies:
                if other != name:
                    action = menu.offer(other, partial(turn, other))
                    action.setCheckable(True)
                    action.setChecked(other in through)
            menu.popup(b.mapToGlobal(b.rect().bottomLeft()))

        def turn(other: str) -> None:
            now = [n for n in through if n != other] if other in through else [*through, other]
            self._again(scene_edits.pass_through(name, now))

        b.clicked.connect(choose)
        self.add(b)


def _form(body: Body) -> tuple[object, ...]:
    """What of a body decides which lines its card has."""
    return (body.motion, tuple((shape.kind, shape.surface) for shape in body.shapes), body.density is None, type(body.velocity),
            isinstance(body.velocity, LaunchAngles) and body.velocity.axes,
            isinstance(body.angular_velocity, NaturalRoll) and body.angular_velocity.rolling_on, body.locked_axes, body.keyframes,
            body.max_force)
