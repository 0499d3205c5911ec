"""Taking bodies out of a case, with all that refers to them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from yapa.case import Case, Target
from yapa.case.outcome_text import is_reference, parse_formula, parse_reference
from yapa.case.parameter_path import parse_path
from yapa.case.scene import NaturalRoll


def referring(case: Case, names: Sequence[str]) -> list[str]:
    """Return in words what refers to bodies, and goes with them.

    Parameters
    ----------
    case : the case
    names : names of the bodies
    """
    return list(_referring(case, set(names)))


def _referring(case: Case, gone: set[str]) -> Iterator[str]:
    yield from (f"track {track.name}" for track in case.tracks if track.body in gone)
    yield from (f"curve {curve.name}" for curve in case.curves if curve.body in gone)
    yield from (f"target {target.label}" for target in case.targets if names_in(case, target) & gone)
    yield from (f"unknown {unknown.path}" for unknown in case.unknowns if _is_of(unknown.path, gone))
    yield from (f"group {name}" for name, members in case.groups.items() if set(members) & gone)
    yield from (f"{name}, placed under it" for name, body in case.bodies.items() if body.placed_under in gone and name not in gone)
    yield from (f"{name}, rolling on it" for name, body in case.bodies.items()
                if name not in gone and isinstance(body.angular_velocity, NaturalRoll) and body.angular_velocity.rolling_on in gone)
    if case.table is not None and any(_is_of(path, gone) for path in case.table.settings):
        yield "the table of trials"


def names_in(case: Case, target: Target) -> set[str]:
    """Return names of all bodies that a target is about.

    Parameters
    ----------
    case : the case
    target : the wanted outcome
    """
    if target.outcome == "formula":
        names = parse_formula(str(target.argument("formula"))).names
        return {name for text in names if is_reference(text) for name in names_in(case, parse_reference(text))}
    own = case.groups.get(target.body or "", ()) if target.each is not None else (target.body,)
    movers = case.dynamic_bodies()
    alone = movers if target.body is None and len(movers) == 1 else ()
    return {name for name in (*own, target.partner, *(target.argument("sequence") or ()), *alone) if name is not None}


def _is_of(path: str, names: set[str]) -> bool:
    parts = parse_path(path)
    return parts.section == "bodies" and parts.owner in names


def without(case: Case, names: Sequence[str]) -> Case:
    """Return the case without bodies, and without all that refers to them.

    Parameters
    ----------
    case : the case
    names : names of the bodies
    """
    gone = set(names)
    tracks = {track.name for track in case.tracks if track.body in gone}
    lost = {unknown.path for unknown in case.unknowns if _is_of(unknown.path, gone)}
    bodies = {}
    for name, body in case.bodies.items():
        if name in gone:
            continue
        if body.placed_under in gone:
            body = body.model_copy(update={"placed_under": None})
        if isinstance(body.angular_velocity, NaturalRoll) and body.angular_velocity.rolling_on in gone:
            body = body.model_copy(update={"angular_velocity": (0.0, 0.0, 0.0)})
        bodies[name] = body
    groups = {name: left for name, members in case.groups.items() if (left := tuple(m for m in members if m not in gone))}
    table = None if case.table is not None and any(_is_of(path, gone) for path in case.table.settings) else case.table
    takes = tuple(take.model_copy(update={
        "tracks": tuple(t for t in take.tracks if t not in tracks), "rows": take.rows if table is not None else (),
        "targets": tuple(t for t in take.targets if not names_in(case, t) & gone),
        "values": {path: v for path, v in take.values.items() if not _is_of(path, gone)},
        "free_per_take": tuple(path for path in take.free_per_take if path not in lost)}) for take in case.takes)
    takes = tuple(take for take in takes if take.tracks or take.targets or take.rows)
    unknowns = tuple(u.model_copy(update={"linked": tuple(tie for tie in u.linked if not _is_of(_tied(tie), gone))})
                     for u in case.unknowns if u.path not in lost)
    return case.model_copy(update={
        "bodies": bodies, "groups": groups, "table": table, "takes": takes, "unknowns": unknowns,
        "tracks": tuple(t for t in case.tracks if t.body not in gone),
        "curves": tuple(c for c in case.curves if c.body not in gone),
        "targets": tuple(t for t in case.targets if not names_in(case, t) & gone)})


def _tied(tie: object) -> str:
    return tie if isinstance(tie, str) else str(getattr(tie, "path", ""))
