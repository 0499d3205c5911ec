"""Targets in words: ``orange apex 2 = 0.42 ± 0.005 m``, ``lemon hit with crate happens``.

Grammar (spaces free; nothing is ever evaluated)::

    target    = [each "of"] (reference | formula) wanted ["weight" number]
    each      = "all" | "any" | "at least" number | "sum" | "mean" | "largest" | "smallest"   (the body is a group then)
    reference = [body] outcome [index] {argument}
    formula   = arithmetic of references and constants, such as apex 2 / apex 1
    argument  = "with" body | "at" number ["s"] | "of" place | place "to" place | place {"," place}
    place     = "(" number "," number "," number ")"
    wanted    = "=" number pm number [unit] | "within" number "to" number [unit]
              | ("at least" | ">=" | "≥") number [pm number] [unit] | ("at most" | "<=" | "≤") number [pm number] [unit]
              | "happens" | "never"
    pm        = "±" | "+-" | "+/-"

A point goes after "of", a zone is two corners joined by "to", waypoints are places joined by commas. The outcomes and their
units are those of ``yapa outcomes``. The number after pm says how exact, or how soft a bound is.
"""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Any

import numpy as np
from pydantic import ValidationError

from yapa.case.arguments import ARGUMENTS
from yapa.case.arguments.registry import NUMBER, number_text
from yapa.case.evidence import Target
from yapa.case.outcome_specs import UNITS, unit_of
from yapa.case.outcome_text import (
    FORMULA,
    fields_of,
    is_reference,
    looks_like_arithmetic,
    parse_formula,
    reference_pattern,
    unit_of_formula,
)
from yapa.case.units import si_unit
from yapa.case.validation import input_error
from yapa.errors import InputError, bad_input
from yapa.outcomes import CATALOGUE

_PM = r"(?:±|\+-|\+/-)"
_WANTED = (
    rf"=\s*(?P<value>{NUMBER})\s*{_PM}\s*(?P<tolerance>{NUMBER})\s*(?P<unit1>[a-zA-Z°/²³·^%]*)"
    rf"|within\s+(?P<low>{NUMBER})\s*(?:to|…)\s*(?P<high>{NUMBER})\s*(?P<unit2>[a-zA-Z°/²³·^%]*)"
    rf"|(?P<bound>at\s+least|at\s+most|>=|<=|≥|≤)\s*(?P<limit>{NUMBER})\s*(?:{_PM}\s*(?P<soft>{NUMBER}))?\s*(?P<unit3>[a-zA-Z°/²³·^%]*)"
    r"|(?P<word>happens|never)"
)
_TAIL = rf"(?:{_WANTED})\s*(?:weight\s+(?P<weight>{NUMBER}))?\s*$"
_GROUP = re.compile(r"^\s*(all|any|sum|mean|largest|smallest|at\s+least\s+\d+)\s+of\s+(?!\()")
_FORMULA = re.compile(rf"^(?P<formula>.+?)\s*{_TAIL}")
EXAMPLES = ("'apex 2 = 0.42 ± 0.01 m', 'orange rest time within 2 to 2.5 s', 'lemon hit with crate happens', "
            "'speed at 0.5 s at most 1.2 m/s', 'inside (0, 0, 0) to (1, 1, 1) at least 0'")
MAX_LETTERS = 600
"""of a target in words"""


@lru_cache(maxsize=8)
def _grammar(outcomes: tuple[str, ...], arguments: tuple[str, ...]) -> tuple[re.Pattern[str], dict[str, re.Pattern[str]]]:
    """The pattern of a target, and of each of its arguments, for the outcomes and arguments that are registered."""
    reference, patterns = reference_pattern(outcomes, arguments)
    return re.compile(rf"^\s*{reference}\s*{_TAIL}"), patterns


def parse_target(text: str) -> Target:
    """Return the target in a text.

    Parameters
    ----------
    text : in the grammar of this module, such as ``orange apex 2 = 0.42 ± 0.005 m``

    Raises
    ------
    InputError
        Saying what was found and how a target is written.
    """
    where = f"target {text!r}"
    group = _GROUP.match(text)
    if group is not None and len(text) <= MAX_LETTERS:
        return _of_group(text, group, where)
    whole, arguments = _grammar(tuple(CATALOGUE), tuple(ARGUMENTS))
    plain = match = whole.match(text) if len(text) <= MAX_LETTERS else None
    try:
        fields = {} if match is None else fields_of(match, arguments)
    except ValueError as error:
        raise bad_input(where, str(error), f"one like {EXAMPLES}") from None
    if match is not None and not looks_like_arithmetic(fields):
        unit = unit_of(fields["outcome"])
    else:
        match = _FORMULA.match(text) if len(text) <= MAX_LETTERS else None
        try:
            fields, unit = _formula_in(match, where)
        except InputError:
            if plain is None or set(plain["body"] or "") & set("+.|"):
                raise
            match, fields, unit = plain, fields_of(plain, arguments), unit_of(re.sub(r"\s+", " ", plain["outcome"]))
    assert match is not None
    scale = _scale(unit, match["unit1"] or match["unit2"] or match["unit3"] or "", where)
    if match["value"]:
        fields |= {"value": _scaled(match["value"], scale), "tolerance": _scaled(match["tolerance"], scale)}
    elif match["low"]:
        fields |= {"condition": "within", "value": _scaled(match["low"], scale), "upper": _scaled(match["high"], scale)}
    elif match["limit"]:
        least = re.sub(r"\s+", " ", match["bound"]) in ("at least", ">=", "≥")
        fields |= {"condition": "at least" if least else "at most", "value": _scaled(match["limit"], scale)}
        if match["soft"]:
            fields["tolerance"] = _scaled(match["soft"], scale)
    else:
        fields["condition"] = match["word"]
    if match["weight"]:
        fields["weight"] = float(match["weight"])
    try:
        return Target.model_validate(fields)
    except ValidationError as error:
        wrong = input_error(error, where).problems[0]
        found = wrong.found if wrong.where == "the case" else f"{wrong.found} for {wrong.where} (it takes {wrong.expected})"
        raise bad_input(where, found, f"one like {EXAMPLES}") from None


def _of_group(text: str, group: re.Match[str], where: str) -> Target:
    """A target of a group: that of its members, with the group in place of a body."""
    rest = parse_target(text[group.end() :])
    name = re.sub(r"\s+", " ", rest.body or "")
    if not name:
        raise bad_input(where, "no group", f"the name of a group behind of, such as 'all of pile {rest.label} ...'")
    try:
        return Target.model_validate({**rest.model_dump(exclude_unset=True), "body": name, "each": re.sub(r"\s+", " ", group[1])})
    except ValidationError as error:
        raise bad_input(where, input_error(error, where).problems[0].found, f"one like {EXAMPLES}") from None


def _formula_in(match: re.Match[str] | None, where: str) -> tuple[dict[str, Any], str]:
    """The fields of a target whose outcome is arithmetic of others, and the unit of that."""
    text = match["formula"].strip() if match is not None else ""
    try:
        if not any(is_reference(name) for name in parse_formula(text).names):
            raise InputError([])
    except InputError as error:
        detail = f" ({error.problems[0].found})" if error.problems and set("+*/()^") & set(text) else ""
        raise bad_input(where, f"text that is not a target{detail}",
                        f"one like {EXAMPLES}; outcomes are {', '.join(CATALOGUE)}") from None
    return {"outcome": FORMULA, FORMULA: text}, unit_of_formula(text)


def _scaled(text: str, scale: float) -> float:
    """A number in SI units, without the digits that only rounding adds."""
    value = float(text) * scale
    short = float(f"{value:.12g}")
    return short if abs(short - value) <= 4 * np.spacing(abs(value)) else value


def _scale(si: str, unit: str, where: str) -> float:
    if not unit or unit == si:
        return 1.0
    try:
        found, wanted = si_unit(unit), si_unit(si)
    except InputError:
        found = None
    if found is None or found.dimension != wanted.dimension:
        raise bad_input(where, f"the unit {unit!r}",
                        f"{' or '.join(UNITS.get(si, {si: 1.0})) or 'no unit'}, or another of its kind")
    return found.factor


def target_text(target: Target) -> str:
    """Return the text form of a target; :func:`parse_target` reads it back.

    Parameters
    ----------
    target : the wanted outcome
    """
    tail = "" if target.weight == 1.0 else f" weight {number_text(target.weight)}"
    unit, value, tolerance = f" {target.unit}".rstrip(), number_text(target.value), number_text(target.tolerance)
    wanted = str(target.condition)
    if target.condition == "equal":
        wanted = f"= {value} ± {tolerance}{unit}"
    elif target.condition == "within":
        wanted = f"within {value} to {number_text(target.upper or 0.0)}{unit}"
    elif target.condition in ("at least", "at most"):
        wanted = f"{target.condition} {value} ± {tolerance}{unit}"
    return f"{target.label} {wanted}{tail}"
