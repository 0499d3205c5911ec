"""Errors meant for the person at the keyboard: what, where, what was expected, how to mend it."""

from __future__ import annotations

from dataclasses import dataclass

MAX_PART = 300
"""Letters of one part of a message; longer ones keep their beginning and their end."""
MAX_MESSAGE = 1900
"""Bytes of a whole message; further problems are counted."""


def shortened(text: str, most: int = MAX_PART) -> str:
    """Return text of at most so many letters, on one line: the middle of a longer one is left out.

    Parameters
    ----------
    text : the text
    most : letters at most
    """
    text = "".join(c if c.isprintable() else "\N{REPLACEMENT CHARACTER}" for c in text)
    tail = most // 4
    return text if len(text) <= most else f"{text[: most - tail - 1]}…{text[-tail:]}"


@dataclass(frozen=True)
class InputIssue:
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
        where, found, expected = (shortened(part) for part in (self.where, self.found, self.expected))
        return f"{where}: found {found}; expected {expected}"


class YapaError(Exception):
    """Base of every error Yapa raises on purpose; its text can be shown as it is."""


class InputError(YapaError):
    """An input cannot be used. Carries every problem found, not only the first."""

    def __init__(self, problems: list[InputIssue], subject: str = "") -> None:
        self.problems = problems
        self.subject = subject
        head = f"{shortened(subject)}: " if subject else ""
        lines: list[str] = []
        size = len(head.encode("utf-8", "replace"))
        for problem in problems:
            line = str(problem)
            size += len(line.encode("utf-8", "replace")) + 1
            if lines and size > MAX_MESSAGE:
                lines.append(f"… and {len(problems) - len(lines)} more")
                break
            lines.append(line)
        super().__init__(head + "\n".join(lines))


def bad_input(where: str, found: str, expected: str) -> InputError:
    """Return the common case of one problem.

    Parameters
    ----------
    where : what the text or file is called in messages
    found : what stands there
    expected : what would be accepted
    """
    return InputError([InputIssue(where, found, expected)])


class Unsupported(YapaError):
    """The case is valid, but asks for something this engine cannot do."""
