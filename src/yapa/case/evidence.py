"""Evidence: measured tracks and wanted outcomes (targets)."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from yapa.case.base import Model, Name, Positive, Real

Column = tuple[Real | None, ...]


class Samples(Model):
    """Samples of a track in SI units; null is a gap. A coordinate left out is not measured."""

    t: tuple[Real, ...]
    x: Column | None = None
    y: Column | None = None
    z: Column | None = None
    angle: Column | None = None

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

    Either ``samples`` stand in the case, or ``file`` names a CSV beside it.
    """

    name: Name
    body: Name
    file: str | None = None
    sigma: Positive | None = None
    sigma_angle: Positive | None = None
    samples: Samples | None = None

    @model_validator(mode="after")
    def _has_data(self) -> Track:
        if self.file is None and self.samples is None:
            raise ValueError('a track needs "samples" or a "file"')
        return self


OutcomeKind = Literal[
    "apex", "rest time", "bounces", "travel", "landing", "peak speed", "slide distance", "roll distance"
]


class Target(Model):
    """A wanted outcome: value ± tolerance.

    ``index`` is the k of apex k and landing k (1-based); other outcomes have none.
    ``body`` may be left out when only one body moves.
    """

    outcome: OutcomeKind
    index: Annotated[int, Field(ge=1, le=99)] | None = None
    body: Name | None = None
    value: Real
    tolerance: Positive
    weight: Positive = 1.0

    @model_validator(mode="after")
    def _indexed(self) -> Target:
        needs = self.outcome in ("apex", "landing")
        if needs and self.index is None:
            raise ValueError(f'"{self.outcome}" needs an index, such as {self.outcome} 2')
        if not needs and self.index is not None:
            raise ValueError(f'"{self.outcome}" takes no index')
        return self

    @property
    def label(self) -> str:
        """``apex 2`` or ``rest time``, with the body in front where it is named."""
        own = self.outcome if self.index is None else f"{self.outcome} {self.index}"
        return f"{self.body} {own}" if self.body else own
