"""What the registry says, as tables that kernels read: how two kinds of shape meet, and what holds of a pair.

A trait is a bit for every pair; of kinds i and j of N, the entry i N + j tells the order, the pair and its features.
"""

from importlib import import_module

from yapa.case.shapes.registry import KINDS
from yapa.engine.kernels.geometry.pairs import registry
from yapa.engine.kernels.jit import kernel

PAIRS = tuple(import_module(f"yapa.engine.kernels.geometry.pairs.{name}") for name in registry.NAMES)
SHAPES = len(KINDS)
NEVER, AS_IT_IS, SWAPPED, WHAT_MOVES_FIRST = -1, 0, 1, 2


def _served():
    """(i, j) → number of the pair and its features; two entries for kinds that meet in either order."""
    at = {kind.name: k for k, kind in enumerate(KINDS)}
    return {(at[a], at[b]): (k, features) for k, pair in enumerate(PAIRS) for a, b, features in pair.SERVES}


def _tables():
    served = _served()
    order, number, features = [], [], []
    for i in range(SHAPES):
        for j in range(SHAPES):
            either = (i, j) in served and (j, i) in served
            how = WHAT_MOVES_FIRST if either else AS_IT_IS if (i, j) in served else SWAPPED if (j, i) in served else NEVER
            order.append(how)
            found = served.get((i, j), (0, 0))
            number.append(found[0])
            features.append(found[1])
    return tuple(order), tuple(number), tuple(features)


def _bits(trait):
    return sum(1 << k for k, pair in enumerate(PAIRS) if trait in pair.TRAITS)


ORDER, NUMBER, FEATURES = _tables()
_PLANE, _ROUND, _RIM, _MANIFOLD, _BALLS = (
    _bits(trait) for trait in (registry.PLANE, registry.ROUND, registry.RIM, registry.MANIFOLD, registry.BALLS))


@kernel
def against_plane(kind):
    """Whether b is a plane."""
    return (_PLANE >> kind) & 1 != 0


@kernel
def round_on_plane(kind):
    """Whether a is round and b a plane."""
    return ((_PLANE & _ROUND) >> kind) & 1 != 0


@kernel
def is_round(kind):
    """Whether one contact of balls has a closed form."""
    return (_ROUND >> kind) & 1 != 0


@kernel
def on_rim(kind):
    """Whether the features are points of a rim, which move along it."""
    return (_RIM >> kind) & 1 != 0


@kernel
def has_manifold(kind):
    """Whether the pair touches in a contact manifold, not by features."""
    return (_MANIFOLD >> kind) & 1 != 0


@kernel
def of_balls(kind):
    """Whether both are round, or one is and the other a plane."""
    return (_BALLS >> kind) & 1 != 0
