"""Where a number cannot matter, and why: a rule each, asked of every number that the card shows."""

from __future__ import annotations

from collections.abc import Callable

from yapa.case import Case
from yapa.case.parameter_path import ParameterPath, parse_path
from yapa.case.parameters import SURFACE_QUANTITIES
from yapa.findings.hidden import is_hidden_here, partners_of, why_hidden

Rule = Callable[[Case, ParameterPath], str]
ROUND = ("sphere", "cylinder", "capsule")


def cannot_matter(case: Case, path: str) -> str:
    """Return why a number cannot matter in this case, in words; "" where it can.

    Parameters
    ----------
    case : the case
    path : path of the number
    """
    parts = parse_path(path)
    return next((why for rule in RULES if (why := rule(case, parts))), "")


def _skin(case: Case, parts: ParameterPath) -> str:
    if parts.section != "surfaces" or parts.quantity not in SURFACE_QUANTITIES:
        return ""
    if not partners_of(case, parts.owner):
        return "it meets nothing"
    return why_hidden(case, str(parts)) if is_hidden_here(case, str(parts)) else ""


def _rolling(case: Case, parts: ParameterPath) -> str:
    if parts.section != "surfaces" or parts.quantity != "rolling_resistance":
        return ""
    kinds = {shape.kind for body in case.bodies.values() if body.motion == "dynamic" for shape in body.shapes}
    return "" if kinds & set(ROUND) else "nothing round can roll here"


def _weight(case: Case, parts: ParameterPath) -> str:
    if parts.section != "bodies" or parts.quantity not in ("mass", "density"):
        return ""
    body = case.bodies[parts.owner]
    others = [b for name, b in case.bodies.items() if name != parts.owner]
    alone = all(b.motion == "static" or (b.motion == "kinematic" and b.max_force is None) for b in others)
    if body.motion != "dynamic":
        return "no force moves it" if body.max_force is None else ""
    return "nothing it meets can be pushed, and air does not brake it" if alone and body.drag_coefficient == 0 else ""


def _air(case: Case, parts: ParameterPath) -> str:
    if parts.section == "bodies" and parts.quantity == "drag_coefficient":
        return "" if case.fields.air.density else "there is no air"
    if str(parts).startswith("air."):
        return "" if any(b.drag_coefficient for b in case.bodies.values() if b.motion == "dynamic") else "no body has drag"
    return ""


def _pull(case: Case, parts: ParameterPath) -> str:
    if parts.section == "bodies" and parts.quantity == "gravity_multiplier" and case.fields.gravity == 0:
        return "there is no gravity"
    moving = any(b.motion == "dynamic" for b in case.bodies.values())
    return "nothing here can fall" if str(parts) == "gravity" and case.bodies and not moving else ""


def _locked(case: Case, parts: ParameterPath) -> str:
    if parts.section != "bodies" or parts.quantity not in ("velocity", "angular_velocity"):
        return ""
    axis = str(parts)[-1]
    turning = parts.quantity == "angular_velocity"
    locked = f"rotation_{axis}" if turning else axis
    if locked in case.bodies[parts.owner].locked_axes:
        return f"it may not turn about {axis}" if turning else f"it may not move along {axis}"
    return ""


RULES: tuple[Rule, ...] = (_skin, _rolling, _weight, _air, _pull, _locked)
"""Every rule; a new one is a function and its name here."""
