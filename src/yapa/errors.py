"""Errors meant for the person at the keyboard: what, where, what was expected, how to mend it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Problem:
    """One thing wrong with an input.

    Attributes
    ----------
    where : str
        File, row, or path inside the case ("bodies.orange.mass").
    found : str
        What stands there.
    expected : str
        What would be accepted, and how to mend it.
    """

    where: str
    found: str
    expected: str

    def __str__(self) -> str:
        return f"{self.where}: found {self.found}; expected {self.expected}"


class YapaError(Exception):
    """Base of every error Yapa raises on purpose; its text can be shown as it is."""


class InputError(YapaError):
    """An input cannot be used. Carries every problem found, not only the first."""

    def __init__(self, problems: list[Problem], subject: str = "") -> None:
        self.problems = problems
        self.subject = subject
        head = f"{subject}: " if subject else ""
        super().__init__(head + "\n".join(str(problem) for problem in problems))


def bad_input(where: str, found: str, expected: str) -> InputError:
    """The common case of one problem."""
    return InputError([Problem(where, found, expected)])


class Unsupported(YapaError):
    """The case is valid, but asks for something this engine cannot do."""
