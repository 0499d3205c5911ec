"""Every number and choice of a case, one entry each, made from the case's own schema: what a new key is, it is here too.

An entry is where its value stands, its text, its unit and, where there are only so many, its choices. ``set_entry`` is the edit
that reads a text back. A part that may be given in several forms has an entry for its form.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from math import degrees, radians
from types import NoneType, UnionType
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from pydantic import BaseModel

from yapa.case import Body, Case
from yapa.case.arguments.registry import ARGUMENTS, NUMBER
from yapa.case.base import UNITS
from yapa.case.quantities import QUANTITIES
from yapa.case.quantity_text import number_in
from yapa.case.validation import in_words
from yapa.errors import bad_input
from yapa.session.building.scene_edits import set_kind
from yapa.session.edits import Edit

Where = tuple[str | int, ...]

NOT_HERE: Mapping[tuple[str, str], str] = {
    ("Case", "format"): "of the file",
    ("Case", "version"): "of the file",
    ("Case", "trials"): "made by runs and fits; named, pinned and restored in the strip of trials",
    ("Case", "scenes"): "of the trials; restored with one of them",
    ("Track", "samples"): "measured; brought in or noted by hand",
    ("Track", "import_settings"): "asked about when a table is brought in",
    ("Curve", "t"): "measured; brought in",
    ("Curve", "y"): "measured; brought in",
    ("TrialTable", "columns"): "measured; brought in",
}
"""Fields that have no entry, and why."""
MORE_UNITS = {"output_rate": "1/s", "contact_distance": "m", "restitution_threshold": "m/s", "allowed_overlap": "m",
              "max_speed": "m/s", "linear_speed": "m/s", "angular_speed": "rad/s", "delay": "s", "reference_speed": "m/s",
              "time_offset": "s", "translation": "m"}
ANGLES = ("elevation", "azimuth")
"""shown and typed in degrees"""
STARTING: Mapping[str, Any] = {
    "radius": 0.05, "length": 0.1, "size": (0.1, 0.1, 0.1), "normal": (0.0, 0.0, 1.0), "direction": (1.0, 0.0, 0.0),
    "speed": 1.0, "elevation": 0.0, "azimuth": 0.0, "velocity": (0.0, 0.0, 0.0), "angular_velocity": (0.0, 0.0, 0.0),
    "points": ((0.0, 0.0, 0.0), (0.1, 0.0, 0.0), (0.0, 0.1, 0.0), (0.0, 0.0, 0.1))}
"""What a part begins with that is given in another form from now on, SI units."""
NONE, NUMBERS = "none", "numbers"


@dataclass(frozen=True)
class Entry:
    """One value of a case.

    Attributes
    ----------
    where : keys and numbers that lead to it
    text : the value as text; numbers have commas between them, rows semicolons
    unit : of the numbers in the text; "" where they have none
    choices : what it can be; empty where anything of its kind will do
    """

    where: Where
    text: str
    unit: str = ""
    choices: tuple[str, ...] = ()

    @property
    def words(self) -> str:
        """Where it stands, in words; numbers count from 1."""
        return " › ".join(str(k + 1) if isinstance(k, int) else k.replace("_", " ") for k in self.where)


def entries_of(case: Case) -> list[Entry]:
    """Return every number and choice of a case, in the order of its file.

    Parameters
    ----------
    case : the case
    """
    return list(_of_model(case, ()))


def set_entry(where: Where, text: str) -> Edit:
    """Return the edit that sets an entry from what was typed or chosen.

    Parameters
    ----------
    where : as in the entry
    text : the new value, in the form that the entry shows; numbers may have a unit
    """
    words = Entry(where, text).words
    for pattern, special in FOLLOWS.items():
        if len(where) == len(pattern) and all(p in (k, "*") for p, k in zip(pattern, where, strict=True)):
            return special(where[1], text.strip())

    def change(case: Case) -> Case:
        with in_words(words):
            after = _with(case, type(case), where, text, words, case)
        assert isinstance(after, Case)
        return after

    return Edit(f"set {words}", change)


def _set_motion(name: str, kind: str) -> Edit:
    """What a body is, with the path that a driven one has and the others have not."""
    choices = get_args(_plain(Body.model_fields["motion"].annotation))
    if kind not in choices:
        raise bad_input(f"{name}, motion", repr(kind), " or ".join(choices))
    return set_kind(name, kind)


def _rename_track(index: str | int, name: str) -> Edit:
    """A track's name, in the takes that have it too."""
    def change(case: Case) -> Case:
        k = int(index)
        old, tracks = case.tracks[k].name, list(case.tracks)
        tracks[k] = tracks[k].model_copy(update={"name": name})
        named = [tuple(name if t == old else t for t in take.tracks) for take in case.takes]
        takes = tuple(take.model_copy(update={"tracks": new}) for take, new in zip(case.takes, named, strict=True))
        return case.model_copy(update={"tracks": tuple(tracks), "takes": takes})

    return Edit(f"rename track {name}", change)


FOLLOWS: Mapping[Where, Callable[[str | int, str], Edit]] = {
    ("bodies", "*", "motion"): lambda name, kind: _set_motion(str(name), kind),
    ("tracks", "*", "name"): _rename_track,
}
"""Values that others of the case go with, and the edit that changes them together."""


# -- what there is ---------------------------------------------------------------------------------


def _of_model(part: BaseModel, where: Where) -> Iterator[Entry]:
    for key, kind in _kinds(part).items():
        if (type(part).__name__, key) not in NOT_HERE:
            yield from _of(kind, getattr(part, key), (*where, key))


def _kinds(part: BaseModel) -> dict[str, Any]:
    """The fields of a part and their types; those of a target's own arguments too."""
    own = {key: field.annotation for key, field in type(part).model_fields.items()}
    return own | {key: ARGUMENTS[key].kind for key in part.model_extra or {}}


def _of(kind: Any, value: Any, where: Where) -> Iterator[Entry]:
    forms = _forms(kind)
    containers = [f for f in forms if _holds_models(f) and get_origin(f) in (tuple, dict)]
    if len(forms) > 1 and any(_holds_models(f) for f in forms):
        yield Entry((*where, "form"), _form_of(forms, value), choices=tuple(_name(f) for f in forms))
    if isinstance(value, BaseModel):
        yield from _of_model(value, where)
    elif value is not None and containers:
        of_each = _plain(get_args(containers[0])[0 if isinstance(value, tuple) else 1])
        items: Any = enumerate(value) if isinstance(value, tuple) else value.items()
        for key, one in items:
            yield from _of(of_each, one, (*where, key))
    elif isinstance(value, dict):
        for key, one in value.items():
            yield from _of(_plain(get_args(_form_for(forms, value))[1]), one, (*where, key))
    elif not (value is None and all(_holds_models(f) for f in forms if f is not NoneType)):
        scalar = [f for f in forms if f is not NoneType]
        choices = tuple(str(c) for c in get_args(scalar[0])) if len(scalar) == 1 and get_origin(scalar[0]) is Literal else ()
        if scalar == [bool]:
            choices = ("no", "yes")
        if len(choices) != 1:  # what can be one thing only is no choice
            yield Entry(where, _text(value, where), _unit(where, value), choices)


def _plain(kind: Any) -> Any:
    """A type without what is noted beside it."""
    return _plain(get_args(kind)[0]) if get_origin(kind) is Annotated else kind


def _forms(kind: Any) -> list[Any]:
    """The alternatives of a type."""
    kind = _plain(kind)
    if get_origin(kind) in (Union, UnionType):
        return [form for one in get_args(kind) for form in _forms(one)]
    return [kind]


def _holds_models(kind: Any) -> bool:
    kind = _plain(kind)
    if isinstance(kind, type) and issubclass(kind, BaseModel):
        return True
    return any(_holds_models(one) for one in get_args(kind) if one is not Ellipsis)


def _name(form: Any) -> str:
    """How a form is called: the kind of a model, or its name in words."""
    if form is NoneType:
        return NONE
    if isinstance(form, type) and issubclass(form, BaseModel):
        kind = form.model_fields.get("kind")
        if kind is not None and get_origin(_plain(kind.annotation)) is Literal:
            return str(get_args(_plain(kind.annotation))[0])
        return "".join(f" {c.lower()}" if c.isupper() else c for c in form.__name__).strip()
    return NUMBERS if get_origin(form) is tuple else "text"


def _form_for(forms: list[Any], value: Any) -> Any:
    """The alternative that a value has."""
    for form in forms:
        if isinstance(value, get_origin(form) or form if get_origin(form) is not Literal else str):
            return form
    return forms[0]


def _form_of(forms: list[Any], value: Any) -> str:
    return _name(_form_for(forms, value))


def _unit(where: Where, value: Any) -> str:
    key = next((k for k in reversed(where) if isinstance(k, str)), "")
    if key in ANGLES:
        return "°"
    numbers = isinstance(value, int | float | tuple | NoneType) and not isinstance(value, bool)
    return _unit_of(key) if numbers else ""


def _unit_of(key: str) -> str:
    known = {**UNITS, **MORE_UNITS}
    return known[key] if key in known else QUANTITIES[key].unit if key in QUANTITIES else ""


def _text(value: Any, where: Where) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, tuple):
        between = "; " if value and isinstance(value[0], tuple) else ", "
        return between.join(_text(one, where) for one in value)
    if isinstance(value, float):
        return f"{degrees(value) if where[-1] in ANGLES else value:.12g}"
    return str(value)


# -- setting ---------------------------------------------------------------------------------------


def _with(part: Any, kind: Any, where: Where, text: str, words: str, case: Case) -> Any:
    """A part with one value inside it set."""
    if not where:
        return _value(_forms(kind), text, words, part)
    key, rest = where[0], where[1:]
    if key == "form" and not rest:
        return _in_form(_forms(kind), part, text, words, case)
    if isinstance(part, BaseModel) and isinstance(key, str):
        new = _with(getattr(part, key), _kinds(part)[key], rest, text, words, case)
        return part.model_copy(update={key: new})
    inner = get_args(_form_for(_forms(kind), part))
    if isinstance(part, tuple) and isinstance(key, int):
        return (*part[:key], _with(part[key], inner[0], rest, text, words, case), *part[key + 1 :])
    return {**part, key: _with(part[key], inner[1], rest, text, words, case)}


def _in_form(forms: list[Any], part: Any, name: str, words: str, case: Case) -> Any:
    """A part in another form: what both forms have stays."""
    form = next((f for f in forms if _name(f) == name), None)
    if form is None:
        raise bad_input(words, repr(name), " or ".join(_name(f) for f in forms))
    if form is NoneType:
        return None
    if form is str:
        return getattr(part, "path", "")
    if not (isinstance(form, type) and issubclass(form, BaseModel)):
        return STARTING.get(words.split(" › ")[-2].replace(" ", "_"), ())
    have = {key: getattr(part, key) for key in form.model_fields if key in getattr(part, "model_fields_set", ()) and key != "kind"}
    supports = [n for n, body in case.bodies.items() if body.motion == "static"]
    begin = {**STARTING, "path": part, **({"rolling_on": supports[0]} if supports else {})}
    kind = form.model_fields.get("kind")
    missing = [key for key, field in form.model_fields.items() if field.is_required() and key not in have]
    start = {key: begin[key] for key in missing if key in begin}
    named = {"kind": get_args(_plain(kind.annotation))[0]} if kind is not None else {}
    return form(**named, **start, **have)


def _value(forms: list[Any], text: str, words: str, old: Any) -> Any:
    text = text.strip()
    if not text and NoneType in forms:
        return None
    form = next((f for f in forms if f is not NoneType and not _holds_models(f)), str)
    if len(forms) > 1 and old is not None:
        form = _form_for(forms, old)
    return _read(form, text, words)


def _read(form: Any, text: str, words: str) -> Any:
    """A text as a value of a plain type."""
    key = words.split(" › ")[-1].replace(" ", "_")
    form = _forms(form)[0] if len(_forms(form)) == 1 else next(f for f in _forms(form) if f is not NoneType)
    if get_origin(form) is Literal:
        found = [c for c in get_args(form) if str(c) == text]
        if not found:
            raise bad_input(words, repr(text), " or ".join(str(c) for c in get_args(form)))
        return found[0]
    if form is bool:
        if text not in ("yes", "no"):
            raise bad_input(words, repr(text), "yes or no")
        return text == "yes"
    if form is int:
        number = number_in(text, "", words)
        if number != int(number):
            raise bad_input(words, text, "a whole number")
        return int(number)
    if form is float:
        if key in ANGLES:
            number = number_in(text, "rad", words)
            return radians(number) if re.fullmatch(NUMBER, text) else number  # without a unit in degrees, as it is shown
        return number_in(text, _unit_of(key), words)
    if get_origin(form) is tuple:
        inner = [a for a in get_args(form) if a is not Ellipsis]
        rows = get_origin(_forms(inner[0])[0]) is tuple
        pieces = [p.strip() for p in text.split(";" if rows else ",") if p.strip()]
        if Ellipsis not in get_args(form) and len(pieces) != len(inner):
            raise bad_input(words, repr(text), f"{len(inner)} values with {'semicolons' if rows else 'commas'} between them")
        return tuple(_read(inner[min(k, len(inner) - 1)], piece, words) for k, piece in enumerate(pieces))
    return text
