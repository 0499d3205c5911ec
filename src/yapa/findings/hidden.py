"""Numbers of a surface that enter no pair, because a named pair has its own or the pairing rule takes the other side's."""

from __future__ import annotations

from collections.abc import Iterable

from yapa.case.model import Case
from yapa.case.parameter_path import parse_path
from yapa.case.parameters import SURFACE_QUANTITIES, get_number
from yapa.case.quantities import quantity_of
from yapa.engine.simulate import program_for

TURN = 0.1
"""of a number: how far it is turned up and down to see whether it enters a law"""


def partners_of(case: Case, surface: str) -> list[str]:
    """Return surfaces that a surface can meet: those of other bodies, in order of their names.

    Parameters
    ----------
    case : the case
    surface : name of the surface
    """
    mine = {name for name, body in case.bodies.items() if any(shape.surface == surface for shape in body.shapes)}
    return sorted({shape.surface for name, body in case.bodies.items() for shape in body.shapes if mine - {name}})


def is_hidden(case: Case, path: str, ends: Iterable[float]) -> bool:
    """Return whether a surface's number gives every pair of its surface the same at all these values.

    Parameters
    ----------
    case : the case
    path : path of the number
    ends : values that are tried
    """
    parts = parse_path(path)
    if parts.section != "surfaces" or parts.quantity not in SURFACE_QUANTITIES:
        return False
    partners, program = partners_of(case, parts.owner), program_for(case)
    read = [[program.law_with({path: end}, parts.owner, other)[parts.quantity] for other in partners] for end in ends]
    return bool(partners) and all(one == read[0] for one in read)


def is_hidden_here(case: Case, path: str) -> bool:
    """Return whether a surface's number enters no law where it stands, turned a little up and down.

    Parameters
    ----------
    case : the case
    path : path of the number
    """
    now = get_number(case, path)
    return is_hidden(case, path, (now, (1 - TURN) * now, min((1 + TURN) * now or TURN, quantity_of(path).most)))


def hiding_pair(case: Case, path: str) -> str | None:
    """Return the first named pair of the surface that has the quantity itself; None where the pairing rule hides it.

    Parameters
    ----------
    case : the case
    path : path of the number
    """
    parts = parse_path(path)
    return next((pair.key for pair in case.pairs
                 if parts.owner in pair.surfaces and getattr(pair, parts.quantity, None) is not None), None)


def why_hidden(case: Case, path: str) -> str:
    """Return the reason in words.

    Parameters
    ----------
    case : the case
    path : path of the number
    """
    named, quantity = hiding_pair(case, path), parse_path(path).quantity.replace("_", " ")
    return f"the named pair {named} has its own {quantity}" if named else f"the pairing rule takes the other side's {quantity}"
