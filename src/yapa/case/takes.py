"""Takes: several recordings of one set-up."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated

from pydantic import Field

from yapa.case.base import Model, Name, Real

if TYPE_CHECKING:
    from yapa.case.model import Case


class Take(Model):
    """One recording: its tracks, numbers that are otherwise in it, and unknowns of its own.

    ``values`` (path → number) hold in this take instead of the case's own; ``own`` names unknowns that every take finds
    for itself, such as a launch. All other unknowns are shared by the takes.
    """

    name: Name
    tracks: Annotated[tuple[Name, ...], Field(min_length=1)]
    values: dict[str, Real] = {}
    own: tuple[str, ...] = ()


def case_of(case: Case, take: Take) -> Case:
    """The case of one take: its tracks and values, no targets."""
    from yapa.case.paths import with_numbers

    alone = case.model_copy(update={
        "tracks": tuple(t for t in case.tracks if t.name in take.tracks), "takes": (), "targets": ()})
    return with_numbers(alone, take.values) if take.values else alone
