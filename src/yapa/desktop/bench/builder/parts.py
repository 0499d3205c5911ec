"""Parts of the card that are more than a line: headings, the skin with what acts on every partner, the keys of a path."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QWidget

from yapa.case import Body, Case
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import px
from yapa.desktop.bench.builder.rows import NAME, ChoiceRow, Field
from yapa.desktop.widgets.card import ElidedLabel, button, label
from yapa.errors import YapaError
from yapa.session.building import driven_paths, scene_edits
from yapa.session.building.skins import Acting, acting_on, worn_by

if TYPE_CHECKING:
    from yapa.desktop.bench.builder.card import BodyCard

SURFACE = (("restitution", "restitution"), ("friction", "friction"), ("dynamic_friction", "while sliding"),
           ("rolling_resistance", "rolling resist."), ("spinning_resistance", "spin resistance"))


LABEL_WIDTH = 78
"""pixels of the name of a partner"""


def heading(text: str) -> QWidget:
    """The name of a group of lines, with a hairline behind it."""
    row = QWidget()
    line = QHBoxLayout(row)
    line.setContentsMargins(0, 5, 0, 0)
    line.addWidget(label(text, 10, True, role="soft"))
    rule = QFrame()
    rule.setObjectName("rule")
    rule.setFixedHeight(1)
    line.addWidget(rule, 1)
    return row


def skin_rows(card: BodyCard, session: Session, case: Case, chosen: tuple[str, ...]) -> None:
    """The surface of a body: which, its numbers, who wears it too, and what acts where it meets each partner."""
    surface = case.bodies[chosen[0]].shapes[0].surface
    also = [name for name in worn_by(case, surface) if name not in chosen]
    card.add(heading("its skin" + (f", also on {', '.join(also[:3])}{' …' if len(also) > 3 else ''}" if also else "")))

    def wear(name: str) -> None:
        if name and name != surface:
            edits = [scene_edits.wear(body, name) for body in chosen]
            session.builder.edit(scene_edits.together(f"{', '.join(chosen)} wears {name}", edits))

    names = [surface, *(name for name in sorted({*case.surfaces, "default"}) if name != surface)]
    card.add(ChoiceRow("skin", names, surface, wear, "Choose a surface, or type a new name for a copy of this one", editable=True))
    for key, name in SURFACE:
        card.number(name, [f"surfaces.{surface}.{key}"])
    if surface not in case.surfaces:
        make = button("give the default skin numbers of its own", "Its numbers are the usual ones; this writes them into the case")
        make.clicked.connect(lambda: session.builder.edit(scene_edits.write_surface(surface)))
        card.add(make)
    if len(chosen) == 1:
        for k, acting in enumerate(acting_on(case, chosen[0])):
            card.add(_acting(card, session, chosen[0], k, acting))


def _acting(card: BodyCard, session: Session, name: str, k: int, acting: Acting) -> QWidget:
    """What acts between this skin and another, and where it comes from; typing writes a named pair, which then wins."""
    quantity, partner = acting.quantity, acting.partner
    row = QWidget()
    line = QHBoxLayout(row)
    line.setContentsMargins(0, 0, 0, 0)
    line.setSpacing(6)
    words = ElidedLabel(f"on {partner}", 9, role="soft")
    words.setFixedWidth(px(LABEL_WIDTH))
    line.addWidget(words)
    field = Field(f"{quantity} on {partner}", f"{quantity} that acts. Typing another writes a named pair, which then wins")
    field.setFixedWidth(px(58))
    field.setAlignment(Qt.AlignmentFlag.AlignRight)
    origin = ElidedLabel("", 9, role="soft")

    def show(now: Acting) -> None:
        field.show_text(f"{now.value:.4g}")
        source = now.source
        where = "named pair" if source.startswith("named") else source.split(" of ")[0] if " of " in source else "its own"
        origin.setText(f"{quantity}, {where}")
        origin.setToolTip(source)

    def refresh() -> None:
        case = session.case
        found = acting_on(case, name) if case is not None and name in case.bodies else []
        if k < len(found):
            show(found[k])

    def write(text: str) -> None:
        if session.builder.edit(scene_edits.type_effective(*acting.surfaces, quantity, text)):
            session.message.emit(f"the named pair {'+'.join(acting.surfaces)} now wins over the skins")

    show(acting)
    card.follow(refresh)
    field.committed.connect(write)
    line.addWidget(field)
    line.addWidget(origin, 1)
    return row


def push_limit(session: Session, name: str, body: Body) -> QWidget:
    """How hard a driven body can push; empty where nothing holds it up."""
    row = QWidget()
    line = QHBoxLayout(row)
    line.setContentsMargins(0, 0, 0, 0)
    line.setSpacing(5)
    words = label("push limit [N]", 10)
    words.setFixedWidth(px(NAME))
    line.addWidget(words)
    field = Field("push limit", "The greatest force with which it pushes; empty: it follows its path whatever is in its way")
    field.setFixedWidth(px(70))
    field.setAlignment(Qt.AlignmentFlag.AlignRight)
    field.show_text("" if body.max_force is None else f"{body.max_force:.6g}")
    field.committed.connect(lambda text: session.builder.edit(driven_paths.set_push_limit(name, text)))
    line.addWidget(field)
    line.addStretch(1)
    return row


def keys_of(card: BodyCard, session: Session, name: str, body: Body) -> None:
    """The path of a driven body, a line a key: when, and where."""
    for k, key in enumerate(body.keyframes):
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(3)
        for part, value in (("t", key.time), *zip("xyz", key.position, strict=True)):
            field = Field(f"key {k + 1} {part}", "When [s]" if part == "t" else f"Where along {part} [m]")
            field.setFixedWidth(px(52))
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
            field.show_text(f"{value:.4g}")
            field.committed.connect(lambda text, i=k, p=part: _set_key(session, name, i, p, text))
            line.addWidget(field)
        gone = button("−", f"Take key {k + 1} out of the path", f"take out key {k + 1}", "small")
        gone.setEnabled(len(body.keyframes) > 1)
        gone.clicked.connect(lambda _on=False, i=k: session.builder.edit(driven_paths.remove_key(name, i)))
        line.addWidget(gone)
        line.addStretch(1)
        card.add(row)
    more = button("+ a key a second later", "One more place on its path")
    more.clicked.connect(lambda: session.builder.edit(driven_paths.add_key(name)))
    card.add(more)


def _set_key(session: Session, name: str, index: int, part: str, text: str) -> None:
    try:
        session.builder.edit(driven_paths.set_key(name, index, part, text))
    except YapaError as error:
        session.show_error(error)
