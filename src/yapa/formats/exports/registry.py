"""Every exporter: what is handed over of a case, as a text.

An exporter is a function with the decorator :func:`exporter`, in a file that ``__init__.py`` imports, or in a program of one's own.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

from yapa.case.ledger import newest_fit
from yapa.case.model import Case
from yapa.case.unknowns import Trial
from yapa.engine.simulate import simulate
from yapa.motion import Motion


class Exported:
    """What an exporter writes of: the case, its last fit, and its motion, simulated when it is first read.

    Parameters
    ----------
    case : with the values that are handed over
    motion : its simulated motion, if there is one already
    """

    def __init__(self, case: Case, motion: Motion | None = None) -> None:
        self.case = case
        self._motion = motion

    @cached_property
    def motion(self) -> Motion:
        """The simulated motion."""
        return simulate(self.case) if self._motion is None else self._motion

    @property
    def newest_fit(self) -> Trial | None:
        """The last fit whose values the case still has."""
        return newest_fit(self.case)


Write = Callable[[Exported], str]


@dataclass(frozen=True)
class Exporter:
    """A registered exporter: its name, the ending of its files, what it writes in a line, and how."""

    name: str
    suffix: str
    meaning: str
    write: Write


EXPORTERS: dict[str, Exporter] = {}
"""Every registered exporter by name."""


def exporter(name: str, suffix: str, meaning: str) -> Callable[[Write], Write]:
    """Register a function that writes a text of a case.

    Parameters
    ----------
    name : as people type it: ``yapa export CASE --to NAME``
    suffix : ending of its files, such as ``.csv``
    meaning : what it writes, in a line

    Returns
    -------
    A decorator that returns the function unchanged.

    Raises
    ------
    ValueError
        If there is an exporter of that name.
    """
    def register(write: Write) -> Write:
        if name in EXPORTERS:
            raise ValueError(f"an exporter named {name!r} is registered already")
        EXPORTERS[name] = Exporter(name, suffix, meaning, write)
        return write

    return register
