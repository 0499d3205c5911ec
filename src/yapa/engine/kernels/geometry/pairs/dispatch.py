"""One kernel for all pairs of the registry: the contact frame of a feature, and its rolling radius."""

from importlib import import_module

from yapa.engine.kernels.geometry.pairs.registry import PAIRS
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES1, WHOLES2, far, joined_part
from yapa.engine.kernels.layout import pair
from yapa.engine.kernels.math.vectors import VECTOR


def _or_frame(number, own, rest):
    @joined_part
    def frame_of(p, f, X, geo, Q):
        if Q[p, pair.KIND] == number:
            return own(p, f, X, geo, Q)
        return rest(p, f, X, geo, Q)

    return frame_of


def _or_radius(number, own, rest):
    @joined_part
    def radius_of(p, f, geo, Q):
        if Q[p, pair.KIND] == number:
            return own(p, f, geo, Q)
        return rest(p, f, geo, Q)

    return radius_of


def _all():
    every = [import_module(f"yapa.engine.kernels.geometry.pairs.{pair.module}") for pair in PAIRS]
    frames, radii = every[-1].frame, every[-1].rolling_radius
    for number in range(len(every) - 2, -1, -1):
        frames = _or_frame(number, every[number].frame, frames)
        radii = _or_radius(number, every[number].rolling_radius, radii)
    return frames, radii


_frame, rolling_radius = _all()


@far((REAL, VECTOR, VECTOR, VECTOR), WHOLE, WHOLE, REALS2, WHOLES1, WHOLES2)
def frame(p, f, X, geo, Q):
    """Gap, normal, arm on a, arm on b of feature ``f`` of pair ``p``, in world axes."""
    return _frame(p, f, X, geo, Q)
