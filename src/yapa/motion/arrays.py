"""Arrays of a motion, and sequences that are made when first read."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def rising(*values: Array) -> Array:
    """Return the different ones of these (N,) finite numbers, rising: ``numpy.unique``, which imports NumPy's masked arrays to do
    it.

    Parameters
    ----------
    values : path → value, SI units
    """
    every = np.sort(np.concatenate(values))
    return every[np.concatenate([[True], every[1:] != every[:-1]])] if len(every) else every


class Later(Sequence[Any]):
    """A list that is made when it is first asked for."""

    def __init__(self, make: Callable[[], list[Any]]) -> None:
        self._make: Callable[[], list[Any]] | None = make
        self._made: list[Any] = []

    @property
    def made(self) -> list[Any]:
        """The list itself."""
        if self._make is not None:
            self._made, self._make = self._make(), None
        return self._made

    def __getitem__(self, at: Any) -> Any:
        return self.made[at]

    def __len__(self) -> int:
        return len(self.made)

    def __iter__(self) -> Iterator[Any]:
        return iter(self.made)

    def __eq__(self, other: object) -> bool:
        return self.made == (other.made if isinstance(other, Later) else other)

    __hash__ = None  # type: ignore[assignment]

    def __repr__(self) -> str:
        return repr(self.made)

    def __reduce__(self) -> tuple[Any, ...]:
        return list, (self.made,)
