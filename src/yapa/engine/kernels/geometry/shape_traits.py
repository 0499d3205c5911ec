"""What the registry of shapes says of a kind, as bits that kernels read."""

from yapa.case.shapes.registry import KINDS
from yapa.engine.kernels.jit import kernel


def _bits(trait):
    return sum(1 << k for k, kind in enumerate(KINDS) if getattr(kind, trait))


_ROUND, _ENDLESS, _CORNERS, _FLAT_ENDS = (_bits(trait) for trait in ("is_round", "is_endless", "has_corners", "has_flat_ends"))


@kernel
def is_round_shape(kind):
    """Whether it is a point or a segment with a radius."""
    return (_ROUND >> kind) & 1 != 0


@kernel
def is_endless(kind):
    """Whether nothing bounds it."""
    return (_ENDLESS >> kind) & 1 != 0


@kernel
def has_corners(kind):
    """Whether its vertices bound it."""
    return (_CORNERS >> kind) & 1 != 0


@kernel
def has_flat_ends(kind):
    """Whether it is round, but cut at its ends."""
    return (_FLAT_ENDS >> kind) & 1 != 0
