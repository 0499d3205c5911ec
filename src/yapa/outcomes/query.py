"""The arguments of an outcome: which of several, with whom, when and where."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from yapa.case.evidence import Target

Place = tuple[float, float, float]


@dataclass(frozen=True)
class OutcomeQuery:
    """Arguments of an outcome. Lengths in m, times in s.

    Attributes
    ----------
    index : which of a numbered outcome, from 1
    partner : another body
    time, point, region, waypoints : as the outcome takes them
    arguments : names and values of arguments registered beyond these
    """

    index: int | None = None
    partner: str | None = None
    time: float | None = None
    point: Place | None = None
    region: tuple[Place, Place] | None = None
    waypoints: tuple[Place, ...] = ()
    arguments: tuple[tuple[str, Any], ...] = ()

    @classmethod
    def of(cls, target: Target) -> OutcomeQuery:
        """Return the arguments of a target.

        Parameters
        ----------
        target : the wanted outcome
        """
        return cls(target.index, target.partner, target.time, target.point, target.region, target.waypoints,
                   tuple(target.arguments.items()))

    def argument(self, name: str) -> Any:
        """Return the value of an argument registered beyond the fields; None where it is not given.

        Parameters
        ----------
        name : its name
        """
        return dict(self.arguments).get(name)

    @property
    def k(self) -> int:
        """The index, from 1."""
        return self.index or 1
