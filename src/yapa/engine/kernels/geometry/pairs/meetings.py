"""How two kinds of shape meet, as tables: of kinds i and j of N, the entry i N + j tells the order, the pair and its features."""

from __future__ import annotations

from yapa.case.shapes.registry import KINDS
from yapa.engine.kernels.geometry.pairs.registry import PAIRS

SHAPES = len(KINDS)
NEVER, AS_IT_IS, SWAPPED, WHAT_MOVES_FIRST = -1, 0, 1, 2


def _served() -> dict[tuple[int, int], tuple[int, int]]:
    """(i, j) → number of the pair and its features; two entries for kinds that meet in either order."""
    at = {kind.name: k for k, kind in enumerate(KINDS)}
    return {(at[a], at[b]): (k, features) for k, pair in enumerate(PAIRS) for a, b, features in pair.serves}


def _tables() -> tuple[tuple[int, ...], tuple[int, ...], tuple[int, ...]]:
    served = _served()
    order, number, features = [], [], []
    for i in range(SHAPES):
        for j in range(SHAPES):
            either = (i, j) in served and (j, i) in served
            how = WHAT_MOVES_FIRST if either else AS_IT_IS if (i, j) in served else SWAPPED if (j, i) in served else NEVER
            order.append(how)
            pair, points = served.get((i, j), (0, 0))
            number.append(pair)
            features.append(points)
    return tuple(order), tuple(number), tuple(features)


ORDER, NUMBER, FEATURES = _tables()


def meets(a: int, b: int) -> bool:
    """Return whether two kinds of shape, by their numbers, have a contact with each other.

    Parameters
    ----------
    a, b : numbers in the registry of shapes
    """
    return ORDER[a * SHAPES + b] != NEVER
