"""Specifications of outcomes: names, units and arguments, as targets are checked against them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache


@dataclass(frozen=True)
class OutcomeSpec:
    """What is known of an outcome without reading it.

    Attributes
    ----------
    name, unit, meaning : as people type it; SI unit; a line
    required, optional : names of its arguments: index (k), partner (a body), time, point, region, waypoints …
    one_of : of the optional ones, those of which exactly one is given
    integer : a count, of whole numbers
    """

    name: str
    unit: str
    meaning: str
    required: tuple[str, ...] = ()
    optional: tuple[str, ...] = ()
    one_of: tuple[str, ...] = ()
    integer: bool = False


OUTCOME_SPECS: dict[str, OutcomeSpec] = {}
"""Every registered outcome by name. ``yapa.outcomes`` fills it; before that, names of outcomes cannot be checked."""


@lru_cache(maxsize=4096)
def outcome_and_index(name: str) -> tuple[str, int | None]:
    """Return the outcome that a measured name stands for, and its number: ``apex 2`` is the apex after bounce 2.

    Parameters
    ----------
    name : its name
    """
    outcome = name.rstrip("0123456789 ")
    return outcome, int(name[len(outcome) :]) if len(name) > len(outcome) else None


def spec_of(name: str) -> OutcomeSpec:
    """Return what is known of the outcome that a measured name stands for.

    Parameters
    ----------
    name : its name
    """
    return OUTCOME_SPECS[outcome_and_index(name)[0]]


def unit_of(name: str) -> str:
    """Return the SI unit of an outcome; empty for a number without one, and for an outcome that is not registered.

    Parameters
    ----------
    name : its name
    """
    return OUTCOME_SPECS[name].unit if name in OUTCOME_SPECS else ""


CONDITIONS = ("equal", "within", "at least", "at most", "happens", "never")
"""conditions of a target"""
UNITS = {
    "m": {"m": 1.0, "cm": 0.01, "mm": 0.001}, "s": {"s": 1.0, "ms": 0.001}, "m/s": {"m/s": 1.0, "cm/s": 0.01, "mm/s": 0.001},
    "rad": {"rad": 1.0, "deg": 0.017453292519943295, "°": 0.017453292519943295},
    "rad/s": {"rad/s": 1.0, "deg/s": 0.017453292519943295, "rpm": 0.10471975511965977}, "J": {"J": 1.0, "mJ": 0.001}, "": {},
}
"""Units in which a number may be given, by its SI unit."""
