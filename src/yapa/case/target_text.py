"""Targets in words: ``orange apex 2 = 0.42 ± 0.005 m``.

Grammar (spaces free, never evaluated)::

    target    = [body] outcome [index] "=" number pm number [unit] ["weight" number]
    outcome   = apex | landing | rest time | bounces | travel | peak speed | slide distance | roll distance
    pm        = "±" | "+-" | "+/-"
    unit      = m | cm | mm | s | ms | m/s | cm/s
"""

from __future__ import annotations

import re

from pydantic import ValidationError

from yapa.case.evidence import Target
from yapa.errors import bad_input

OUTCOMES = ("rest time", "peak speed", "slide distance", "roll distance", "apex", "landing", "bounces", "travel")
UNITS = {"": 1.0, "m": 1.0, "cm": 0.01, "mm": 0.001, "s": 1.0, "ms": 0.001, "m/s": 1.0, "cm/s": 0.01}
_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
_NAMES = "|".join(outcome.replace(" ", r"\s+") for outcome in OUTCOMES)
_PATTERN = re.compile(
    rf"^\s*(?:(?P<body>.*?)\s+)?(?P<outcome>{_NAMES})\s*(?P<index>\d+)?\s*=\s*"
    rf"(?P<value>{_NUMBER})\s*(?:±|\+-|\+/-)\s*(?P<tolerance>{_NUMBER})\s*(?P<unit>[a-z/]*)\s*"
    rf"(?:weight\s+(?P<weight>{_NUMBER}))?\s*$"
)
_SI = {"apex": "m", "landing": "m", "travel": "m", "slide distance": "m", "roll distance": "m", "rest time": "s",
       "peak speed": "m/s", "bounces": ""}


def parse_target(text: str) -> Target:
    """A target from its text form.

    Raises
    ------
    InputError
        Saying what was found and how a target is written.
    """
    example = "OUTCOME = VALUE ± TOLERANCE, such as 'apex 2 = 0.42 ± 0.01' or 'orange rest time = 2.5 ± 0.1 s'"
    match = _PATTERN.match(text)
    if match is None:
        raise bad_input(f"target {text!r}", "text that is not a target", f"{example}; outcomes are {', '.join(OUTCOMES)}")
    outcome = re.sub(r"\s+", " ", match["outcome"])
    unit = match["unit"]
    si = _SI[outcome]
    if unit not in UNITS or (unit and not (unit == si or (unit.endswith(si) and unit[:-len(si)] in ("c", "m")))):
        raise bad_input(f"target {text!r}", f"the unit {unit!r}", f"{si or 'no unit'} for {outcome}")
    scale = UNITS[unit]
    try:
        return Target(
            outcome=outcome, index=int(match["index"]) if match["index"] else None, body=match["body"] or None,  # type: ignore[arg-type]
            value=float(match["value"]) * scale, tolerance=float(match["tolerance"]) * scale,
            weight=float(match["weight"] or 1.0),
        )
    except ValidationError as error:
        reason = error.errors()[0]
        raise bad_input(f"target {text!r}", str(reason.get("ctx", {}).get("error", reason["msg"])), example) from None


def target_text(target: Target) -> str:
    """The text form of a target."""
    tail = "" if target.weight == 1.0 else f" weight {target.weight:g}"
    unit = f" {_SI[target.outcome]}" if _SI[target.outcome] else ""
    return f"{target.label} = {target.value:g} ± {target.tolerance:g}{unit}{tail}"
