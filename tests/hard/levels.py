"""How hard: a few of each in ``make test``, thousands in ``make hard`` (YAPA_HARD=1), where limits of time are asserted too."""

from __future__ import annotations

import os

HARD = os.environ.get("YAPA_HARD") == "1"


def amount(short: int, long: int) -> int:
    """How many, here."""
    return int(os.environ.get("YAPA_HARD_ROWS", long)) if HARD else short


def limit(seconds: float) -> float:
    """A limit of time: as it is wanted in ``make hard``; ten times that elsewhere, where it only guards against a hang."""
    return seconds if HARD else 10 * seconds
