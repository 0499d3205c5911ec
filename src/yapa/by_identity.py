"""Results kept for objects that are known by their identity, since their content would take as long to hash as to read."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache, wraps
from typing import Generic, TypeVar

Thing = TypeVar("Thing")
Made = TypeVar("Made")


class _Holder(Generic[Thing]):
    """Keys a cache by the identity of what it holds, and keeps that alive."""

    def __init__(self, thing: Thing) -> None:
        self.thing = thing

    def __hash__(self) -> int:
        return id(self.thing)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Holder) and other.thing is self.thing


def once_for_each(most: int) -> Callable[[Callable[[Thing], Made]], Callable[[Thing], Made]]:
    """Decorate a function of one immutable object: what it makes of each is kept, for the ``most`` newest objects.

    Parameters
    ----------
    most : objects whose results are kept

    Returns
    -------
    A decorator of a function of one object.
    """
    def decorate(make: Callable[[Thing], Made]) -> Callable[[Thing], Made]:
        @lru_cache(maxsize=most)
        def made(holder: _Holder[Thing]) -> Made:
            return make(holder.thing)

        @wraps(make)
        def look_up(thing: Thing) -> Made:
            return made(_Holder(thing))

        return look_up

    return decorate
