"""What an outcome function is told besides motion and body."""

from __future__ import annotations

from dataclasses import dataclass

from yapa.case.evidence import Target

Place = tuple[float, float, float]


@dataclass(frozen=True)
class Asked:
    """Which of several, with whom, when and where. Lengths in m, times in s."""

    index: int | None = None
    partner: str | None = None
    at: float | None = None
    point: Place | None = None
    zone: tuple[Place, Place] | None = None
    points: tuple[Place, ...] = ()

    @classmethod
    def of(cls, target: Target) -> Asked:
        """As a target asks."""
        return cls(target.index, target.partner, target.at, target.point, target.zone, target.points)

    @property
    def k(self) -> int:
        """The index, from 1."""
        return self.index or 1
