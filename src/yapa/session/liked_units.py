"""The units in which a person likes numbers to be shown, kept in the user's state; typed is any."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Mapping
from pathlib import Path

from yapa.errors import YapaError
from yapa.files import write_atomically

FILE = "units.json"
CHOICES: Mapping[str, tuple[str, ...]] = {"m": ("m", "cm", "mm"), "m/s": ("m/s", "cm/s", "km/h"), "kg": ("kg", "g"),
                                          "rad": ("°", "rad")}
"""SI unit → what it can be shown in, the usual one first"""
NAMES: Mapping[str, str] = {"m": "lengths", "m/s": "speeds", "kg": "masses", "rad": "angles"}
"""SI unit → what it is of, in words"""


class LikedUnits:
    """The units of one user. What cannot be kept holds until the window closes.

    Parameters
    ----------
    folder : where they are kept; None: nowhere
    """

    def __init__(self, folder: Path | None) -> None:
        self._file = None if folder is None else folder / FILE
        self.liked: dict[str, str] = self._read()

    def choose(self, unit: str, shown: str) -> None:
        """Show a quantity in another unit from now on.

        Parameters
        ----------
        unit : its SI unit
        shown : one of its choices
        """
        self.liked = {**self.liked, unit: shown}
        if self._file is not None:
            with contextlib.suppress(OSError, YapaError):
                self._file.parent.mkdir(parents=True, exist_ok=True)
                write_atomically(self._file, json.dumps(self.liked, ensure_ascii=False, indent=1) + "\n")

    def _read(self) -> dict[str, str]:
        try:
            found = json.loads(self._file.read_text(encoding="utf-8")) if self._file is not None else {}
        except (OSError, ValueError):
            return {}
        known = found.items() if isinstance(found, dict) else ()
        return {unit: shown for unit, shown in known if shown in CHOICES.get(unit, ())}
