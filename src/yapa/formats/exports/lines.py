"""Text as a file, for CSV writers."""

from __future__ import annotations


class Lines:
    """A file of text that a CSV writer writes into."""

    def __init__(self) -> None:
        self.text: list[str] = []

    def write(self, line: str) -> None:
        """Take a line.

        Parameters
        ----------
        line : text to add
        """
        self.text.append(line)
