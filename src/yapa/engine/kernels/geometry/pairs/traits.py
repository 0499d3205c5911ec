"""What holds of a pair, as bits that kernels read."""

from yapa.engine.kernels.geometry.pairs.registry import BALLS, MANIFOLD, PAIRS, PLANE, RIM, ROUND
from yapa.engine.kernels.jit import kernel


def _bits(trait):
    return sum(1 << k for k, pair in enumerate(PAIRS) if trait in pair.traits)


_PLANE, _ROUND, _RIM, _MANIFOLD, _BALLS = (_bits(trait) for trait in (PLANE, ROUND, RIM, MANIFOLD, BALLS))


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
