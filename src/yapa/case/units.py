"""Units of numbers that people type: how much of the SI unit one is, and what it measures.

Common symbols are known here; any other is looked up with pint, which is loaded when it is first needed. Angles count as numbers
without a dimension, so a rate in rad/s and one in 1/s are the same.
"""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Any, NamedTuple

from yapa.errors import bad_input

DEGREE = 0.017453292519943295


class Dimension(NamedTuple):
    """Exponents of m, kg and s."""

    length: float = 0.0
    mass: float = 0.0
    time: float = 0.0

    def times(self, other: Dimension, power: float = 1.0) -> Dimension:
        """Return the dimension of a product.

        Parameters
        ----------
        other : the second factor's
        power : exponent of the second factor; -1 for a quotient
        """
        return Dimension(*(a + power * b for a, b in zip(self, other, strict=True)))

    def power(self, exponent: float) -> Dimension:
        """Return the dimension of a power.

        Parameters
        ----------
        exponent : of the power
        """
        return Dimension(*(exponent * a for a in self))

    def __str__(self) -> str:
        over = [_raised(s, e) for s, e in (("kg", self.mass), ("m", self.length), ("s", self.time)) if e > 0]
        under = [_raised(s, -e) for s, e in (("kg", self.mass), ("m", self.length), ("s", self.time)) if e < 0]
        top = "·".join(over) or ("1" if under else "")
        return f"{top}/{'/'.join(under)}" if under else top


class SiUnit(NamedTuple):
    """How much of the SI unit a unit is, and its dimension."""

    factor: float
    dimension: Dimension


NUMBER = Dimension()
_LENGTH, _TIME, _SPEED, _MASS = Dimension(1.0), Dimension(time=1.0), Dimension(1.0, 0.0, -1.0), Dimension(mass=1.0)
_RATE = Dimension(time=-1.0)
_COMMON: dict[str, SiUnit] = {
    "": SiUnit(1.0, NUMBER), "m": SiUnit(1.0, _LENGTH), "cm": SiUnit(0.01, _LENGTH), "mm": SiUnit(0.001, _LENGTH),
    "km": SiUnit(1000.0, _LENGTH), "in": SiUnit(0.0254, _LENGTH), "ft": SiUnit(0.3048, _LENGTH), "s": SiUnit(1.0, _TIME),
    "ms": SiUnit(0.001, _TIME), "min": SiUnit(60.0, _TIME), "m/s": SiUnit(1.0, _SPEED), "cm/s": SiUnit(0.01, _SPEED),
    "mm/s": SiUnit(0.001, _SPEED), "km/h": SiUnit(1 / 3.6, _SPEED), "mph": SiUnit(0.44704, _SPEED),
    "kg": SiUnit(1.0, _MASS), "g": SiUnit(0.001, _MASS), "t": SiUnit(1000.0, _MASS), "rad": SiUnit(1.0, NUMBER),
    "deg": SiUnit(DEGREE, NUMBER), "°": SiUnit(DEGREE, NUMBER), "%": SiUnit(0.01, NUMBER), "1/s": SiUnit(1.0, _RATE),
    "rad/s": SiUnit(1.0, _RATE), "deg/s": SiUnit(DEGREE, _RATE), "rpm": SiUnit(0.10471975511965977, _RATE),
    "m/s²": SiUnit(1.0, Dimension(1.0, 0.0, -2.0)), "kg/m³": SiUnit(1.0, Dimension(-3.0, 1.0)),
    "J": SiUnit(1.0, Dimension(2.0, 1.0, -2.0)), "N": SiUnit(1.0, Dimension(1.0, 1.0, -2.0)),
    "N·s": SiUnit(1.0, Dimension(1.0, 1.0, -1.0)),
}


@lru_cache(maxsize=1024)
def si_unit(text: str) -> SiUnit:
    """Return what a unit is in SI units.

    Parameters
    ----------
    text : symbol or expression of units, such as ``cm``, ``km/h`` or ``g/cm**3``

    Raises
    ------
    InputError
        If no unit of mechanics has that name.
    """
    text = text.strip()
    return _COMMON[text] if text in _COMMON else _looked_up(text)


MAX_LETTERS = 40
"""of a unit"""
_POWER_OF_NUMBER = re.compile(r"\d\s*(\*\*|\^)")
EXPECTED = "a unit such as m, cm, ft, s, m/s, km/h, kg, deg, rad/s or J"


def _looked_up(text: str) -> SiUnit:
    if len(text) > MAX_LETTERS or _POWER_OF_NUMBER.search(text):  # no unit, and it may take for ever to work out
        raise bad_input("unit", repr(text), EXPECTED)
    try:
        quantity = _registry().parse_units(text.replace("·", "*")) * 1.0
        base = quantity.to_base_units()
        exponents = {str(name): float(power) for name, power in base.dimensionality.items()}
    except Exception:  # pint has errors of its own, and passes on whatever its tokeniser and its arithmetic raise
        raise bad_input("unit", repr(text), EXPECTED) from None
    if not set(exponents) <= {"[length]", "[mass]", "[time]"}:
        raise bad_input("unit", repr(text), "a unit of lengths, masses, times and angles")
    return SiUnit(float(base.magnitude), Dimension(*(exponents.get(k, 0.0) for k in ("[length]", "[mass]", "[time]"))))


SHOWN = {"rad": (1 / DEGREE, "°")}
"""How a unit is shown to people, where that is another: how many of it one is, and its symbol."""


def as_shown(value: float, unit: str) -> tuple[float, str]:
    """Return a number and its unit as they are shown to people: angles in degrees.

    Parameters
    ----------
    value : in SI units
    unit : its SI unit
    """
    factor, symbol = SHOWN.get(unit, (1.0, unit))
    return float(f"{factor * value:.12g}") if factor != 1.0 else value, symbol


def amount_text(value: float, unit: str, form: str = ".4g") -> str:
    """Return a number with its unit as it is shown to people: ``0.2 m``, ``12 °``.

    Parameters
    ----------
    value : in SI units
    unit : its SI unit
    form : format of the number
    """
    shown, symbol = as_shown(value, unit)
    return f"{shown:{form}} {symbol}".rstrip()


@lru_cache(maxsize=1)
def _registry() -> Any:
    import pint

    return pint.UnitRegistry()


def _raised(symbol: str, exponent: float) -> str:
    return symbol if exponent == 1 else f"{symbol}{'²' if exponent == 2 else '³' if exponent == 3 else f'^{exponent:g}'}"
