"""The strict base model and the number types that every part of a case is made of."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

from yapa.case.bounds import (
    MAX_COEFFICIENT,
    MAX_GRAVITY,
    MAX_LENGTH,
    MAX_MASS,
    MAX_POSITION,
    MAX_SPEED,
    MAX_SPIN,
    MAX_TILT,
    MIN_LENGTH,
    MIN_MASS,
)


class Model(BaseModel):
    """Strict, frozen, no unknown keys, no NaN or infinity."""

    model_config = ConfigDict(
        defer_build=True,
        strict=True, extra="forbid", allow_inf_nan=False, frozen=True, ser_json_inf_nan="constants"
    )


Real = Annotated[float, Field(allow_inf_nan=False)]
Positive = Annotated[float, Field(gt=0, allow_inf_nan=False)]
NonNegative = Annotated[float, Field(ge=0, allow_inf_nan=False)]
Vec3 = tuple[Real, Real, Real]
Length = Annotated[float, Field(ge=MIN_LENGTH, le=MAX_LENGTH, allow_inf_nan=False)]
Mass = Annotated[float, Field(ge=MIN_MASS, le=MAX_MASS, allow_inf_nan=False)]
Coordinate = Annotated[float, Field(ge=-MAX_POSITION, le=MAX_POSITION, allow_inf_nan=False)]
Speed = Annotated[float, Field(ge=-MAX_SPEED, le=MAX_SPEED, allow_inf_nan=False)]
Rate = Annotated[float, Field(ge=-MAX_SPIN, le=MAX_SPIN, allow_inf_nan=False)]
Angle = Annotated[float, Field(ge=-MAX_TILT, le=MAX_TILT, allow_inf_nan=False)]
Gravity = Annotated[float, Field(ge=-MAX_GRAVITY, le=MAX_GRAVITY, allow_inf_nan=False)]
Coefficient = Annotated[float, Field(ge=0, le=MAX_COEFFICIENT, allow_inf_nan=False)]
Place = tuple[Coordinate, Coordinate, Coordinate]
Velocity = tuple[Speed, Speed, Speed]
Spin = tuple[Rate, Rate, Rate]

Name = Annotated[
    str, StringConstraints(min_length=1, max_length=60, pattern=r"^[^.+|\s][^.+|\n\t]*$", strip_whitespace=True)
]
"""Names of bodies and surfaces. Dots, plus signs and bars are kept for paths."""
