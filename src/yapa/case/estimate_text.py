"""Estimates as text: as many digits as the uncertainty allows, and a sentence for what cannot be told."""

from __future__ import annotations

import math

from yapa.case.quantities import label_of, quantity_of
from yapa.case.units import as_shown
from yapa.case.unknowns import Estimate


def digits(value: float, std: float | None) -> str:
    """Return a value with as many digits as its uncertainty allows.

    Parameters
    ----------
    value : its value
    std : its standard deviation
    """
    if std is None or std <= 0:
        return f"{value:.4g}"
    places = max(0, 1 - math.floor(math.log10(std)))
    return f"{value:.{min(places, 9)}f}"


def spread_text(std: float) -> str:
    """Return a standard deviation in two digits, with a power of ten where it is very small.

    Parameters
    ----------
    std : its standard deviation
    """
    return f"{std:.1e}" if std < 1e-4 else digits(std, std)


def sentence(path: str, e: Estimate) -> str:
    """Return ``restitution · rind on pad 0.787 ± 0.002``, or why it cannot be told.

    Parameters
    ----------
    path : path of the number
    e : what the fit says of it
    """
    name, unit = label_of(path), quantity_of(path).unit
    value, symbol = as_shown(e.value, unit)
    tail = f" {symbol}" if symbol else ""
    if e.determined and e.std is not None:
        std, _ = as_shown(e.std, unit)
        return f"{name} {digits(value, std)} ± {spread_text(std)}{tail}"
    if e.determined:
        return f"{name} {value:.4g}{tail}"
    bounds = [f"{word} {as_shown(end, unit)[0]:.2g}" for word, end in (("at least", e.low), ("at most", e.high)) if end is not None]
    told = " and ".join(bounds)
    return f"{name} cannot be told{': ' + told + tail if told else ''} ({e.reason})"
