"""What a search for wanted outcomes comes to."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from yapa.fitting.problem.result import TargetReport


@dataclass(frozen=True)
class Solution:
    """Values that meet the targets, or come nearest to it.

    Attributes
    ----------
    values : path → value
    change : Euclidean length of the change from the present values, in ranges
    targets : each beside what it gives
    distinguished_by : what sets it apart from the others
    """

    values: dict[str, float]
    change: float
    targets: list[TargetReport]
    distinguished_by: tuple[str, ...] = ()

    @property
    def met(self) -> bool:
        """Whether every target is met."""
        return all(t.met for t in self.targets)


@dataclass(frozen=True)
class Solutions:
    """What a search for wanted outcomes found, the nearest first.

    ``first`` is how many simulations the first solution took; ``why`` says why nothing meets the targets. ``closest`` misses all
    targets together by the least; ``most_met`` meets more of them, where something does. ``stopped`` is "not reachable" only after
    every unknown was tried over its whole range.
    """

    found: list[Solution]
    closest: Solution
    simulations: int
    first: int | None
    seconds: float
    stopped: str
    why: list[str] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    most_met: Solution | None = None

    @property
    def nearest(self) -> Solution | None:
        """The solution with the smallest change."""
        return self.found[0] if self.found else None

    def as_dict(self) -> dict[str, Any]:
        """Return it JSON-ready."""
        def plain(s: Solution) -> dict[str, Any]:
            return {"values": s.values, "change": s.change, "told_by": list(s.distinguished_by),
                    "targets": [{"target": t.target.label, "now": t.now, "met": t.met, "miss": t.miss, "missing": t.missing}
                                for t in s.targets]}

        return {"solutions": [plain(s) for s in self.found], "closest": plain(self.closest),
                **({"most_met": plain(self.most_met)} if self.most_met is not None else {}), "simulations": self.simulations,
                "simulations_to_first": self.first, "seconds": round(self.seconds, 4), "stopped": self.stopped, "why": self.why,
                "notes": self.notes}
