"""A span of time at the end of a motion: ``height swing over 2 s``."""

from __future__ import annotations

from yapa.case.arguments.registry import NUMBER, argument
from yapa.case.arguments.time import Time
from yapa.case.base import Positive


@argument
class Span(Time):
    """How long before the end [s], written as a time is."""

    name = "span"
    words = "a span of time, such as over 2 s"
    placeholder = "over TIME s"
    keyword = "over"
    pattern = rf"over\s+{NUMBER}(?:\s*s\b)?"
    kind = Positive
