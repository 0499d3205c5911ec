"""Bodies that belong together: several made one, one taken apart, groups, and physics copied from one to others."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from typing import Any

import numpy as np

from yapa.case import Body, Case
from yapa.case.rotations import rotation_matrix_of
from yapa.case.scene import NaturalRoll
from yapa.engine.compile.mass_properties import quaternion_product
from yapa.errors import bad_input
from yapa.session.building.placing import place_of, tidy, with_body
from yapa.session.building.scene_edits import free_name, start_velocity
from yapa.session.building.stock import is_endless
from yapa.session.building.taking_out import without
from yapa.session.building.weights import comes_to, volume_of
from yapa.session.edits import Edit


def _turned(a: Sequence[float], b: Sequence[float]) -> tuple[float, ...]:
    return tuple(tidy(c) for c in quaternion_product(np.array(a), np.array(b)))


def mass_of(body: Body) -> float:
    """Return the mass of a body [kg], given or by its density.

    Parameters
    ----------
    body : the body
    """
    return comes_to(body) if body.density is not None else body.mass


def join(names: Sequence[str]) -> Edit:
    """Return the edit that makes bodies one, with the name, the motion and the launch of the first.

    Their masses add up; where all have the same density, that stays what is given. What refers to the others goes with them.

    Parameters
    ----------
    names : names of the bodies, two or more
    """
    def change(case: Case) -> Case:
        bodies = [case.bodies[name] for name in names]
        if len(bodies) < 2:
            raise bad_input("join", f"{len(bodies)} bodies", "two or more")
        if any(is_endless(body) for body in bodies):
            raise bad_input("join", "an endless ground", "bodies that have a size")
        if len({body.hollow for body in bodies}) > 1:
            raise bad_input("join", "hollow and solid bodies", "bodies that are all solid, or all hollow")
        first = bodies[0]
        back, at = rotation_matrix_of(first.orientation).T, np.array(place_of(first))
        inverse = (first.orientation[0], *(-c for c in first.orientation[1:]))
        shapes = []
        for body in bodies:
            turn, place = rotation_matrix_of(body.orientation), np.array(place_of(body))
            for shape in body.shapes:
                there = back @ (place + turn @ np.array(shape.position) - at)
                shapes.append(shape.model_copy(update={
                    "position": tuple(tidy(c) for c in there),
                    "orientation": _turned(inverse, _turned(body.orientation, shape.orientation))}))
        alike = len({body.density for body in bodies}) == 1 and first.density is not None
        heavy: dict[str, Any] = {"density": first.density} if alike else {"mass": sum(mass_of(body) for body in bodies)}
        kept = {key: getattr(first, key) for key in first.model_fields_set - {"mass", "density", "inertia", "shapes"}}
        return with_body(without(case, names[1:]), names[0], Body(**kept, **heavy, shapes=tuple(shapes)))

    return Edit(f"join {', '.join(names)}", change)


def take_apart(name: str) -> Edit:
    """Return the edit that makes every shape of a body a body of its own, where it is and as fast; the first keeps the name.

    With a density each keeps it; a mass is shared by volume.

    Parameters
    ----------
    name : name of the body
    """
    def change(case: Case) -> Case:
        body = case.bodies[name]
        if len(body.shapes) < 2:
            raise bad_input(f"take {name} apart", "one shape", "a body of two shapes or more")
        if body.keyframes:
            raise bad_input(f"take {name} apart", "a driven body", "one that has no path")
        turn, at = rotation_matrix_of(body.orientation), np.array(place_of(body))
        velocity, whole = start_velocity(body), volume_of(body)
        spin = np.zeros(3) if isinstance(body.angular_velocity, NaturalRoll) else np.array(body.angular_velocity)
        kept = {key: getattr(body, key) for key in body.model_fields_set
                - {"mass", "density", "inertia", "shapes", "position", "orientation", "velocity", "angular_velocity"}}
        for k, shape in enumerate(body.shapes):
            arm = turn @ np.array(shape.position)
            own = shape.model_copy(update={"position": (0.0, 0.0, 0.0), "orientation": (1.0, 0.0, 0.0, 0.0)})
            part = Body(**kept, shapes=(own,), position=tuple(tidy(c) for c in at + arm),
                        orientation=_turned(body.orientation, shape.orientation))
            moving = body.motion == "dynamic"
            share = volume_of(part) / whole
            heavy = {"density": body.density} if body.density is not None else {"mass": body.mass * share}
            fields = {key: getattr(part, key) for key in part.model_fields_set}
            if moving:
                fields |= {"velocity": tuple(tidy(c) for c in velocity + np.cross(spin, arm)),
                           "angular_velocity": tuple(float(c) for c in spin)}
            case = with_body(case, name if k == 0 else free_name(case, name), Body(**{**fields, **heavy}))
        return case

    return Edit(f"take {name} apart", change)


def group(names: Sequence[str], called: str) -> Edit:
    """Return the edit that gives bodies a common name, which targets and the list know.

    Parameters
    ----------
    names : names of the bodies
    called : name of the group
    """
    def change(case: Case) -> Case:
        if called in case.bodies or called in case.groups:
            raise bad_input("group", repr(called), "a name that no body and no group has")
        return case.model_copy(update={"groups": {**case.groups, called: tuple(names)}})

    return Edit(f"group {called}", change)


def ungroup(called: str) -> Edit:
    """Return the edit that takes a group's name away, with the targets that ask for it; its bodies stay.

    Parameters
    ----------
    called : name of the group
    """
    def change(case: Case) -> Case:
        groups = {name: members for name, members in case.groups.items() if name != called}
        kept = tuple(t for t in case.targets if not (t.each is not None and t.body == called))
        return case.model_copy(update={"groups": groups, "targets": kept})

    return Edit(f"ungroup {called}", change)


def rename_group(old: str, new: str) -> Edit:
    """Return the edit that gives a group another name, in the targets that ask for it too.

    Parameters
    ----------
    old : its name
    new : its new name
    """
    def change(case: Case) -> Case:
        if not new or new in case.bodies or new in case.groups:
            raise bad_input("name of a group", repr(new), "a name that no body and no group has")
        groups = {new if name == old else name: members for name, members in case.groups.items()}
        targets = tuple(t.model_copy(update={"body": new}) if t.each is not None and t.body == old else t for t in case.targets)
        return case.model_copy(update={"groups": groups, "targets": targets})

    return Edit(f"rename group {old} to {new}", change)


def _mass(source: Body) -> dict[str, Any]:
    given = "density" if source.density is not None else "mass"
    return {given: getattr(source, given), "hollow": source.hollow}


def _damping(source: Body) -> dict[str, Any]:
    return {key: getattr(source, key) for key in ("linear_damping", "angular_damping", "drag_coefficient", "gravity_multiplier")}


def _launch(source: Body) -> dict[str, Any]:
    return {"velocity": source.velocity, "angular_velocity": source.angular_velocity}


PHYSICS: dict[str, Callable[[Body], dict[str, Any]]] = {
    "mass": _mass,
    "surface": lambda source: {"surface": source.shapes[0].surface},
    "damping": _damping,
    "launch": _launch,
}
"""what can be copied from a body to others, and the fields it is made of"""


def copy_physics(source: str, others: Sequence[str], what: Collection[str]) -> Edit:
    """Return the edit that gives bodies the same physics as another.

    Parameters
    ----------
    source : name of the body it is copied from
    others : names of those it is copied to
    what : of "mass", "surface", "damping" and "launch"
    """
    def change(case: Case) -> Case:
        model = case.bodies[source]
        for name in others:
            body = case.bodies[name]
            fields = {key: value for part in PHYSICS if part in what for key, value in PHYSICS[part](model).items()}
            if "surface" in fields:
                skin = fields.pop("surface")
                fields["shapes"] = tuple(shape.model_copy(update={"surface": skin}) for shape in body.shapes)
            if "velocity" in fields and body.motion != "dynamic":
                raise bad_input(f"launch of {name}", f"a {body.motion} body", "one that forces move")
            if "hollow" in fields:  # its own mass, density and moments go
                kept = {key: getattr(body, key) for key in body.model_fields_set - {"mass", "density", "inertia"}}
                case = with_body(case, name, Body(**{**kept, **fields}))
            else:
                case = with_body(case, name, body.model_copy(update=fields))
        return case

    return Edit(f"copy {', '.join(part for part in PHYSICS if part in what)} of {source}", change)
