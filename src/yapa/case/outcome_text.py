"""Outcomes in words: one outcome of a body, such as ``orange apex 2``, or arithmetic of several, such as ``apex 2 / apex 1``.

Grammar (spaces free)::

    reference = [body] outcome [index] {argument}
    formula   = arithmetic of references, constants and columns (see :mod:`yapa.case.expressions`)
"""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Any

from pydantic import ValidationError

from yapa.case.arguments import ARGUMENTS
from yapa.case.arguments.registry import PLACE
from yapa.case.evidence import Target
from yapa.case.expressions import Expression, parse_expression
from yapa.case.outcome_specs import OUTCOME_SPECS, unit_of
from yapa.case.units import si_unit
from yapa.case.validation import input_error
from yapa.errors import InputError, bad_input

FORMULA = "formula"
"""name of the outcome that is arithmetic of others"""
_KEPT = re.compile(rf'"[^"\n]*"|{PLACE}')
_SIGNS = re.compile(r"[*/^()+]|(?:^|\s)-(?:\s|$)")
_PARTS = re.compile(r"([-+*/^(),])")


@lru_cache(maxsize=8)
def reference_pattern(outcomes: tuple[str, ...], arguments: tuple[str, ...]) -> tuple[str, dict[str, re.Pattern[str]]]:
    """Return the regular expression of a reference, and the patterns of its arguments, for what is registered.

    Parameters
    ----------
    outcomes : names of outcomes
    arguments : names of arguments
    """
    names = "|".join(re.escape(name).replace(r"\ ", r"\s+") for name in sorted(outcomes, key=len, reverse=True) if name != FORMULA)
    stop = "|".join(re.escape(ARGUMENTS[name].keyword) for name in arguments if ARGUMENTS[name].keyword)
    parts = {name: ARGUMENTS[name].pattern.replace("{stop}", stop) for name in arguments}
    loose = "|".join(pattern.partition("(?=")[0] if "(?=" in pattern else pattern for pattern in parts.values())
    text = rf"(?:(?P<body>\S.*?)\s+)??(?P<outcome>{names})(?:\s+(?P<index>\d+))?(?P<arguments>(?:\s+(?:{loose}))*)"
    return text, {name: re.compile(rf"(?:^|\s)(?:{pattern})") for name, pattern in parts.items()}


def fields_of(match: re.Match[str], patterns: dict[str, re.Pattern[str]]) -> dict[str, Any]:
    """Return the fields of a target that a matched reference gives: outcome, body, index and arguments.

    Parameters
    ----------
    match : of a reference
    patterns : of the arguments
    """
    out: dict[str, Any] = {"outcome": re.sub(r"\s+", " ", match["outcome"]), "body": match["body"]}
    text = match["arguments"] or ""
    for name, pattern in patterns.items():
        if found := pattern.search(text):
            out[name] = ARGUMENTS[name].parse(found[0])
            text = text[: found.start()] + " " + text[found.end() :]
    if match["index"]:
        out["index"] = int(match["index"])
    return out


def looks_like_arithmetic(fields: dict[str, Any]) -> bool:
    """Return whether a name in a matched reference holds what rather is a sign of arithmetic.

    Parameters
    ----------
    fields : of the reference
    """
    return any(_SIGNS.search(fields.get(name) or "") for name in ("body", "partner"))


@lru_cache(maxsize=4096)
def _reference(text: str, outcomes: tuple[str, ...], arguments: tuple[str, ...]) -> Target | str | None:
    """The outcome that a text names, why it cannot be one, or None where it names none."""
    pattern, patterns = reference_pattern(outcomes, arguments)
    match = re.fullmatch(pattern, text.strip())
    if match is None:
        return None
    try:
        fields = fields_of(match, patterns)
    except ValueError as error:
        return str(error)
    if looks_like_arithmetic(fields):
        return None
    try:
        return Target.model_validate({**fields, "condition": "happens"})
    except ValidationError as error:
        return input_error(error, text).problems[0].found


def is_reference(text: str) -> bool:
    """Return whether a text names one outcome.

    Parameters
    ----------
    text : such as ``orange apex 2``
    """
    return _reference(text, tuple(OUTCOME_SPECS), tuple(ARGUMENTS)) is not None


def parse_reference(text: str) -> Target:
    """Return the outcome that a text names, as a target that it happens.

    Parameters
    ----------
    text : such as ``orange apex 2``, or arithmetic of outcomes

    Raises
    ------
    InputError
        If it is neither.
    """
    found = _reference(text, tuple(OUTCOME_SPECS), tuple(ARGUMENTS))
    if isinstance(found, Target):
        return found
    if isinstance(found, str):
        raise bad_input("outcome", found, "an outcome such as 'orange apex 2' or 'speed at 0.5 s'")
    expression = parse_formula(text)
    if not any(is_reference(name) for name in expression.names):
        raise bad_input("outcome", repr(text), f"an outcome such as 'orange apex 2', or arithmetic of some; outcomes are "
                        f"{', '.join(name for name in OUTCOME_SPECS if name != FORMULA)}")
    return Target.model_validate({"outcome": FORMULA, FORMULA: text.strip(), "condition": "happens"})


@lru_cache(maxsize=1024)
def parse_formula(text: str) -> Expression:
    """Return the arithmetic in a text whose names may be outcomes in words.

    Parameters
    ----------
    text : such as ``apex 2 / apex 1`` or ``slide distance + reaction_time * speed``

    Raises
    ------
    InputError
        If it cannot be read.
    """
    kept: list[str] = []

    def keep(match: re.Match[str]) -> str:
        kept.append(match[0])
        return f"\x00{len(kept) - 1}\x00"

    def restored(part: str) -> str:
        return re.sub(r"\x00(\d+)\x00", lambda m: kept[int(m[1])], part)

    out = []
    for part in _PARTS.split(_KEPT.sub(keep, text.replace("\x00", ""))):
        whole = restored(part)
        named = whole.strip()
        out.append(f' "{_plain(named)}" ' if named and not named.startswith('"') and is_reference(named) else whole)
    return parse_expression("".join(out))


def _plain(text: str) -> str:
    return re.sub(r"\s+", " ", text)


def check_formula(text: str) -> None:
    """Refuse a formula that cannot be read, or that names no outcome.

    Parameters
    ----------
    text : the formula

    Raises
    ------
    ValueError
        If it cannot be used.
    """
    try:
        expression = parse_formula(text)
        if OUTCOME_SPECS and not any(is_reference(name) for name in expression.names):
            raise ValueError(f"{text!r} names no outcome")
        unit_of_formula(text)
    except InputError as error:
        raise ValueError(str(error.problems[0].found)) from None


def bodies_in(text: str) -> list[str]:
    """Return the bodies that a formula names, in order.

    Parameters
    ----------
    text : the formula
    """
    found = (parse_reference(name) for name in parse_formula(text).names if is_reference(name))
    return list(dict.fromkeys(body for target in found for body in (target.body, target.partner) if body is not None))


@lru_cache(maxsize=1024)
def unit_of_formula(text: str) -> str:
    """Return the SI unit of what a formula gives; empty where it has none, or constants leave it open.

    Parameters
    ----------
    text : the formula
    """
    expression = parse_formula(text)
    known = {name: si_unit(unit_of(parse_reference(name).outcome)).dimension for name in expression.names if is_reference(name)}
    dimension = expression.dimension(known)
    return "" if dimension is None else str(dimension)
