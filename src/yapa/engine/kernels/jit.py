"""The one decorator of every kernel.

``_nrt=False`` switches numba's array reference counting off: kernels run about three times
faster, and a hidden allocation becomes a compile error. It is a private option, so when a
numba release refuses it we fall back to plain ``njit`` with a warning.
"""

from __future__ import annotations

import warnings
from collections.abc import Callable
from pathlib import Path
from typing import Any

from yapa.engine.jit.cache_key import KERNELS, point_numba_at_cache

point_numba_at_cache()

import numba  # noqa: E402  (the cache folder must be set first)
import numba.extending  # noqa: E402
from numba.core import cgutils  # noqa: E402

from yapa.engine.jit.object_cache import linker  # noqa: E402

OPTIONS: dict[str, Any] = {"nogil": True, "cache": True, "error_model": "numpy", "fastmath": False}
ALONE = linker().partition is not None
"""Whether this process does nothing but compile far kernels: then nothing of what they are made of is ever called from Python."""
UNCALLED: dict[str, Any] = {"cache": False, "no_cpython_wrapper": True} if ALONE else {}
"""Options of every kernel in such a process: no wrapper for Python, and not kept by numba, since its object file is."""
NEAR: dict[str, Any] = OPTIONS | UNCALLED | ({"no_cfunc_wrapper": True} if ALONE else {})
"""Options of what becomes code of a far kernel."""
UNKEPT = NEAR | {"cache": False}


def make_decorator(njit: Callable[..., Any]) -> tuple[Callable[..., Any], bool]:
    """The decorator for kernels, and whether reference counting is off."""

    def probe() -> None:
        return None

    try:
        njit(_nrt=False, nogil=True, error_model="numpy")(probe)
    except (KeyError, TypeError, NameError):
        warnings.warn("this numba does not know _nrt; kernels will run slower", RuntimeWarning, stacklevel=2)
        return njit(**NEAR), False
    return njit(_nrt=False, **NEAR), True


kernel, without_reference_counts = make_decorator(numba.njit)
NO_COUNTS: dict[str, Any] = {"_nrt": False} if without_reference_counts else {}
part = numba.njit(forceinline=True, **NO_COUNTS, **NEAR)
"""A named part of one large kernel: it becomes code of that kernel, so that cutting it out costs nothing."""
joined = numba.njit(**NO_COUNTS, **UNKEPT)
"""Of kernels that are made while their module is read."""
joined_part = numba.njit(forceinline=True, **NO_COUNTS, **UNKEPT)
"""The same of a named part."""
inline = numba.njit(inline="always", **UNKEPT)


# -- kernels that are called by their address --------------------------------------------------

REAL, WHOLE, FLAG = numba.float64, numba.int64, numba.boolean
REALS1, REALS2, REALS3 = numba.float64[::1], numba.float64[:, ::1], numba.float64[:, :, ::1]
WHOLES1, WHOLES2 = numba.int64[::1], numba.int64[:, ::1]


def far(returns: Any, *arguments: Any, entry: bool = False) -> Callable[[Callable[..., Any]], Any]:
    """Decorator of a large kernel: compiled once, on its own, and called by its address.

    An ordinary kernel's code is linked into everything that calls it and optimised again there, layer
    upon layer; that is where compile time goes. A far kernel is known to its callers by a symbol
    only. Its types stand in the decorator. With ``entry`` it has an address for C as well, by which
    Python calls it without numba. ``.host`` is what tests call: it is compiled at its first call.
    """
    result = numba.types.Tuple(returns) if isinstance(returns, tuple) else returns

    def decorate(function: Callable[..., Any]) -> Any:
        symbol = f"{function.__module__}.{function.__qualname__}"
        kept = KERNELS in Path(function.__code__.co_filename).parents  # the cache's key knows of no other sources
        links = linker()
        if not (kept and (links.link(symbol) or links.defer(symbol))):
            made = kernel_options(numba.njit, result(*arguments), entry)(function).overloads[arguments]
            outer = made.fndesc.llvm_cfunc_wrapper_name if entry else ""
            at = made.library.get_pointer_to_function
            links.register(symbol, at(made.fndesc.llvm_func_name), at(outer) if entry else 0)
            if kept:
                links.store(symbol, made, outer)
            _KEPT.append(made)

        def code(context: Any, builder: Any, _signature: Any, args: Any) -> Any:
            kind = context.call_conv.get_function_type(result, arguments)
            target = cgutils.get_or_insert_function(builder.module, kind, symbol)
            _, out = context.call_conv.call_function(builder, target, result, arguments, args)
            return out

        names = ", ".join(f"a{k}" for k in range(len(arguments)))
        scope: dict[str, Any] = {"answer": (result(*arguments), code)}
        exec(f"def {function.__name__}(typing, {names}):\n    return answer", scope)
        near = scope["near"] = numba.extending.intrinsic(scope[function.__name__])
        exec(f"def host({names}):\n    return near({names})", scope)
        near.host = numba.njit(nogil=True)(scope["host"])
        return near

    return decorate


_KEPT: list[Any] = []
"""Far kernels compiled in this process: their code must outlive every caller."""


def entry(*arguments: Any) -> Callable[[Callable[..., Any]], Any]:
    """Decorator of a far kernel that Python calls: whole numbers in, a whole number out."""
    return far(WHOLE, *arguments, entry=True)


def kernel_options(njit: Callable[..., Any], signature: Any, for_c: bool = False) -> Any:
    """numba's decorator for one signature, with the options of every kernel."""
    return njit(signature, no_cfunc_wrapper=not for_c, **NO_COUNTS, **(OPTIONS | UNCALLED))
