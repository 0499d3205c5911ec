"""Unknowns (numbers a fit may change) and trials (sets of values kept in the ledger)."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import model_validator

from yapa.case.base import Model, Real


class Unknown(Model):
    """A number of the case that the fit may change, by its path, within a range; numbers ``tied`` to it have the same value."""

    path: str
    low: Real
    high: Real
    scale: Literal["linear", "log"] = "linear"
    locked: bool = False
    tied: tuple[str, ...] = ()

    @model_validator(mode="after")
    def _ordered(self) -> Unknown:
        if not self.low < self.high:
            raise ValueError(f"the range must rise, found {self.low} .. {self.high}")
        if self.scale == "log" and self.low <= 0:
            raise ValueError(f"a logarithmic range must be above zero, found {self.low}")
        return self


class Estimate(Model):
    """What a fit says of one unknown. ``std``, ``low`` and ``high`` are null where not determined."""

    value: Real
    std: Real | None = None
    low: Real | None = None
    high: Real | None = None
    determined: bool = True
    reason: str | None = None


class Trial(Model):
    """One set of values kept: score, outcomes, what changed, and a small curve of the motion."""

    name: str
    origin: Literal["as set up", "by hand", "fit", "stopped fit"]
    values: dict[str, Real]
    estimates: dict[str, Estimate] = {}
    misfit: Real | None = None
    targets_met: int | None = None
    targets: int | None = None
    outcomes: dict[str, Real] = {}
    changed: str = ""
    curve: tuple[tuple[Real, Real], ...] = ()
    pinned: bool = False
    engine: str = ""
    made: str = ""


def from_unit(unknown: Unknown, u: float) -> float:
    """The value of an unknown at a place in the unit box."""
    if unknown.scale == "log":
        value = float(np.exp(np.log(unknown.low) + u * (np.log(unknown.high) - np.log(unknown.low))))
    else:
        value = unknown.low + u * (unknown.high - unknown.low)
    return min(max(value, unknown.low), unknown.high)


def to_unit(unknown: Unknown, value: float) -> float:
    """The place of a value in the unit box, clipped to it."""
    if unknown.scale == "log":
        u = (np.log(max(value, 1e-300)) - np.log(unknown.low)) / (np.log(unknown.high) - np.log(unknown.low))
    else:
        u = (value - unknown.low) / (unknown.high - unknown.low)
    return float(min(1.0, max(0.0, u)))
