"""The numbers that grips stand for: as they are shown, and as a person types them."""

from __future__ import annotations

import numpy as np

from yapa.case import Case, get_number, quantity_of
from yapa.case.launch_angles import angles_of
from yapa.case.quantity_text import number_in
from yapa.case.units import as_shown
from yapa.errors import bad_input
from yapa.session.building import scene_edits
from yapa.session.building.fields import text_of, unit_shown, values_from
from yapa.session.building.gestures.base import Held
from yapa.session.building.gestures.launch import launched
from yapa.session.building.gestures.size import sized
from yapa.session.building.grips import Grip
from yapa.session.building.placing import place_of
from yapa.session.edits import Edit, use_values


def number_of(case: Case, name: str, grip: Grip | None) -> tuple[str, str]:
    """Return what the number of a grip is called, and its text; without a grip the place of the body.

    Parameters
    ----------
    case : the case
    name : name of the body
    grip : the grip
    """
    if grip is None:
        return f"place of {name} [m]", ", ".join(f"{c:.6g}" for c in place_of(case.bodies[name]))
    if grip.gesture == "launch":
        return "launch speed", f"{np.linalg.norm(scene_edits.start_velocity(case.bodies[name])):.6g}"
    path = f"bodies.{name}.{grip.part}"
    return f"{grip.name} [{unit_shown(path)}]", text_of(case, [path])


def typed(case: Case, name: str, grip: Grip | None, text: str) -> Edit:
    """Return the edit that what was typed for a grip asks for.

    Parameters
    ----------
    case : the case
    name : name of the body
    grip : the grip; None: the place of the body, its three coordinates
    text : what was typed

    Raises
    ------
    InputError
        If it is no such number.
    """
    if grip is None:
        parts = [part for part in text.replace(";", ",").split(",") if part.strip()]
        if len(parts) != 3:
            raise bad_input(f"place of {name}", repr(text), "three lengths with commas between, such as 0.1, 0, 25 cm")
        return scene_edits.move_body(name, np.array([number_in(part.strip(), "m", f"place of {name}") for part in parts]))
    if grip.gesture == "launch":
        speed = number_in(text.strip(), "m/s", f"launch speed of {name}")
        v = scene_edits.start_velocity(case.bodies[name])
        way = v / np.linalg.norm(v) if v.any() else grip.axis
        return launched(Held(case, name, np.zeros(3)), speed * way)
    path = f"bodies.{name}.{grip.part}"
    values = values_from(case, [path], text)
    if grip.gesture == "size" and path in values:
        return sized(name, grip.part, values[path], grip.axis)
    return use_values(values, f"{grip.name} of {name}")


def words_of(case: Case, name: str, grip: Grip) -> str:
    """Return a grip in words, with the number it stands for.

    Parameters
    ----------
    case : the case
    name : name of the body
    grip : the grip
    """
    if grip.gesture == "launch":
        speed, elevation, _ = angles_of(scene_edits.start_velocity(case.bodies[name]).tolist())
        return f"{speed:.3g} m/s, {np.degrees(elevation):.0f}° up" if speed else "pull to throw"
    path = f"bodies.{name}.{grip.part}"
    value, unit = as_shown(get_number(case, path), quantity_of(path).unit)
    called = {"lift": "height", "turn": f"turned about {grip.part[-1]}"}.get(grip.gesture, grip.name.split(",")[0])
    return f"{called} {value:.4g} {unit}"
