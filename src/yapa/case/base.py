"""The strict base model and the number types that every part of a case is made of."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Annotated, Any, Self

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, ValidationError

from yapa.case.bounds import (
    MAX_COEFFICIENT,
    MAX_GRAVITY,
    MAX_LENGTH,
    MAX_MASS,
    MAX_NUMBER,
    MAX_POSITION,
    MAX_SPEED,
    MAX_SPIN,
    MAX_TILT,
    MIN_LENGTH,
    MIN_MASS,
)

if TYPE_CHECKING:
    from pydantic._internal._model_construction import ModelMetaclass
else:  # it has no public name
    ModelMetaclass = type(BaseModel)

UNITS = {
    **dict.fromkeys(("position", "radius", "length", "size", "contact_margin", "aim", "focal_length", "frame"), "m"),
    **dict.fromkeys(("velocity", "surface_velocity", "speed", "wind"), "m/s"), **dict.fromkeys(("duration", "time", "step"), "s"),
    **dict.fromkeys(("elevation", "azimuth"), "rad"), "mass": "kg", "density": "kg/m³", "angular_velocity": "rad/s",
    "gravity": "m/s²", "max_force": "N"}
"""SI units of the numbers of a case that may be given as text with a unit, by their keys."""


class _Made(ModelMetaclass):
    """Where a part of a case is made by a call: takes what Python has, and says in Yapa's own words what is wrong."""

    def __call__(self, *args: Any, **fields: Any) -> Any:
        try:
            return super().__call__(*args, **{key: _plain(value, key) for key, value in fields.items()})
        except ValidationError as error:
            from yapa.case.validation import part_error  # which knows every part

            raise part_error(error, self.__name__) from None


class Model(BaseModel, metaclass=_Made):
    """Strict, frozen, no unknown keys, no NaN or infinity.

    Made in Python, lists and arrays will do for tuples, NumPy's numbers for plain ones, and text with a unit ("80 cm") for a number
    that has one. A case file is read as strictly as it is written.
    """

    model_config = ConfigDict(
        defer_build=True,
        strict=True, extra="forbid", allow_inf_nan=False, frozen=True, ser_json_inf_nan="constants"
    )


    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """Return a copy with some fields replaced. Their values are not checked, their names are.

        Parameters
        ----------
        update : fields and their new values
        deep : whether what the fields hold is copied too

        Raises
        ------
        TypeError
            If there is no such field.
        """
        strange = set(update or ()) - set(type(self).model_fields)
        if strange and self.model_config.get("extra") != "allow":
            raise TypeError(f"{type(self).__name__} has no field {min(strange)!r}")
        return super().model_copy(update=update, deep=deep)

    def given(self) -> dict[str, Any]:
        """Return the fields that were given, by their names, as the validator takes them: those of a part that has more as well."""
        own = {name: getattr(self, name) for name in type(self).model_fields if name in self.model_fields_set}
        return {**own, **(self.model_extra or {})}


def _plain(value: Any, key: str) -> Any:
    """Lists and arrays as tuples, NumPy's numbers as plain ones, and text with a unit as a number in SI units."""
    if hasattr(value, "tolist"):
        value = value.tolist()
    if isinstance(value, list | tuple):
        return tuple(_plain(part, key) for part in value)
    if isinstance(value, dict):
        return {name: _plain(part, "") for name, part in value.items()}
    if isinstance(value, str) and key in UNITS:
        from yapa.case.quantity_text import number_in  # which itself is made of parts

        return number_in(value, UNITS[key], key)
    return value


Real = Annotated[float, Field(allow_inf_nan=False)]
Positive = Annotated[float, Field(gt=0, le=MAX_NUMBER, allow_inf_nan=False)]
NonNegative = Annotated[float, Field(ge=0, le=MAX_NUMBER, allow_inf_nan=False)]
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
