"""Arguments of outcomes: a partner, a time, a point … Each brings its words, its grammar and its check.

An argument is a class with the decorator :func:`argument`, in a file that ``__init__.py`` imports, or in a program of one's own.
Those
that a target has as fields are read from there; others stand in ``Target.arguments``, and beside the fields in a case file.
"""

from __future__ import annotations

import re
from functools import cached_property
from typing import Any, ClassVar, Final, TypeVar

from pydantic import ConfigDict, TypeAdapter

NUMBER: Final = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
PLACE: Final = rf"\(\s*{NUMBER}\s*,\s*{NUMBER}\s*,\s*{NUMBER}\s*\)"


class Argument:
    """One argument of outcomes.

    Attributes
    ----------
    name : of the argument, and of its key in a case file
    words : what is missing where it is, such as "a time"
    placeholder : how it is typed, such as "at TIME s"
    keyword : the word its text begins with; empty where there is none
    pattern : regular expression of its text, without named groups; ``{stop}`` stands for the keywords of all arguments
    kind : type of its value, as pydantic checks it
    """

    name: ClassVar[str]
    words: ClassVar[str]
    placeholder: ClassVar[str]
    keyword: ClassVar[str] = ""
    pattern: ClassVar[str]
    kind: ClassVar[Any]

    def parse(self, text: str) -> Any:
        """Return the value in a text that matches the pattern.

        Parameters
        ----------
        text : the text
        """
        raise NotImplementedError

    def format(self, value: Any) -> str:
        """Return a value as it is typed; :meth:`parse` reads it back.

        Parameters
        ----------
        value : its value
        """
        raise NotImplementedError

    def check(self, value: Any) -> Any:
        """Return a value from outside as it is kept.

        Parameters
        ----------
        value : its value

        Raises
        ------
        ValueError
            If it cannot be one.
        """
        return self._adapter.validate_python(value)

    @cached_property
    def _adapter(self) -> TypeAdapter[Any]:
        return TypeAdapter(self.kind, config=ConfigDict(allow_inf_nan=False))


ARGUMENTS: dict[str, Argument] = {}
"""Every registered argument by name, in the order in which their texts follow each other."""
Kind = TypeVar("Kind", bound=type[Argument])


def argument(kind: Kind) -> Kind:
    """Register a class as an argument of outcomes, and return it unchanged.

    Parameters
    ----------
    kind : of what kind it is

    Returns
    -------
    The class.

    Raises
    ------
    ValueError
        If there is an argument of that name.
    """
    if kind.name in ARGUMENTS:
        raise ValueError(f"an argument named {kind.name!r} is registered already")
    ARGUMENTS[kind.name] = kind()
    return kind


def place_of(text: str) -> tuple[float, float, float]:
    """Return the coordinates [m] in a text such as ``(0.8, 0, 0.6)``.

    Parameters
    ----------
    text : the text
    """
    x, y, z = (float(n) for n in re.findall(NUMBER, text))
    return x, y, z


def number_text(value: float) -> str:
    """Return the shortest text that reads back as the number.

    Parameters
    ----------
    value : its value
    """
    short = f"{value:.10g}"
    return short if float(short) == value else repr(value)


def place_text(place: tuple[float, float, float]) -> str:
    """Return a place as it is typed.

    Parameters
    ----------
    place : [m]
    """
    return "(" + ", ".join(number_text(c) for c in place) + ")"
