"""Estimates as text: as many digits as the uncertainty allows, and a sentence for what cannot be told."""

from __future__ import annotations

import math

from yapa.case.quantities import label_of, quantity_of
from yapa.case.unknowns import Estimate


def digits(value: float, std: float | None) -> str:
    """A value with as many digits as its uncertainty allows."""
    if std is None or std <= 0:
        return f"{value:.4g}"
    places = max(0, 1 - math.floor(math.log10(std)))
    return f"{value:.{min(places, 9)}f}"


def spread_text(std: float) -> str:
    """A standard deviation in two digits, with a power of ten where it is very small."""
    return f"{std:.1e}" if std < 1e-4 else digits(std, std)


def sentence(path: str, e: Estimate) -> str:
    """``restitution · rind on pad 0.787 ± 0.002``, or why it cannot be told."""
    name, unit = label_of(path), quantity_of(path).unit
    tail = f" {unit}" if unit else ""
    if e.determined and e.std is not None:
        return f"{name} {digits(e.value, e.std)} ± {spread_text(e.std)}{tail}"
    if e.determined:
        return f"{name} {e.value:.4g}{tail}"
    bounds = [f"at least {e.low:.2g}" if e.low is not None else "", f"at most {e.high:.2g}" if e.high is not None else ""]
    told = " and ".join(b for b in bounds if b)
    return f"{name} cannot be told{': ' + told + tail if told else ''} ({e.reason})"
