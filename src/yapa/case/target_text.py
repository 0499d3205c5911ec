"""Targets in words: ``orange apex 2 = 0.42 ± 0.005 m``, ``lemon hit with crate happens``.

Grammar (spaces free; nothing is ever evaluated)::

    target    = [body] outcome [index] {told} wanted ["weight" number]
    told      = "with" body | "at" number ["s"] | "of" place | place "to" place | place {"," place}
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

from pydantic import ValidationError

from yapa.case.evidence import Target, number_text
from yapa.case.outcome_specs import OUTCOME_SPECS, UNITS
from yapa.errors import bad_input

_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
_PM = r"(?:±|\+-|\+/-)"
_PLACE = rf"\(\s*{_NUMBER}\s*,\s*{_NUMBER}\s*,\s*{_NUMBER}\s*\)"
_NAMES = "|".join(re.escape(name).replace(r"\ ", r"\s+") for name in sorted(OUTCOME_SPECS, key=len, reverse=True))
_WANTED = (
    rf"=\s*(?P<value>{_NUMBER})\s*{_PM}\s*(?P<tolerance>{_NUMBER})\s*(?P<unit1>[a-zA-Z°/]*)"
    rf"|within\s+(?P<low>{_NUMBER})\s*(?:to|…)\s*(?P<high>{_NUMBER})\s*(?P<unit2>[a-zA-Z°/]*)"
    rf"|(?P<bound>at\s+least|at\s+most|>=|<=|≥|≤)\s*(?P<limit>{_NUMBER})\s*(?:{_PM}\s*(?P<soft>{_NUMBER}))?\s*(?P<unit3>[a-zA-Z°/]*)"
    r"|(?P<word>happens|never)"
)
_PATTERN = re.compile(
    rf"^\s*(?:(?P<body>\S.*?)\s+)??(?P<outcome>{_NAMES})(?:\s+(?P<index>\d+))?(?P<told>(?:\s+(?:with\s+(?:(?!\s(?:at|of|with)\s).)+?"
    rf"|at\s+{_NUMBER}\s*s?|of\s+{_PLACE}|{_PLACE}(?:\s*(?:to|,)\s*{_PLACE})*))*)\s*(?:{_WANTED})"
    rf"\s*(?:weight\s+(?P<weight>{_NUMBER}))?\s*$"
)
EXAMPLES = ("'apex 2 = 0.42 ± 0.01 m', 'orange rest time within 2 to 2.5 s', 'lemon hit with crate happens', "
            "'speed at 0.5 s at most 1.2 m/s', 'inside (0, 0, 0) to (1, 1, 1) at least 0'")


def parse_target(text: str) -> Target:
    """A target from its text form.

    Raises
    ------
    InputError
        Saying what was found and how a target is written.
    """
    where = f"target {text!r}"
    match = _PATTERN.match(text) if len(text) <= 600 else None
    if match is None:
        raise bad_input(where, "text that is not a target", f"one like {EXAMPLES}; outcomes are {', '.join(OUTCOME_SPECS)}")
    outcome = re.sub(r"\s+", " ", match["outcome"])
    scale = _scale(outcome, match["unit1"] or match["unit2"] or match["unit3"] or "", where)
    told: dict[str, object] = {"outcome": outcome, "body": match["body"]}
    if match["index"]:
        told["index"] = int(match["index"])
    _read_told(match["told"] or "", told)
    if match["value"]:
        told |= {"value": float(match["value"]) * scale, "tolerance": float(match["tolerance"]) * scale}
    elif match["low"]:
        told |= {"condition": "within", "value": float(match["low"]) * scale, "upper": float(match["high"]) * scale}
    elif match["limit"]:
        least = re.sub(r"\s+", " ", match["bound"]) in ("at least", ">=", "≥")
        told |= {"condition": "at least" if least else "at most", "value": float(match["limit"]) * scale}
        if match["soft"]:
            told["tolerance"] = float(match["soft"]) * scale
    else:
        told["condition"] = match["word"]
    if match["weight"]:
        told["weight"] = float(match["weight"])
    from yapa.case.store import input_error

    try:
        return Target.model_validate(told)
    except ValidationError as error:
        wrong = input_error(error, where).problems[0]
        found = wrong.found if wrong.where == "the case" else f"{wrong.found} for {wrong.where} (it takes {wrong.expected})"
        raise bad_input(where, found, f"one like {EXAMPLES}") from None


def _scale(outcome: str, unit: str, where: str) -> float:
    si = OUTCOME_SPECS[outcome].unit
    known = UNITS[si]
    if not unit:
        return 1.0
    if unit not in known:
        raise bad_input(where, f"the unit {unit!r}", f"{' or '.join(known) or 'no unit'} for {outcome}")
    return known[unit]


def _read_told(text: str, told: dict[str, object]) -> None:
    """What an outcome is told, from the words between its name and what is wanted."""
    places = [tuple(float(n) for n in re.findall(_NUMBER, place)) for place in re.findall(_PLACE, text)]
    words = re.sub(_PLACE, "@", text)
    partner = re.search(r"\bwith\s+(.+?)(?=\s+(?:at\s+[-+.\d]|of\s+@)|\s*$|\s+@)", words)
    when = re.search(rf"\bat\s+({_NUMBER})", words)
    if partner:
        told["partner"] = partner[1].strip()
    if when:
        told["at"] = float(when[1])
    if re.search(r"\bof\s+@", words) and places:
        told["point"] = places[0]
    elif re.search(r"@\s*to\s*@", words):
        told["zone"] = (places[0], places[1])
    elif places:
        told["points"] = tuple(places)


def target_text(target: Target) -> str:
    """The text form of a target; :func:`parse_target` reads it back."""
    tail = "" if target.weight == 1.0 else f" weight {number_text(target.weight)}"
    wanted = f"= {target.wanted}" if target.condition == "equal" else target.wanted
    if target.condition in ("at least", "at most"):
        unit = f" {OUTCOME_SPECS[target.outcome].unit}".rstrip()
        wanted = f"{target.condition} {number_text(target.value)} ± {number_text(target.tolerance)}{unit}"
    return f"{target.label} {wanted}{tail}"
