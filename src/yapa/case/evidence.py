"""Evidence: measured tracks and wanted outcomes (targets)."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, Field, model_validator

from yapa.case.base import Coordinate, Model, Name, NonNegative, Place
from yapa.case.bounds import MAX_ANGLE, MAX_DURATION, MAX_NOISE, MAX_SCALE, MAX_WANTED, MIN_NOISE, MIN_SCALE
from yapa.case.importing import Import
from yapa.case.outcome_specs import OUTCOME_SPECS

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
    reading: Import | None = None
    offset: Time = 0.0
    scale: Annotated[float, Field(ge=MIN_SCALE, le=MAX_SCALE, allow_inf_nan=False)] = 1.0
    shift: Place = (0.0, 0.0, 0.0)

    @model_validator(mode="after")
    def _has_data(self) -> Track:
        if self.file is None and self.samples is None:
            raise ValueError('a track needs "samples" or a "file"')
        return self


def _known_outcome(name: str) -> str:
    if name not in OUTCOME_SPECS:
        raise ValueError(f"no outcome of that name; there are {', '.join(OUTCOME_SPECS)}")
    return name


OutcomeName = Annotated[str, AfterValidator(_known_outcome)]
Condition = Literal["equal", "within", "at least", "at most", "happens", "never"]


class Target(Model):
    """A wanted outcome.

    ``condition``: the outcome equals ``value`` ± ``tolerance``; lies within ``value`` … ``upper``; is at least or at most
    ``value`` (``tolerance`` says how softly); happens, or never happens. ``index`` is the k of apex k (1-based);
    ``partner``, ``at`` [s], ``point`` [m], ``zone`` (two corners) and ``points`` are what some outcomes need to be told.
    ``body`` may be left out when only one body moves.
    """

    outcome: OutcomeName
    index: Annotated[int, Field(ge=1, le=99)] | None = None
    body: Name | None = None
    partner: Name | None = None
    at: NonNegative | None = None
    point: Place | None = None
    zone: tuple[Place, Place] | None = None
    points: Annotated[tuple[Place, ...], Field(max_length=20)] = ()
    condition: Condition = "equal"
    value: Wanted = 0.0
    upper: Wanted | None = None
    tolerance: Share = 1e-3
    weight: Share = 1.0

    @model_validator(mode="after")
    def _told(self) -> Target:
        asking = OUTCOME_SPECS[self.outcome]
        for what in ("index", "partner", "at", "point", "zone", "points"):
            given = getattr(self, what) not in (None, ())
            if what in asking.needs and not given:
                example = f', such as {self.outcome} 2' if what == "index" else ""
                raise ValueError(f'"{self.outcome}" needs {_NEEDS[what]}{example}')
            if given and what not in asking.needs and what not in asking.may:
                raise ValueError(f'"{self.outcome}" takes no {what}')
        if self.outcome == "miss" and (self.point is None) == (self.partner is None):
            raise ValueError('"miss" needs a point or a partner')
        if (self.condition == "within") != (self.upper is not None):
            raise ValueError('"upper" goes with the condition "within", and only with it')
        if self.upper is not None and self.upper <= self.value:
            raise ValueError(f"a range must rise, found {self.value:g} to {self.upper:g}")
        if self.zone is not None and any(b <= a for a, b in zip(*self.zone, strict=True)):
            raise ValueError("the second corner of a zone must lie beyond the first along x, y and z")
        return self

    @property
    def label(self) -> str:
        """``apex 2`` or ``rest time``, with the body in front where it is named."""
        parts = [self.body, self.outcome, None if self.index is None else str(self.index)]
        if self.partner is not None:
            parts.append(f"with {self.partner}")
        if self.at is not None:
            parts.append(f"at {number_text(self.at)} s")
        if self.point is not None:
            parts.append("of " + _place(self.point))
        if self.zone is not None:
            parts.append(f"{_place(self.zone[0])} to {_place(self.zone[1])}")
        if self.points:
            parts.append(", ".join(_place(point) for point in self.points))
        return " ".join(part for part in parts if part)

    @property
    def wanted(self) -> str:
        """What is wanted, with its unit: ``0.42 ± 0.005 m``, ``at least 2 s``, ``happens``."""
        unit = f" {OUTCOME_SPECS[self.outcome].unit}".rstrip()
        if self.condition == "equal":
            return f"{number_text(self.value)} ± {number_text(self.tolerance)}{unit}"
        if self.condition == "within":
            return f"within {number_text(self.value)} to {number_text(self.upper or 0.0)}{unit}"
        return self.condition if self.condition in ("happens", "never") else f"{self.condition} {number_text(self.value)}{unit}"


_NEEDS = {"index": "an index", "partner": "a partner, such as with plate", "at": "a time", "point": "a point", "zone": "a zone",
          "points": "points"}


def number_text(value: float) -> str:
    """The shortest text that reads back as the number."""
    short = f"{value:.10g}"
    return short if float(short) == value else repr(value)


def _place(point: tuple[float, float, float]) -> str:
    return "(" + ", ".join(f"{number_text(c)}" for c in point) + ")"
