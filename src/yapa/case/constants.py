"""Constants of a case: numbers of one's own that stand in arithmetic, such as a reaction time."""

from __future__ import annotations

from typing import Annotated

from pydantic import StringConstraints, field_validator

from yapa.case.base import Model
from yapa.case.evidence import Wanted
from yapa.case.units import si_unit
from yapa.errors import InputError

ConstantName = Annotated[str, StringConstraints(min_length=1, max_length=60, pattern=r"^[A-Za-z_][A-Za-z0-9_]*$")]


class Constant(Model):
    """A number of one's own, at ``constants.NAME``; ``value`` is in SI units, ``unit`` is the SI unit it has.

    It may be unknown. A fit also says whether the evidence needs it: how much worse it is at ``neutral``, where the constant says
    nothing.
    """

    value: Wanted = 0.0
    neutral: Wanted = 0.0
    unit: str = ""

    @field_validator("unit")
    @classmethod
    def _is_si(cls, unit: str) -> str:
        try:
            factor = si_unit(unit).factor
        except InputError as error:
            raise ValueError(error.problems[0].found + " is no unit") from None
        if factor != 1.0:
            raise ValueError(f"{unit!r} is no SI unit; constants stand in SI units")
        return unit
