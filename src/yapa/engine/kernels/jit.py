"""The one decorator of every kernel.

``_nrt=False`` switches numba's array reference counting off: kernels run about three times
faster, and a hidden allocation becomes a compile error. It is a private option, so when a
numba release refuses it we fall back to plain ``njit`` with a warning.
"""

from __future__ import annotations

import warnings
from collections.abc import Callable
from typing import Any

from yapa.engine.cache import point_numba_at_cache

point_numba_at_cache()

import numba  # noqa: E402  (the cache folder must be set first)

OPTIONS: dict[str, Any] = {"nogil": True, "cache": True, "error_model": "numpy", "fastmath": False}


def make_decorator(njit: Callable[..., Any]) -> tuple[Callable[..., Any], bool]:
    """The decorator for kernels, and whether reference counting is off."""

    def probe() -> None:
        return None

    try:
        njit(_nrt=False, nogil=True, error_model="numpy")(probe)
    except (KeyError, TypeError, NameError):
        warnings.warn("this numba does not know _nrt; kernels will run slower", RuntimeWarning, stacklevel=2)
        return njit(**OPTIONS), False
    return njit(_nrt=False, **OPTIONS), True


kernel, without_reference_counts = make_decorator(numba.njit)
inline = numba.njit(inline="always", **{k: v for k, v in OPTIONS.items() if k != "cache"})
