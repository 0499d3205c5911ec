"""The card of the scene: gravity, air, how long, pairing rules, the solver profile, the seed."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QHBoxLayout, QWidget

from yapa.case import Case
from yapa.case.profiles import PRESETS
from yapa.case.scene import Pairing
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import px
from yapa.desktop.bench.builder.parts import heading
from yapa.desktop.bench.builder.rows import NAME, ChoiceRow, Field
from yapa.desktop.widgets.card import button, label
from yapa.errors import YapaError
from yapa.session.building import whole_scene
from yapa.session.liked_units import CHOICES, NAMES

if TYPE_CHECKING:
    from yapa.desktop.bench.builder.card import BodyCard

RULES = ("mean", "geometric mean", "product", "smaller", "larger")
OF_SCENE = (("title", "title", "What the case is called"), ("duration", "clip length [s]", "How long the clip is"),
            ("output_rate", "samples a second", "How often the motion is sampled"), ("seed", "seed", "Of all random draws"))


def scene_parts(card: BodyCard, session: Session, case: Case) -> list[Callable[[], None]]:
    """What fills the card with what belongs to no body, part by part."""
    return [partial(part, card, session, case) for part in (_whole, _rules, _stepping, _units)]


def _whole(card: BodyCard, session: Session, case: Case) -> None:
    card.add(label("the scene", 13, True))
    if not case.bodies:
        first_step = "It is empty. Drag a thing from the stock onto the stage, or press Enter on it."
        card.add(label(first_step, 10, role="soft", wrap=True))
    for part, name, tip in OF_SCENE:
        card.add(_part(session, case, part, name, tip))
    card.add(heading("what pulls and blows"))
    card.number("gravity", ["gravity"])
    card.number("air density", ["air.density"])
    for axis in "xyz":
        card.number(f"wind along {axis}", [f"air.wind.{axis}"])


def _rules(card: BodyCard, session: Session, case: Case) -> None:
    card.add(heading("how two skins make one"))
    for quantity in Pairing.model_fields:
        card.add(_rule(session, case, quantity))
    for pair in case.pairs:
        card.add(heading(f"pair {' on '.join(pair.surfaces)}"))
        for quantity in ("restitution", "friction", "dynamic_friction", "rolling_resistance", "spinning_resistance"):
            card.number(quantity.replace("_", " "), [f"pairs.{pair.key}.{quantity}"])


def _stepping(card: BodyCard, session: Session, case: Case) -> None:
    for name in case.cameras:
        _camera(card, session, name)
    card.add(heading("how time is stepped"))
    named = next((name for name, preset in PRESETS.items() if preset == case.profile), case.profile.kind)
    card.add(ChoiceRow("profile", list(dict.fromkeys([named, "precise", *PRESETS])), named,
                       lambda name: session.make(whole_scene.set_profile(name)), "Precise, or one of the stepped profiles"))
    for key in ("step", "substeps", "iterations", "restitution_threshold", "contact_distance"):
        card.number(key.replace("_", " ").replace("restitution threshold", "bounce cut-off"), [f"profile.{key}"], can_be_free=False)


def _units(card: BodyCard, session: Session, _case: Case) -> None:
    """In what numbers are shown on the card; any can be typed."""
    card.add(heading("units of the card"))

    def choose(unit: str, shown: str) -> None:
        session.units.choose(unit, shown)
        session.selection_changed.emit()

    for unit, shown in CHOICES.items():
        card.add(ChoiceRow(NAMES[unit], shown, session.units.liked.get(unit, shown[0]), partial(choose, unit),
                           f"In what {NAMES[unit]} are shown; typed, any unit will do"))


CAMERA = (("position", "place [m]", 1.0), ("aim", "aimed at [m]", 1.0), ("focal_length", "lens [mm]", 1e3),
          ("frame", "frame [mm]", 1e3))


def _camera(card: BodyCard, session: Session, name: str) -> None:
    """The numbers of a camera of the scene, and its end."""
    card.add(heading(f"camera {name}"))
    for part, words, per_unit in CAMERA:
        field = Field(f"{words} of {name}", "Numbers with commas between; any unit")
        show = partial(_show_camera, session, field, name, part, per_unit)
        show()
        field.committed.connect(lambda text, part=part: session.make(whole_scene.set_camera(name, part, text)))
        card.follow(show)
        card.add(named_row(words, field))
    gone = button("take this camera out", "With the targets that ask for its picture", f"take out camera {name}")
    gone.clicked.connect(lambda: session.make(whole_scene.take_out_camera(name)))
    card.add(gone)


def _show_camera(session: Session, field: Field, name: str, part: str, per_unit: float) -> None:
    camera = session.case.cameras.get(name) if session.case is not None else None
    if camera is not None:
        value = getattr(camera, part)
        field.show_text(", ".join(f"{per_unit * v:.5g}" for v in (value if isinstance(value, tuple) else (value,))))


def named_row(words: str, field: QWidget) -> QWidget:
    """A line of a card: a name and a field."""
    row = QWidget()
    line = QHBoxLayout(row)
    line.setContentsMargins(0, 0, 0, 0)
    line.setSpacing(6)
    name = label(words, 10)
    name.setFixedWidth(px(NAME))
    line.addWidget(name)
    line.addWidget(field, 1)
    return row


def _rule(session: Session, case: Case, quantity: str) -> ChoiceRow:
    return ChoiceRow(quantity.replace("_", " "), RULES, getattr(case.pairing, quantity),
                     lambda rule: session.make(whole_scene.set_rule(quantity, rule)),
                     "Which of two skins' values acts, unless their pair is named")


def _part(session: Session, case: Case, part: str, name: str, tip: str) -> QWidget:
    field = Field(name, tip)
    value = getattr(case, part)
    field.show_text(value if isinstance(value, str) else f"{value:.6g}")

    def write(text: str) -> None:
        try:
            session.make(whole_scene.set_part(part, text))
        except YapaError as error:
            session.show_error(error)

    field.committed.connect(write)
    session.case_changed.connect(lambda: _show(session, field, part))
    return named_row(name, field)


def _show(session: Session, field: Field, part: str) -> None:
    from shiboken6 import isValid

    if isValid(field) and session.case is not None:
        value = getattr(session.case, part)
        field.show_text(value if isinstance(value, str) else f"{value:.6g}")
