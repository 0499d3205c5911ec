"""A time: ``speed at 0.5 s``."""

from __future__ import annotations

import re

from yapa.case.arguments.registry import NUMBER, Argument, argument, number_text
from yapa.case.base import NonNegative


@argument
class Time(Argument):
    """A time [s] from the start."""

    name = "time"
    words = "a time"
    placeholder = "at TIME s"
    keyword = "at"
    pattern = rf"at\s+{NUMBER}(?:\s*s\b)?"
    kind = NonNegative

    def parse(self, text: str) -> float:
        """Return the time [s].

        Parameters
        ----------
        text : the text
        """
        return float(re.findall(NUMBER, text)[0])

    def format(self, value: float) -> str:
        """Return the keyword and the time, ``at 0.5 s``.

        Parameters
        ----------
        value : its value
        """
        return f"{self.keyword} {number_text(value)} s"
