"""Errors of the validator in words for a person: what was found, where, and what is expected."""

from __future__ import annotations

import difflib
import json
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from yapa.case.base import Model
from yapa.errors import InputError, InputIssue

Part = TypeVar("Part", bound=BaseModel)

_EXPECTED = {
    "missing": "this key to be present",
    "string_type": "text in quotes",
    "float_type": "a number",
    "float_parsing": "a number",
    "int_type": "a whole number",
    "int_from_float": "a whole number",
    "int_parsing_size": "a whole number of at most 18 digits",
    "bool_type": "true or false",
    "finite_number": "a finite number",
    "dict_type": "an object in braces",
    "model_type": "an object in braces",
    "model_attributes_type": "an object in braces",
    "tuple_type": "a list in brackets",
    "greater_than": "a number above {gt:g}",
    "greater_than_equal": "a number from {ge:g} on",
    "less_than": "a number below {lt:g}",
    "less_than_equal": "a number up to {le:g}",
    "literal_error": "{expected}",
    "too_long": "at most {max_length} entries",
    "too_short": "at least {min_length} entries",
    "string_too_long": "at most {max_length} letters",
    "string_too_short": "at least {min_length} letters",
    "string_pattern_mismatch": "a name without dots, plus signs, bars, tabs or line ends, and no blank at its start",
    "union_tag_invalid": "one of {expected_tags}",
    "union_tag_not_found": "an object with the key {discriminator} that says what it is",
    "string_unicode": "letters of Unicode",
    "json_invalid": "JSON that a case is made of, letters of Unicode in it",
}
"""What would be accepted, by the kind of error; the words of the validator itself are for its own readers."""


def shown(value: Any) -> str:
    """Return a value as it stands in a file, cut to 60 letters.

    Parameters
    ----------
    value : its value
    """
    text = json.dumps(value, default=str, ensure_ascii=False) if not isinstance(value, float) else repr(value)
    return text if len(text) <= 60 else text[:57] + "..."


_TAGS = {"sphere", "box", "plane", "capsule", "cylinder", "hull"}
_PROFILES = {"precise", "stepped"}


def _where(loc: tuple[Any, ...]) -> str:
    """The path as it stands in the file, without the names of union branches."""
    skip = {"Direction", "LaunchAngles", "NaturalRoll", "float", "constrained-float"}
    parts = [str(p) for i, p in enumerate(loc)
             if not (str(p) in skip or str(p).startswith(("tuple[", "constrained"))
                     or (p in _TAGS and i >= 2 and loc[i - 2] == "shapes")
                     or (p in _PROFILES and i >= 1 and loc[i - 1] == "profile"))]
    return ".".join(parts) or "the case"


def _model_keys() -> set[str]:
    """Every key that some part of a case has."""
    kinds, keys = [Model], set[str]()
    while kinds:
        kind = kinds.pop()
        keys |= set(kind.model_fields)
        kinds += kind.__subclasses__()
    return keys


def _problems(error: ValidationError, at: tuple[Any, ...] = ()) -> list[InputIssue]:
    """What a validator found in the part of a case that stands at a place."""
    problems: list[InputIssue] = []
    seen: set[str] = set()
    for item in error.errors(include_url=False):
        where, kind = _where((*at, *item["loc"])), item["type"]
        if kind == "extra_forbidden":
            key = str(item.get("ctx", {}).get("key") or item["loc"][-1])
            where = where if where.endswith(key) else f"{where}.{key}"
            near = difflib.get_close_matches(key, _model_keys() - {key}, n=1)
            remedy = f"a known key; did you mean {near[0]!r}?" if near else "a known key; remove this one"
            problem = InputIssue(where, f"the unknown key {key!r}", remedy)
        elif kind == "missing":
            problem = InputIssue(where, "nothing", _EXPECTED[kind])
        elif kind == "value_error":
            lines = str(item["ctx"]["error"]).split("\n")
            problems += [InputIssue(where if len(lines) == 1 else "the case", line, "a consistent case")
                         for line in lines[:-1]]
            problem = InputIssue(where, lines[-1], "a consistent case")
        else:
            expected = _EXPECTED.get(kind, "another kind of value; see docs/case-format.md").format(**item.get("ctx", {}))
            problem = InputIssue(where, "text that is no JSON" if kind == "json_invalid" else shown(item["input"]), expected)
        if str(problem) not in seen:
            seen.add(str(problem))
            problems.append(problem)
    return problems


def input_error(error: ValidationError, subject: str) -> InputError:
    """Return what a validator found, in words for the person.

    Parameters
    ----------
    error : what was raised
    subject : what is checked, for messages
    """
    return InputError(_problems(error), subject)


def part_error(error: ValidationError, kind: str) -> InputError:
    """Return what a validator found in one part that was made by a call, in words for the person.

    Parameters
    ----------
    error : what was raised
    kind : name of the part's class
    """
    issues = [InputIssue("as a whole", issue.found, "values that go together") if issue.where == "the case" else issue
              for issue in _problems(error)]
    return InputError(issues, kind)


@contextmanager
def in_words(subject: str) -> Iterator[None]:
    """Return what a validator finds wrong with parts that are made here is said in words for the person.

    Parameters
    ----------
    subject : what is checked, for messages

    Raises
    ------
    InputError
        In place of the validator's own error.
    """
    try:
        yield
    except ValidationError as error:
        raise input_error(error, subject) from None


def validate_as(kind: type[Part], tree: Any, subject: str) -> Part:
    """Return a part of a case from plain JSON data, with every problem at once.

    Parameters
    ----------
    kind : class of the part
    tree : plain JSON data
    subject : what is checked, for messages

    Raises
    ------
    InputError
        With one problem per thing wrong.
    """
    try:
        return kind.model_validate_json(json.dumps(tree, allow_nan=True))
    except ValidationError as error:
        raise input_error(error, subject) from None


def check_change(after: Model, before: Model | None, subject: str = "this edit") -> None:
    """Hold everything of a part that is not shared with its former state to the rules of a file.

    ``model_copy`` checks no values and a validator takes parts that were made before as they are. Here every part that is not the
    same object in ``before`` is validated anew, the innermost first, so that the cost follows what changed.

    Parameters
    ----------
    after : the part as it becomes
    before : the same part as it was, which is valid; None where there was none
    subject : what is checked, for messages

    Raises
    ------
    InputError
        With one problem per thing wrong, each with its path.
    """
    problems: list[InputIssue] = []
    _check_part(after, before, (), problems)
    if problems:
        raise InputError(problems, subject)


def _check_part(part: Any, before: Any, at: tuple[Any, ...], problems: list[InputIssue]) -> None:
    if part is before:
        return
    if isinstance(part, Model):
        for name in type(part).model_fields:
            _check_part(getattr(part, name), getattr(before, name, None), (*at, name), problems)
        if any(issue.where.startswith(_where(at)) for issue in problems) and at:
            return  # what is inside is wrong already
        try:
            type(part).model_validate(part.given())
        except ValidationError as error:
            problems += _problems(error, at)
    elif isinstance(part, dict):
        old = before if isinstance(before, dict) else {}
        for key, value in part.items():
            _check_part(value, old.get(key), (*at, key), problems)
    elif isinstance(part, tuple | list) and part and isinstance(part[0], Model | tuple | list):
        rows = before if isinstance(before, tuple) else ()
        known = {id(row) for row in rows}
        for k, value in enumerate(part):
            if id(value) not in known:
                _check_part(value, rows[k] if k < len(rows) else None, (*at, k), problems)


def checked(whole: Part, subject: str = "this edit") -> Part:
    """Return the same part of a case, once more checked as a whole: what joins parts checked one by one is held to the same rules.

    Parameters
    ----------
    whole : the part that is checked
    subject : what is checked, for messages

    Raises
    ------
    InputError
        With one problem per thing wrong.
    """
    try:
        type(whole).model_validate(dict(whole))
    except ValidationError as error:
        raise input_error(error, subject) from None
    return whole
