"""Takes: several recordings of one set-up."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, model_validator

from yapa.case.base import Model, Name, Real
from yapa.case.evidence import Target
from yapa.case.parameter_path import PathText

RowNumber = Annotated[int, Field(ge=1, le=2000)]


class Take(Model):
    """One recording: its tracks, targets and rows, numbers that are otherwise in it, and unknowns of its own.

    ``rows`` are numbers of rows, from 1, of the case's table of trials. ``values`` (path → number) hold in this take instead of
    the case's own; ``free_per_take`` names unknowns that every take finds
    for itself, such as a launch. All other unknowns are shared by the takes.
    """

    name: Name
    tracks: tuple[Name, ...] = ()
    targets: tuple[Target, ...] = ()
    rows: tuple[RowNumber, ...] = ()
    values: dict[PathText, Real] = {}
    free_per_take: tuple[PathText, ...] = ()

    @model_validator(mode="after")
    def _has_evidence(self) -> Take:
        if not (self.tracks or self.targets or self.rows):
            raise ValueError("a take needs tracks, targets or rows")
        return self
