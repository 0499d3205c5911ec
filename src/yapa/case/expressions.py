"""Simple arithmetic in words of a case: ``height cm + 2 cm``, ``0.5 * distance``, ``slide distance + reaction_time * speed``.

Grammar (parsed with lark; nothing is ever evaluated as code)::

    sum      = product {("+" | "-") product}
    product  = sign {("*" | "/") sign}
    sign     = ["-"] power
    power    = atom ["^" sign]
    atom     = NUMBER [UNIT] | NAME [UNIT] | FUNCTION "(" sum {"," sum} ")" | "(" sum ")"
    FUNCTION = abs | sqrt | sin | cos | tan | asin | acos | atan | exp | log | min | max | hypot

A unit follows its number or name after a blank and has none inside. A name of several words, or with other signs in it, stands in
quotation marks. A number or name without a unit is in SI units. What is added or compared must have the same dimension; one
without a
unit goes with any.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from functools import cached_property, lru_cache
from typing import Any

import numpy as np

from yapa.case.units import NUMBER, Dimension, SiUnit, si_unit
from yapa.errors import bad_input

MAX_LETTERS = 400
"""of an expression"""
GRAMMAR = r"""
?start: sum
?sum: product | sum "+" product -> add | sum "-" product -> subtract
?product: sign | product "*" sign -> multiply | product "/" sign -> divide
?sign: power | "-" sign -> negate
?power: atom | atom "^" sign -> raised
?atom: SIZE UNIT? -> number | (NAME | QUOTED) UNIT? -> name | FUNCTION sum ("," sum)* ")" -> call | "(" sum ")"
FUNCTION.3: /(abs|sqrt|sin|cos|tan|asin|acos|atan|exp|log|min|max|hypot)\s*\(/
SIZE: /(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?/
NAME: /[^\W\d]\w*/
QUOTED: /"[^"\n]+"/
UNIT: /(?<=\s)([^\W\d]|°|%)[^\W\d]*([²³]|\^-?\d)?([\/·]([^\W\d]|°)+([²³]|\^\d)?)*|°|%/
%ignore /\s+/
"""
_ONE: dict[str, Callable[[Any], Any]] = {
    "abs": np.abs, "sqrt": np.sqrt, "sin": np.sin, "cos": np.cos, "tan": np.tan, "asin": np.arcsin, "acos": np.arccos,
    "atan": np.arctan, "exp": np.exp, "log": np.log,
}
_SEVERAL: dict[str, Callable[[Any, Any], Any]] = {"min": np.minimum, "max": np.maximum, "hypot": np.hypot}
_TWO: dict[str, Callable[[Any, Any], Any]] = {
    "add": np.add, "subtract": np.subtract, "multiply": np.multiply, "divide": np.divide, "raised": np.power}
OPEN = Dimension(float("inf"))
"""of a name whose unit is not known: whatever it enters goes with any unit"""
Value = Any
"""a number, or an array of them"""


@dataclass(frozen=True)
class Expression:
    """A parsed expression.

    Attributes
    ----------
    text : as it was typed
    tree : as lark parsed it
    units : name → unit that follows it in the text
    """

    text: str
    tree: Any
    units: Mapping[str, str] = field(default_factory=dict)

    @cached_property
    def names(self) -> tuple[str, ...]:
        """The names in it, each once, in order."""
        return tuple(dict.fromkeys(_name_of(node) for node in _names(self.tree)))

    def value(self, known: Mapping[str, Value]) -> Value:
        """Return its value in SI units, nan where it has none.

        Parameters
        ----------
        known : name → number or array [SI units]

        Raises
        ------
        KeyError
            If a name is not known.
        """
        with np.errstate(all="ignore"):
            return _value(self.tree, known)

    def dimension(self, known: Mapping[str, Dimension | None]) -> Dimension | None:
        """Return its dimension; None where it goes with any.

        Parameters
        ----------
        known : name → dimension; a name that is not there, or has None, goes with any

        Raises
        ------
        InputError
            If what is added or compared has different dimensions.
        """
        found = _dimension(self.tree, known, self.text)
        return None if found is OPEN else found


@lru_cache(maxsize=2048)
def parse_expression(text: str) -> Expression:
    """Return the expression in a text.

    Parameters
    ----------
    text : in the grammar of this module

    Raises
    ------
    InputError
        Saying where it cannot be read.
    """
    import lark

    if len(text) > MAX_LETTERS:
        raise bad_input("expression", f"{len(text)} letters", f"at most {MAX_LETTERS}")
    try:
        tree = _parser().parse(text)
    except lark.exceptions.UnexpectedInput as error:
        at = max(getattr(error, "column", 1) or 1, 1)
        rest = text[at - 1 : at + 19] if at <= len(text) else ""
        found = f"{text!r}: cannot go on at {rest!r}" if rest.strip() else f"{text!r}, which ends too soon"
        raise bad_input("expression", found,
                        "arithmetic such as 'height cm + 2 cm' or '0.5 * distance'; names of several words stand "
                        'in "quotation marks"') from None
    except RecursionError:
        raise bad_input("expression", "too many parentheses", "a simpler expression") from None
    units: dict[str, str] = {}
    for node in _names(tree):
        unit = _unit_of(node)
        if unit is None:
            continue
        if units.setdefault(_name_of(node), unit) != unit:
            raise bad_input("expression", f"{text!r}, with two units of {_name_of(node)}", "one unit of a name")
    for node in tree.iter_subtrees():
        if node.data in ("number", "name") and (unit := _unit_of(node)) is not None:
            si_unit(unit)
    return Expression(text, tree, units)


@lru_cache(maxsize=1)
def _parser() -> Any:
    import lark

    return lark.Lark(GRAMMAR, parser="lalr", lexer="contextual", maybe_placeholders=False)


def _names(tree: Any) -> Iterator[Any]:
    return (node for node in tree.iter_subtrees_topdown() if node.data == "name")


def _name_of(node: Any) -> str:
    return str(node.children[0]).strip('"').strip()


def _unit_of(node: Any) -> str | None:
    return str(node.children[1]) if len(node.children) > 1 else None


def _si(node: Any) -> SiUnit:
    return si_unit(_unit_of(node) or "")


def _value(node: Any, known: Mapping[str, Value]) -> Value:
    if node.data == "number":
        return float(node.children[0]) * _si(node).factor
    if node.data == "name":
        return known[_name_of(node)]
    if node.data == "call":
        name = _function(node)
        values = [_value(child, known) for child in node.children[1:]]
        if name in _ONE:
            return _ONE[name](values[0])
        out = values[0]
        for value in values[1:]:
            out = _SEVERAL[name](out, value)
        return out
    values = [_value(child, known) for child in node.children]
    return np.negative(values[0]) if node.data == "negate" else _TWO[node.data](*values)


def _function(node: Any) -> str:
    name = str(node.children[0]).rstrip("(").strip()
    if name in _ONE and len(node.children) != 2:
        raise bad_input("expression", f"{name} of {len(node.children) - 1} numbers", f"{name} of one")
    return name


def _dimension(node: Any, known: Mapping[str, Dimension | None], text: str) -> Dimension | None:
    if node.data == "number":
        return None if _unit_of(node) is None else _si(node).dimension
    if node.data == "name":
        unit = _unit_of(node)
        return (known.get(_name_of(node)) or OPEN) if unit is None else _si(node).dimension
    parts = [_dimension(child, known, text) for child in node.children if hasattr(child, "data")]
    if node.data == "call":
        name = _function(node)
        if name in ("sqrt",):
            return parts[0] if parts[0] is None or parts[0] is OPEN else parts[0].power(0.5)
        return _alike(parts, text) if name in ("abs", *_SEVERAL) else NUMBER
    if node.data in ("add", "subtract"):
        return _alike(parts, text)
    if node.data == "negate":
        return parts[0]
    if node.data == "raised":
        exponent = node.children[1]
        if parts[0] in (None, NUMBER) or parts[0] is OPEN:
            return parts[0]
        if exponent.data != "number":
            raise bad_input("expression", f"{text!r}, with an exponent that is no number",
                            "a number as exponent of what has a unit")
        return parts[0].power(float(exponent.children[0])) if parts[0] is not None else None
    if any(part is OPEN for part in parts):
        return OPEN
    one, two = (NUMBER if part is None else part for part in parts)
    if all(part is None for part in parts):
        return None
    return one.times(two, 1.0 if node.data == "multiply" else -1.0)


def _alike(parts: list[Dimension | None], text: str) -> Dimension | None:
    if any(part is OPEN for part in parts):
        return next((part for part in parts if part is not None and part is not OPEN), OPEN)
    given = [part for part in parts if part is not None]
    for other in given[1:]:
        if other != given[0]:
            raise bad_input("expression", f"{text!r} adds or compares {_named(given[0])} and {_named(other)}",
                                "numbers of one kind")
    return given[0] if given else None


def _named(dimension: Dimension) -> str:
    return str(dimension) or "a number without a unit"
