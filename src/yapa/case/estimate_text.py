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


def value_text(path: str, e: Estimate) -> str:
    """Return a value with its standard deviation and unit: ``0.787 ± 0.002``.

    Parameters
    ----------
    path : path of the number
    e : what the fit says of it
    """
    unit = quantity_of(path).unit
    value, symbol = as_shown(e.value, unit)
    tail = f" {symbol}" if symbol else ""
    if e.determined and e.std is not None:
        std, _ = as_shown(e.std, unit)
        return f"{digits(value, std)} ± {spread_text(std)}{tail}"
    return f"{value:.4g}{tail}"


def bounds_text(path: str, e: Estimate) -> str:
    """Return what is known of a number that cannot be told: ``at least 0.21``; empty where nothing is.

    Parameters
    ----------
    path : path of the number
    e : what the fit says of it
    """
    unit = quantity_of(path).unit
    _, symbol = as_shown(e.value, unit)
    ends = [f"{word} {as_shown(end, unit)[0]:.2g}" for word, end in (("at least", e.low), ("at most", e.high)) if end is not None]
    return " and ".join(ends) + (f" {symbol}" if symbol and ends else "")


def sentence(path: str, e: Estimate) -> str:
    """Return ``restitution · rind on pad 0.787 ± 0.002``, or why it cannot be told.

    Parameters
    ----------
    path : path of the number
    e : what the fit says of it
    """
    name = label_of(path)
    if e.determined:
        return f"{name} {value_text(path, e)}"
    told = bounds_text(path, e)
    return f"{name} cannot be told{': ' + told if told else ''} ({e.reason})"
