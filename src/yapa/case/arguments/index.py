"""Which of a numbered outcome: ``apex 2``. It is typed behind the name of the outcome."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from yapa.case.arguments.registry import Argument, argument

MAX_INDEX = 99
"""greatest number of a numbered outcome"""


@argument
class Index(Argument):
    """The number k of an outcome, from 1."""

    name = "index"
    words = "an index"
    placeholder = "K"
    pattern = r"(?!)"
    kind = Annotated[int, Field(ge=1, le=MAX_INDEX)]

    def format(self, value: int) -> str:
        """Return the number.

        Parameters
        ----------
        value : its value
        """
        return str(value)
