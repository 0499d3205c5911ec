"""Edits of what belongs to no body: how long, how often sampled, pairing rules, the solver profile."""

from __future__ import annotations

from yapa.case import Case
from yapa.case.profiles import PRESETS, Precise
from yapa.case.quantity_text import number_in
from yapa.case.validation import checked
from yapa.errors import bad_input
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
