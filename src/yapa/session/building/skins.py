"""Who wears a surface, and what acts where a body meets its partners."""

from __future__ import annotations

from dataclasses import dataclass

from yapa.case import Case
from yapa.engine.compile.pair_materials import effective_values

SHOWN = ("restitution", "friction")
"""quantities that are told for every partner"""
MOST = 8
"""lines: partners beyond it are told by ``yapa pairs``"""


@dataclass(frozen=True)
class Acting:
    """One number that acts between a body's surface and that of a partner, and where it comes from."""

    partner: str
    surfaces: tuple[str, str]
    quantity: str
    value: float
    source: str


def worn_by(case: Case, surface: str) -> list[str]:
    """Return names of the bodies that wear a surface, in order.

    Parameters
    ----------
    case : the case
    surface : name of the surface
    """
    return [name for name, body in case.bodies.items() if any(shape.surface == surface for shape in body.shapes)]


def acting_on(case: Case, name: str) -> list[Acting]:
    """Return what acts between a body and the surfaces of what it can meet, a line a surface and quantity.

    Parameters
    ----------
    case : the case
    name : name of the body
    """
    own = case.bodies[name].shapes[0].surface
    others = {shape.surface for other, body in case.bodies.items() if other != name for shape in body.shapes}
    found = [value for value in effective_values(case) if value.quantity in SHOWN and own in value.surfaces
             and (value.surfaces[0] if value.surfaces[1] == own else value.surfaces[1]) in others]
    out = []
    for value in found:
        other = value.surfaces[0] if value.surfaces[1] == own else value.surfaces[1]
        out.append(Acting(other, (own, other), value.quantity, value.value, value.source))
    return out[:MOST]
