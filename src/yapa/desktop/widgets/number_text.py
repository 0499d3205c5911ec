"""Numbers in as many characters as there is room for."""

from __future__ import annotations

import math


def fitting(value: float, most: int = 8) -> str:
    """A number in so many characters: as many decimals as there is room for, or with an exponent."""
    for decimals in range(most, -1, -1):
        text = f"{value:.{decimals}f}"
        if len(text) <= most and (value == 0.0 or float(text) != 0.0):
            return text
    return f"{value:.1e}"


def short(value: float) -> str:
    """A number as a card shows it: four significant figures."""
    if value != 0 and (abs(value) < 1e-3 or abs(value) >= 1e5):
        return f"{value:.3g}"
    places = max(0, 3 - math.floor(math.log10(abs(value)))) if value else 3
    return f"{value:.{min(places, 4)}f}"
