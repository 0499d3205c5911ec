"""Edits of what belongs to no body: how long, how often sampled, pairing rules, the solver profile."""

from __future__ import annotations

import re
from collections.abc import Sequence

from yapa.case import Case
from yapa.case.arguments.registry import NUMBER
from yapa.case.profiles import PRESETS, Precise
from yapa.case.quantity_text import number_in
from yapa.case.scene import Camera
from yapa.case.validation import checked
from yapa.errors import bad_input
from yapa.session.building.placing import tidy
from yapa.session.edits import Edit

UNITS = {"duration": "s", "output_rate": "1/s", "seed": ""}
WORDS = {"duration": "clip length", "output_rate": "samples a second", "seed": "seed", "title": "title"}


def set_part(part: str, text: str) -> Edit:
    """Return the edit that sets title, clip length, sampling or seed from what was typed.

    Parameters
    ----------
    part : "title", "duration", "output_rate" or "seed"
    text : what was typed; a length of time may have a unit
    """
    def change(case: Case) -> Case:
        if part == "title":
            return checked(case.model_copy(update={"title": text.strip() or "untitled"}))
        value = number_in(text, UNITS[part], WORDS[part])
        if part == "seed" and value != int(value):
            raise bad_input("seed", text, "a whole number")
        return checked(case.model_copy(update={part: int(value) if part == "seed" else value}))

    return Edit(f"set {WORDS[part]}", change)


def set_rule(quantity: str, rule: str) -> Edit:
    """Return the edit that chooses how two surfaces' values make one.

    Parameters
    ----------
    quantity : as in the pairing of a case
    rule : "mean", "geometric mean", "product", "smaller" or "larger"
    """
    return Edit(f"{quantity.replace('_', ' ')}: {rule}",
                lambda case: case.model_copy(update={"pairing": case.pairing.model_copy(update={quantity: rule})}))


def put_camera(place: Sequence[float], aim: Sequence[float]) -> Edit:
    """Return the edit that puts one more camera into a scene, with the usual lens and frame.

    Parameters
    ----------
    place : (3,) of the camera [m]
    aim : (3,) the point it is aimed at [m]
    """
    def change(case: Case) -> Case:
        name = next(n for n in ("shot", *(f"shot {k}" for k in range(2, 1000))) if n not in case.cameras)
        a, b = ((tidy(p[0]), tidy(p[1]), tidy(p[2])) for p in (place, aim))
        return case.model_copy(update={"cameras": {**case.cameras, name: Camera(position=a, aim=b)}})

    return Edit("put a camera", change)


def set_camera(name: str, part: str, text: str) -> Edit:
    """Return the edit that sets where a camera is, where it is aimed, its lens or its frame, from what was typed.

    Parameters
    ----------
    name : name of the camera
    part : "position", "aim", "focal_length" or "frame"
    text : lengths with commas between; without a unit metres, of lens and frame millimetres
    """
    def change(case: Case) -> Case:
        count, unit = {"position": (3, "m"), "aim": (3, "m"), "focal_length": (1, "mm"), "frame": (2, "mm")}[part]
        parts = [piece.strip() for piece in text.split(",") if piece.strip()]
        if len(parts) != count:
            raise bad_input(f"{part} of {name}", repr(text), f"{count} length{'s' if count > 1 else ''}"
                            + (", with commas between" if count > 1 else ""))
        lengths = tuple(number_in(f"{p} {unit}" if _is_bare(p) else p, "m", f"{part} of {name}") for p in parts)
        camera = {**dict(case.cameras[name]), part: lengths if count > 1 else lengths[0]}
        return checked(case.model_copy(update={"cameras": {**case.cameras, name: Camera(**camera)}}))

    return Edit(f"{part.replace('_', ' ')} of {name}", change)


def _is_bare(text: str) -> bool:
    return re.fullmatch(NUMBER, text.strip()) is not None


def take_out_camera(name: str) -> Edit:
    """Return the edit that takes a camera out, with the targets that ask for its picture.

    Parameters
    ----------
    name : name of the camera
    """
    def change(case: Case) -> Case:
        cameras = {other: camera for other, camera in case.cameras.items() if other != name}
        targets = tuple(t for t in case.targets if t.argument("camera") != name)
        return case.model_copy(update={"cameras": cameras, "targets": targets})

    return Edit(f"take out {name}", change)


def set_profile(name: str) -> Edit:
    """Return the edit that chooses how time is stepped.

    Parameters
    ----------
    name : "precise", or a preset's name
    """
    def change(case: Case) -> Case:
        if name != "precise" and name not in PRESETS:
            raise bad_input("profile", repr(name), f"precise, or one of {', '.join(PRESETS)}")
        return case.model_copy(update={"profile": Precise() if name == "precise" else PRESETS[name]})

    return Edit(f"step time as {name}", change)
