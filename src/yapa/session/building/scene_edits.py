"""Edits of a scene that a hand makes: putting in, moving, copying, renaming, taking out. Each is one step that can be undone."""

from __future__ import annotations

from collections.abc import Sequence
from functools import reduce
from typing import Any

import numpy as np

from yapa.case import Body, Case, has_number
from yapa.case.launch_angles import angles_of, parts_of
from yapa.case.quantity_text import plain_number
from yapa.case.rotations import rotation_matrix_of
from yapa.case.scene import Direction, Keyframe, LaunchAngles, NaturalRoll, Pair, Surface
from yapa.errors import bad_input
from yapa.motion import Array
from yapa.session.building.placing import moved_out, moved_to, place_of, reach_towards, stood_on, tidy, with_body
from yapa.session.building.renaming import renamed
from yapa.session.building.stock import Thing, is_endless
from yapa.session.building.taking_out import without
from yapa.session.edits import Edit

BESIDE = 1.25
"""times its own breadth: how far from it a copy stands"""


def together(text: str, edits: Sequence[Edit]) -> Edit:
    """Return several edits as one step.

    Parameters
    ----------
    text : what undo calls it
    edits : made one after the other
    """
    return Edit(text, lambda case: reduce(lambda done, edit: edit.change(done), edits, case))


def free_name(case: Case, wanted: str) -> str:
    """Return a name that no body and no group has: the wanted one, or with a number behind.

    Parameters
    ----------
    case : the case
    wanted : the name
    """
    taken = {*case.bodies, *case.groups}
    return next(name for name in (wanted, *(f"{wanted} {k}" for k in range(2, 10_000))) if name not in taken)


def put_in(thing: Thing, name: str, point: Array, normal: Array, *, upright: bool = False) -> Edit:
    """Return the edit that stands a thing of the stock on a face, touching it and overlapping nothing.

    Parameters
    ----------
    thing : of the stock
    name : of the body, as :func:`free_name` gives it
    point : (3,) of the face [m]
    normal : (3,) its outward normal
    upright : whether it keeps its orientation, in place of lying flush
    """
    def change(case: Case) -> Case:
        body = stood_on(thing.make(), point, normal, upright=upright)
        return moved_out(with_body(case, name, body), name, normal)

    return Edit(f"put in {name}", change)


def move_body(name: str, place: Array, orientation: tuple[float, ...] | None = None) -> Edit:
    """Return the edit that has a body start somewhere else.

    Parameters
    ----------
    name : name of the body
    place : (3,) of its origin [m]
    orientation : (w, x, y, z); None: as it is
    """
    def change(case: Case) -> Case:
        body = moved_to(case.bodies[name], place)
        if orientation is not None:
            keys = tuple(key.model_copy(update={"orientation": orientation}) for key in body.keyframes)
            body = body.model_copy(update={"orientation": orientation, "keyframes": keys})
        return with_body(case, name, body)

    return Edit(f"move {name}", change)


def duplicate(name: str, copy: str, *, launch: bool = False) -> Edit:
    """Return the edit that stands a copy of a body beside it, along +x. It has no evidence and no unknowns.

    Parameters
    ----------
    name : name of the body
    copy : name of its copy
    launch : whether the copy starts as the body does, in place of at rest
    """
    def change(case: Case) -> Case:
        body = case.bodies[name]
        along = np.array([1.0, 0.0, 0.0])
        breadth = 0.0 if is_endless(body) else reach_towards(body, along) + reach_towards(body, -along)
        still: dict[str, Any] = {} if launch else {"velocity": (0.0, 0.0, 0.0), "angular_velocity": (0.0, 0.0, 0.0)}
        twin = moved_to(body.model_copy(update=still), np.array(place_of(body)) + BESIDE * breadth * along)
        return moved_out(with_body(case, copy, twin), copy, along)

    return Edit(f"duplicate {name}", change)


def take_out(names: Sequence[str]) -> Edit:
    """Return the edit that takes bodies out, with all that refers to them (``taking_out.referring`` lists it).

    Parameters
    ----------
    names : names of the bodies
    """
    return Edit(f"take out {', '.join(names)}", lambda case: without(case, names))


def rename_body(old: str, new: str) -> Edit:
    """Return the edit that gives a body another name, wherever it stands.

    Parameters
    ----------
    old : its name
    new : its new name
    """
    def change(case: Case) -> Case:
        if new in case.bodies or new in case.groups:
            raise bad_input("name", repr(new), "a name that no body and no group has")
        return renamed(case, old, new)

    return Edit(f"rename {old} to {new}", change)


def set_kind(name: str, motion: str) -> Edit:
    """Return the edit that makes a body dynamic, static or kinematic; one that comes to be driven stands still until it has a path.

    Its unknowns go where it comes not to be moved by forces.

    Parameters
    ----------
    name : name of the body
    motion : "dynamic", "static" or "kinematic"
    """
    def change(case: Case) -> Case:
        body = case.bodies[name]
        fields: dict[str, Any] = {"motion": motion}
        if motion == "dynamic":
            fields |= {"keyframes": (), "max_force": None, "position": place_of(body)}
        else:
            fields |= {"velocity": (0.0, 0.0, 0.0), "angular_velocity": (0.0, 0.0, 0.0), "locked_axes": ()}
            if motion == "static":
                fields |= {"keyframes": (), "max_force": None}
            elif not body.keyframes:
                fields["keyframes"] = (Keyframe(time=0.0, position=body.position, orientation=body.orientation),)
        after = with_body(case, name, body.model_copy(update=fields))
        kept = tuple(u.model_copy(update={"linked": tuple(tie for tie, own in zip(u.linked, u.ties, strict=True)
                                                          if has_number(after, own.path))})
                     for u in after.unknowns if has_number(after, u.path))
        return after if kept == after.unknowns else after.model_copy(update={"unknowns": kept})

    return Edit(f"make {name} {WORDS[motion]}", change)


WORDS = {"dynamic": "dynamic", "static": "fixed", "kinematic": "driven"}
"""how a kind of motion is called on the screen"""


def change_body(name: str, text: str, **fields: Any) -> Edit:
    """Return the edit that sets fields of a body.

    Parameters
    ----------
    name : name of the body
    text : what undo calls it
    fields : fields and their values
    """
    return Edit(text, lambda case: with_body(case, name, case.bodies[name].model_copy(update=fields)))


def launch(name: str, velocity: tuple[float, float, float] | LaunchAngles | Direction) -> Edit:
    """Return the edit that gives a body its start velocity; one that rolled by its velocity goes on doing so.

    Parameters
    ----------
    name : name of the body
    velocity : as in a case [m/s]
    """
    return change_body(name, f"launch {name}", velocity=velocity)


def roll_on(name: str, support: str | None) -> Edit:
    """Return the edit that ties the spin of a body to its velocity as it rolls on a support; None: it starts without spin.

    Parameters
    ----------
    name : name of the body
    support : name of the support
    """
    spin = (0.0, 0.0, 0.0) if support is None else NaturalRoll(rolling_on=support)
    return change_body(name, f"{name} without spin" if support is None else f"{name} rolls on {support}", angular_velocity=spin)


def launch_as(names: Sequence[str], way: str) -> Edit:
    """Return the edit that gives start velocities by their parts, or by speed and angles; they stay the same.

    Parameters
    ----------
    names : names of the bodies
    way : "parts", "angles", or "own angles": from the body's own axes as it is turned at the start
    """
    def change(case: Case) -> Case:
        for name in names:
            body = case.bodies[name]
            if body.motion == "dynamic":
                v = start_velocity(body)
                angles = by_angles(body, v, own=way == "own angles")
                parts = (tidy(v[0]), tidy(v[1]), tidy(v[2]))
                case = with_body(case, name, body.model_copy(update={"velocity": parts if way == "parts" else angles}))
        kept = tuple(u for u in case.unknowns if has_number(case, u.path))
        return case if len(kept) == len(case.unknowns) else case.model_copy(update={"unknowns": kept})

    return Edit(f"launch by {way}", change)


def by_angles(body: Body, velocity: Array, *, own: bool) -> LaunchAngles:
    """Return a start velocity as speed and angles.

    Parameters
    ----------
    body : the body
    velocity : (3,) world axes [m/s]
    own : whether the angles are from the body's own axes
    """
    seen = rotation_matrix_of(body.orientation).T @ velocity if own else velocity
    speed, elevation, azimuth = (tidy(c) for c in angles_of(seen.tolist()))
    return LaunchAngles(speed=speed, elevation=elevation, azimuth=azimuth, axes="body" if own else "world")


def start_velocity(body: Body) -> Array:
    """Return the start velocity of a body by its parts, world axes [m/s].

    Parameters
    ----------
    body : the body
    """
    v = body.velocity
    if isinstance(v, Direction):
        way = np.array(v.direction)
        return np.asarray(v.speed * way / np.linalg.norm(way))
    if isinstance(v, LaunchAngles):
        parts = np.array(parts_of(v.speed, v.elevation, v.azimuth))
        return parts if v.axes == "world" else np.asarray(rotation_matrix_of(body.orientation) @ parts)
    return np.array(v)


def write_surface(name: str) -> Edit:
    """Return the edit that writes a surface with the usual numbers into the case.

    Parameters
    ----------
    name : name of the surface
    """
    return Edit(f"numbers of {name}", lambda case: case.model_copy(update={"surfaces": {**case.surfaces, name: Surface()}}))


def wear(name: str, surface: str) -> Edit:
    """Return the edit that covers all shapes of a body with a surface; one of a new name is like the present one.

    Parameters
    ----------
    name : name of the body
    surface : name of the surface
    """
    def change(case: Case) -> Case:
        body = case.bodies[name]
        present = case.surfaces.get(body.shapes[0].surface, Surface())
        surfaces = case.surfaces if surface in case.surfaces else {**case.surfaces, surface: present}
        shapes = tuple(shape.model_copy(update={"surface": surface}) for shape in body.shapes)
        return with_body(case.model_copy(update={"surfaces": surfaces}), name, body.model_copy(update={"shapes": shapes}))

    return Edit(f"{name} wears {surface}", change)


def set_effective(one: str, two: str, quantity: str, value: float) -> Edit:
    """Return the edit that writes what acts between two surfaces as a value of their named pair, which wins over the rule.

    Parameters
    ----------
    one, two : the surfaces
    quantity : as in a pair
    value : its value
    """
    def change(case: Case) -> Case:
        kept = [pair for pair in case.pairs if set(pair.surfaces) != {one, two}]
        found = next((pair for pair in case.pairs if set(pair.surfaces) == {one, two}), Pair(surfaces=(one, two)))
        return case.model_copy(update={"pairs": (*kept, found.model_copy(update={quantity: value}))})

    return Edit(f"{quantity.replace('_', ' ')} of {one} on {two}", change)


def type_effective(one: str, two: str, quantity: str, text: str) -> Edit:
    """Return the edit that writes what was typed as what acts between two surfaces.

    Parameters
    ----------
    one, two : the surfaces
    quantity : as in a pair
    text : what was typed
    """
    words = f"{quantity.replace('_', ' ')} of {one} on {two}"
    return Edit(words, lambda case: set_effective(one, two, quantity, plain_number(text, words)).change(case))


def pass_through(name: str, others: Sequence[str]) -> Edit:
    """Return the edit after which a body passes through these bodies and meets all others.

    Parameters
    ----------
    name : name of the body
    others : names of the bodies it passes through
    """
    def change(case: Case) -> Case:
        bodies = dict(case.bodies)
        excluded = {frozenset(pair) for pair in case.collision_exclusions}
        through = {a: {b for b in bodies if frozenset((bodies[a].group, bodies[b].group)) in excluded} for a in bodies}
        through[name] = set(others)
        for other in bodies:
            (through[other].add if other in others else through[other].discard)(name)
        groups = {other: frozenset(found) for other, found in through.items()}
        named: dict[frozenset[str], str] = {}
        for found in groups.values():  # bodies that pass through the same ones, and not through each other, share a group
            named.setdefault(found, "all" if not found else f"apart {len(named)}")
        bodies = {other: body.model_copy(update={"group": named[groups[other]]}) for other, body in bodies.items()}
        pairs = {tuple(sorted((bodies[a].group, bodies[b].group))) for a, found in through.items() for b in found}
        return case.model_copy(update={"bodies": bodies, "collision_exclusions": tuple(sorted(pairs))})

    text = f"{name} passes through {', '.join(others)}" if others else f"{name} meets everything"
    return Edit(text, change)
