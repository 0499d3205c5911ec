"""Evidence: measured tracks and wanted outcomes (targets)."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import AfterValidator, ConfigDict, Field, StringConstraints, model_validator
from pydantic_core import PydanticCustomError

from yapa.case.arguments import ARGUMENTS
from yapa.case.arguments.registry import number_text
from yapa.case.base import Coordinate, Model, Name, NonNegative, Place
from yapa.case.bounds import MAX_ANGLE, MAX_DURATION, MAX_NOISE, MAX_SCALE, MAX_WANTED, MIN_NOISE, MIN_SCALE
from yapa.case.importing import ImportSettings
from yapa.case.outcome_specs import OUTCOME_SPECS, OutcomeSpec, unit_of
from yapa.case.units import as_shown

Column = tuple[Coordinate | None, ...]
Turn = Annotated[float, Field(ge=-MAX_ANGLE, le=MAX_ANGLE, allow_inf_nan=False)]
Time = Annotated[float, Field(ge=-MAX_DURATION, le=MAX_DURATION, allow_inf_nan=False)]
Wanted = Annotated[float, Field(ge=-MAX_WANTED, le=MAX_WANTED, allow_inf_nan=False)]
Share = Annotated[float, Field(ge=1 / MAX_WANTED, le=MAX_WANTED, allow_inf_nan=False)]
"""A tolerance or a weight."""
Noise = Annotated[float, Field(ge=MIN_NOISE, le=MAX_NOISE, allow_inf_nan=False)]


class Samples(Model):
    """Samples of a track in SI units; null is a gap. A coordinate left out is not measured."""

    t: tuple[Time, ...]
    x: Column | None = None
    y: Column | None = None
    z: Column | None = None
    angle: tuple[Turn | None, ...] | None = None

    @model_validator(mode="after")
    def _consistent(self) -> Samples:
        for name in ("x", "y", "z", "angle"):
            column = getattr(self, name)
            if column is not None and len(column) != len(self.t):
                raise ValueError(f"{name} has {len(column)} values beside {len(self.t)} times")
        for row, (a, b) in enumerate(zip(self.t, self.t[1:], strict=False), start=1):
            if b <= a:
                raise ValueError(f"times must increase: sample {row} is at {b} s after {a} s")
        if len(self.t) < 5:
            raise ValueError(f"a track needs at least 5 samples, found {len(self.t)}")
        return self


class Track(Model):
    """A measured motion of one body. ``angle`` is about +y, unwrapped, in rad.

    Either ``samples`` stand in the case, or ``file`` names a table beside it; ``reading`` says how it is read where it is
    not plain columns t, x, y, z, angle. ``offset`` [s] is added to its times, its places are multiplied by ``scale``
    and moved by ``shift`` [m]; these and its ``sigma`` may be unknown.
    """

    name: Name
    body: Name
    file: str | None = None
    sigma: Noise | None = None
    sigma_angle: Noise | None = None
    samples: Samples | None = None
    import_settings: ImportSettings | None = None
    time_offset: Time = 0.0
    scale: Annotated[float, Field(ge=MIN_SCALE, le=MAX_SCALE, allow_inf_nan=False)] = 1.0
    translation: Place = (0.0, 0.0, 0.0)

    @model_validator(mode="after")
    def _has_data(self) -> Track:
        if self.file is None and self.samples is None:
            raise ValueError('a track needs "samples" or a "file"')
        return self


def _known_outcome(name: str) -> str:
    if OUTCOME_SPECS and name not in OUTCOME_SPECS:
        raise ValueError(f"no outcome of that name; there are {', '.join(OUTCOME_SPECS)}")
    return name


OutcomeName = Annotated[str, AfterValidator(_known_outcome)]
Condition = Literal["equal", "within", "at least", "at most", "happens", "never"]


Each = Annotated[str, StringConstraints(pattern=r"^(all|any|sum|mean|largest|smallest|at least [1-9]\d{0,3})$")]
"""How the members of a group count."""


class Target(Model):
    """A wanted outcome.

    ``condition``: the outcome equals ``value`` ± ``tolerance``; lies within ``value`` … ``upper``; is at least or at most
    ``value`` (``tolerance`` says how softly); happens, or never happens. ``index`` is the k of apex k (1-based);
    ``partner``, ``time`` [s], ``point`` [m], ``region`` (two corners) and ``waypoints`` are arguments of some outcomes; those
    registered beyond these stand beside them under their own names. ``body`` may be left out when only one body moves. With
    ``each``
    the body is a group: all, any or at least so many of its members are to do it, or their sum, mean, largest or smallest value is.
    """

    model_config = ConfigDict(extra="allow")

    outcome: OutcomeName
    index: Annotated[int, Field(ge=1, le=99)] | None = None
    body: Name | None = None
    each: Each | None = None
    partner: Name | None = None
    time: NonNegative | None = None
    point: Place | None = None
    region: tuple[Place, Place] | None = None
    waypoints: Annotated[tuple[Place, ...], Field(max_length=20)] = ()
    condition: Condition = "equal"
    value: Wanted = 0.0
    upper: Wanted | None = None
    tolerance: Share = 1e-3
    weight: Share = 1.0

    @model_validator(mode="after")
    def _consistent(self) -> Target:
        for name in self.arguments:
            if name not in ARGUMENTS:
                raise PydanticCustomError("extra_forbidden", "unknown key {key}", {"key": name})
        spec = OUTCOME_SPECS.get(self.outcome)
        if spec is not None:
            self._check_arguments(spec)
            self._check_body()
        if (self.condition == "within") != (self.upper is not None):
            raise ValueError('"upper" goes with the condition "within", and only with it')
        if self.upper is not None and self.upper <= self.value:
            raise ValueError(f"a range must rise, found {self.value:g} to {self.upper:g}")
        return self

    def _check_body(self) -> None:
        if self.outcome == "formula" and self.body is not None:
            raise ValueError("arithmetic of outcomes takes no body; its terms name theirs")
        if self.each is not None and self.body is None:
            raise ValueError(f'"{self.each}" needs a group')

    def _check_arguments(self, spec: OutcomeSpec) -> None:
        """Every argument that the outcome requires is there, and none that it does not take."""
        for name, kind in ARGUMENTS.items():
            value = self.argument(name)
            if name in spec.required and value is None:
                example = f", such as {self.outcome} 2" if name == "index" else ""
                raise ValueError(f'"{self.outcome}" needs {kind.words}{example}')
            if value is not None and name not in spec.required and name not in spec.optional:
                raise ValueError(f'"{self.outcome}" takes no {name}')
            if value is not None:
                kind.check(value)
        if spec.one_of and sum(self.argument(name) is not None for name in spec.one_of) != 1:
            raise ValueError(f'"{self.outcome}" needs {" or ".join(_article(name) for name in spec.one_of)}')

    @property
    def arguments(self) -> dict[str, Any]:
        """Values of registered arguments that are no fields."""
        return self.model_extra or {}

    def argument(self, name: str) -> Any:
        """Return the value of an argument, None where it is not given.

        Parameters
        ----------
        name : its name
        """
        value = getattr(self, name) if name in type(self).model_fields else self.arguments.get(name)
        return None if value == () else value

    @property
    def label(self) -> str:
        """``apex 2`` or ``rest time``, with the body in front where it is named."""
        if self.outcome == "formula":
            return str(self.arguments["formula"])
        given = [kind.format(value) for name, kind in ARGUMENTS.items() if (value := self.argument(name)) is not None]
        body = f"{self.each} of {self.body}" if self.each is not None else self.body
        return " ".join(part for part in (body, self.outcome, *given) if part)

    @property
    def unit(self) -> str:
        """The SI unit of what is wanted; of arithmetic, that of its result."""
        if self.outcome != "formula":
            return unit_of(self.outcome)
        from yapa.case.outcome_text import unit_of_formula  # which reads targets itself

        return unit_of_formula(str(self.arguments["formula"]))

    @property
    def wanted(self) -> str:
        """What is wanted, with its unit: ``0.42 ± 0.005 m``, ``at least 2 s``, ``happens``; angles in degrees."""
        (value, unit), upper, tolerance = (as_shown(v, self.unit) for v in (self.value, self.upper or 0.0, self.tolerance))
        tail = f" {unit}".rstrip()
        if self.condition == "equal":
            return f"{number_text(value)} ± {number_text(tolerance[0])}{tail}"
        if self.condition == "within":
            return f"within {number_text(value)} to {number_text(upper[0])}{tail}"
        return self.condition if self.condition in ("happens", "never") else f"{self.condition} {number_text(value)}{tail}"


def _article(name: str) -> str:
    return f"{'an' if name[0] in 'aeiou' else 'a'} {name}"
