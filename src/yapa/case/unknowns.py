"""Unknowns (numbers a fit may change) and trials (sets of values kept in the ledger)."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import model_validator

from yapa.case.base import Model, Real
from yapa.case.parameter_path import PathText


class Tie(Model):
    """A number tied to another: ``factor`` times that one, and ``offset`` more [SI units]."""

    path: PathText
    factor: Real = 1.0
    offset: Real = 0.0

    @model_validator(mode="after")
    def _ties(self) -> Tie:
        if self.factor == 0.0:
            raise ValueError("a factor of 0 ties nothing")
        return self


class Unknown(Model):
    """A number of the case that the fit may change, by its path, within a range.

    Numbers ``linked`` to it have the same value, or, where they are given as a :class:`Tie`, a multiple of it and an offset.
    """

    path: PathText
    low: Real
    high: Real
    transform: Literal["linear", "log"] = "linear"
    fixed: bool = False
    linked: tuple[PathText | Tie, ...] = ()

    @model_validator(mode="after")
    def _ordered(self) -> Unknown:
        if not self.low < self.high:
            raise ValueError(f"the range must rise, found {self.low} .. {self.high}")
        if self.transform == "log" and self.low <= 0:
            raise ValueError(f"a logarithmic range must be above zero, found {self.low}")
        return self

    @property
    def ties(self) -> tuple[Tie, ...]:
        """What is linked, each with its factor and offset."""
        return tuple(Tie(path=link) if isinstance(link, str) else link for link in self.linked)


class Estimate(Model):
    """What a fit says of one unknown. ``std``, ``low`` and ``high`` are null where not determined."""

    value: Real
    std: Real | None = None
    low: Real | None = None
    high: Real | None = None
    determined: bool = True
    reason: str | None = None


class Trial(Model):
    """One set of values kept: score, outcomes, what changed, a small curve, and the key of the scene it was made in."""

    name: str
    source: Literal["as set up", "by hand", "fit", "stopped fit"]
    values: dict[PathText, Real]
    estimates: dict[PathText, Estimate] = {}
    misfit: Real | None = None
    targets_met: int | None = None
    targets: int | None = None
    outcomes: dict[str, Real] = {}
    summary: str = ""
    curve: tuple[tuple[Real, Real], ...] = ()
    pinned: bool = False
    engine_version: str = ""
    created: str = ""
    scene: str | None = None


def from_unit_box(unknown: Unknown, u: float) -> float:
    """Return the value of an unknown at a place in the unit box.

    Parameters
    ----------
    unknown : the unknown
    u : place in the range, from 0 to 1
    """
    if unknown.transform == "log":
        value = float(np.exp(np.log(unknown.low) + u * (np.log(unknown.high) - np.log(unknown.low))))
    else:
        value = unknown.low + u * (unknown.high - unknown.low)
    return min(max(value, unknown.low), unknown.high)


def to_unit_box(unknown: Unknown, value: float) -> float:
    """Return the place of a value in the unit box, clipped to it.

    Parameters
    ----------
    unknown : the unknown
    value : its value
    """
    if unknown.transform == "log":
        u = (np.log(max(value, 1e-300)) - np.log(unknown.low)) / (np.log(unknown.high) - np.log(unknown.low))
    else:
        u = (value - unknown.low) / (unknown.high - unknown.low)
    return float(min(1.0, max(0.0, u)))
