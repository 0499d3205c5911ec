"""The card of the scene: gravity, air, how long, pairing rules, the solver profile, the seed."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from yapa.case import Case
from yapa.case.profiles import PRESETS
from yapa.case.scene import Pairing
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.bench.builder.parts import heading
from yapa.desktop.bench.builder.rows import NAME, ChoiceRow, Field
from yapa.desktop.widgets.card import label
from yapa.errors import YapaError
from yapa.session.building import whole_scene

if TYPE_CHECKING:
    from yapa.desktop.bench.builder.card import BodyCard

RULES = ("mean", "geometric mean", "product", "smaller", "larger")
OF_SCENE = (("title", "title", "What the case is called"), ("duration", "clip length [s]", "How long the clip is"),
            ("output_rate", "samples a second", "How often the motion is sampled"), ("seed", "seed", "Of all random draws"))


def scene_rows(card: BodyCard, session: Session, case: Case) -> None:
    """Fill the card with what belongs to no body."""
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
    card.add(heading("how two skins make one"))
    for quantity in Pairing.model_fields:
        card.add(_rule(session, case, quantity))
    for pair in case.pairs:
        card.add(heading(f"pair {' on '.join(pair.surfaces)}"))
        for quantity in ("restitution", "friction", "dynamic_friction", "rolling_resistance", "spinning_resistance"):
            card.number(quantity.replace("_", " "), [f"pairs.{pair.key}.{quantity}"])
    card.add(heading("how time is stepped"))
    named = next((name for name, preset in PRESETS.items() if preset == case.profile), case.profile.kind)
    card.add(ChoiceRow("profile", list(dict.fromkeys([named, "precise", *PRESETS])), named,
                       lambda name: session.make(whole_scene.set_profile(name)), "Precise, or one of the stepped profiles"))
    for key in ("step", "substeps", "iterations", "restitution_threshold", "contact_distance"):
        card.number(key.replace("_", " ").replace("restitution threshold", "bounce cut-off"), [f"profile.{key}"], can_be_free=False)


def _rule(session: Session, case: Case, quantity: str) -> ChoiceRow:
    return ChoiceRow(quantity.replace("_", " "), RULES, getattr(case.pairing, quantity),
                     lambda rule: session.make(whole_scene.set_rule(quantity, rule)),
                     "Which of two skins' values acts, unless their pair is named")


def _part(session: Session, case: Case, part: str, name: str, tip: str) -> QWidget:
    from PySide6.QtWidgets import QHBoxLayout

    row = QWidget()
    line = QHBoxLayout(row)
    line.setContentsMargins(0, 0, 0, 0)
    line.setSpacing(6)
    words = label(name, 10)
    words.setFixedWidth(NAME)
    line.addWidget(words)
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
    line.addWidget(field, 1)
    return row


def _show(session: Session, field: Field, part: str) -> None:
    from shiboken6 import isValid

    if isValid(field) and session.case is not None:
        value = getattr(session.case, part)
        field.show_text(value if isinstance(value, str) else f"{value:.6g}")
