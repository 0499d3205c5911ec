"""The strict base model and the number types that every part of a case is made of."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, StringConstraints


class Model(BaseModel):
    """Strict, frozen, no unknown keys, no NaN or infinity."""

    model_config = ConfigDict(
        strict=True, extra="forbid", allow_inf_nan=False, frozen=True, ser_json_inf_nan="constants"
    )


Real = Annotated[float, Field(allow_inf_nan=False)]
Positive = Annotated[float, Field(gt=0, allow_inf_nan=False)]
NonNegative = Annotated[float, Field(ge=0, allow_inf_nan=False)]
Vec3 = tuple[Real, Real, Real]

Name = Annotated[
    str, StringConstraints(min_length=1, max_length=60, pattern=r"^[^.+|\s][^.+|\n\t]*$", strip_whitespace=True)
]
"""Names of bodies and surfaces. Dots, plus signs and bars are kept for paths."""
