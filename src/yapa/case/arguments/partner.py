"""Another body: ``hit with crate``."""

from __future__ import annotations

from yapa.case.arguments.registry import Argument, argument
from yapa.case.base import Name


@argument
class Partner(Argument):
    """The body that is met."""

    name = "partner"
    words = "a partner, such as with plate"
    placeholder = "with BODY"
    keyword = "with"
    pattern = r"with\s+(?:(?!\s(?:{stop})\s).)+?(?=\s+(?:{stop})\s|\s*\(|\s*$)"
    kind = Name

    def parse(self, text: str) -> str:
        """Return the name of the body.

        Parameters
        ----------
        text : the text
        """
        return text.partition("with")[2].strip()

    def format(self, value: str) -> str:
        """Return ``with crate``.

        Parameters
        ----------
        value : its value
        """
        return f"with {value}"
