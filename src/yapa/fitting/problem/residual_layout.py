"""Where the residuals of tracks stand in the vector: track after track, of each its columns of place and then its angle."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property


@dataclass(frozen=True)
class TrackResiduals:
    """Where those of one track stand.

    Attributes
    ----------
    frames : of each column
    columns : of every column of place that is seen
    angle : of the angle, None where it is not seen
    """

    frames: int
    columns: tuple[slice, ...]
    angle: slice | None

    @cached_property
    def every(self) -> tuple[slice, ...]:
        """All columns, in their order."""
        return self.columns if self.angle is None else (*self.columns, self.angle)

    @cached_property
    def places(self) -> slice:
        """All columns of place together."""
        return slice(self.columns[0].start, self.columns[-1].stop) if self.columns else slice(self.whole.start, self.whole.start)

    @cached_property
    def whole(self) -> slice:
        """All columns together."""
        return slice(self.every[0].start, self.every[-1].stop)


@dataclass(frozen=True)
class ResidualLayout:
    """Where the residuals of every track stand, in the order of the tracks, and how many they are."""

    tracks: tuple[TrackResiduals, ...]
    count: int

    @classmethod
    def of(cls, tracks: Iterable[tuple[int, int, bool]]) -> ResidualLayout:
        """Return the layout of tracks of so many frames, columns of place, and with an angle or without.

        Parameters
        ----------
        tracks : of each: frames, columns of place, and whether it has an angle
        """
        layouts, row = [], 0
        for frames, columns, turned in tracks:
            slices = [slice(row + k * frames, row + (k + 1) * frames) for k in range(columns + turned)]
            layouts.append(TrackResiduals(frames, tuple(slices[:columns]), slices[-1] if turned else None))
            row += frames * (columns + turned)
        return cls(tuple(layouts), row)
