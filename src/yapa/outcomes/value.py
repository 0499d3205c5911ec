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
    surrogate : a value that goes on changing where the event is missing, for a fit to follow
    shortfall : 0 where the event occurs; else how far it is from occurring, in logarithms of speed
    """

    value: float | None
    std: float | None = 0.0
    missing: str | None = None
    surrogate: float | None = None
    shortfall: float = 0.0

    def __post_init__(self) -> None:
        for name in ("value", "std", "surrogate", "shortfall"):
            number = getattr(self, name)
            if number is not None and type(number) is not float:  # NumPy's numbers are no JSON
                object.__setattr__(self, name, float(number))

    @property
    def value_or_surrogate(self) -> float:
        """The value, or the graded one."""
        if self.value is not None:
            return self.value
        return self.surrogate if self.surrogate is not None else 0.0


def missing_event(reason: str, graded: float, shortfall: float) -> OutcomeValue:
    """Return an event that did not occur.

    Parameters
    ----------
    reason : why there is no value
    graded : a value that goes on changing where the event is missing
    shortfall : how far it is from occurring, in logarithms of speed
    """
    return OutcomeValue(None, None, reason, graded, shortfall)
