"""What an outcome says: a number with an uncertainty, or that it did not occur, and how far from it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class OutcomeValue:
    """A number read off a motion.

    Attributes
    ----------
    value : the number, or None where the event did not occur
    std : its standard deviation; 0 on a simulated motion, None where not known
    missing : why there is no value
    graded : a value that goes on changing where the event is missing, for a fit to follow
    shortfall : 0 where the event occurs; else how far it is from occurring, in logarithms of speed
    """

    value: float | None
    std: float | None = 0.0
    missing: str | None = None
    graded: float | None = None
    shortfall: float = 0.0

    @property
    def guide(self) -> float:
        """The value, or the graded one."""
        if self.value is not None:
            return self.value
        return self.graded if self.graded is not None else 0.0


def absent(reason: str, graded: float, shortfall: float) -> OutcomeValue:
    """An event that did not occur."""
    return OutcomeValue(None, None, reason, graded, shortfall)
