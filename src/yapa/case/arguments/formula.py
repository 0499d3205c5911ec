"""Arithmetic of outcomes: ``apex 2 / apex 1``."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import StringConstraints

from yapa.case.arguments.registry import Argument, argument


@argument
class Formula(Argument):
    """Arithmetic of outcomes and constants, in words; a target is it, so it is never typed behind the name of an outcome."""

    name = "formula"
    words = "arithmetic of outcomes, such as apex 2 / apex 1"
    placeholder = "apex 2 / apex 1"
    pattern = r"(?!)"
    kind = Annotated[str, StringConstraints(min_length=1, max_length=400, strip_whitespace=True)]

    def parse(self, text: str) -> str:
        """Return the text.

        Parameters
        ----------
        text : the formula
        """
        return text.strip()

    def format(self, value: str) -> str:
        """Return the text.

        Parameters
        ----------
        value : the formula
        """
        return value

    def check(self, value: Any) -> Any:
        """Return a formula that can be read.

        Parameters
        ----------
        value : its text

        Raises
        ------
        ValueError
            If it cannot be read, or names no outcome.
        """
        from yapa.case.outcome_text import check_formula  # which needs what is registered here

        text = super().check(value)
        check_formula(text)
        return text
