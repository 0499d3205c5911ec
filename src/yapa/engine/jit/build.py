"""What makes numba quicker in a process that does nothing but compile: half the time of the engine's first compilation.

Most of that time is numba's own Python, not the optimiser. It asks a few hundred questions of the kind "what does indexing this
array by two whole numbers give?" tens of thousands of times, tries two dozen answers each time, and formats an error for each that
does not fit. Here an answer is remembered for as long as the process lives; errors that nobody reads are not coloured; what is left
behind is not swept up, since the process ends soon; and machine code is made of far kernels, not of every part of them.
"""

from __future__ import annotations

import gc
import importlib
import os
import sys
from collections.abc import Callable
from typing import Any

from yapa.engine.jit.object_cache import linker

SHARES = (("contact.newton", "contact.contact_solver", "contact.contact_rows", "contact.round_contact", "contact.contact_system",
           "regimes.persistent_contact", "regimes.event_driven", "geometry.time_of_impact", "contact.impact_solver",
           "dynamics.flight", "dynamics.energy", "summary.knots"),
          ("geometry.separating_axis", "geometry.capsule_polytope", "geometry.cylinder_polytope", "geometry.manifold",
           "geometry.nearest_points", "geometry.pairs.dispatch",
           "geometry.broad_phase", "regimes.islands", "regimes.soft_contact", "contact.point_solver", "contact.contact_points",
           "regimes.fixed_contacts", "regimes.fixed_step", "summary.event_summary", "regimes.carry", "regimes.run", "entries"))
"""Every module of far kernels, in parts that take about as long: each is compiled by a process of its own, beside the others."""
PLAIN_ERRORS = {"NUMBA_DISABLE_ERROR_MESSAGE_HIGHLIGHTING": "1"}
"""Added to the environment of a process that compiles. It changes nothing that is compiled."""


def remember_call_types(kind: Any, plain: Callable[[Any], Any] | None = None) -> bool:
    """Have a class of numba's function types remember what a call with the same arguments gives.

    ``get_call_type(self, context, args, kws)`` is private to numba. False, and nothing done, where a release has none.

    Parameters
    ----------
    kind : class of numba's function types
    plain : the type that an argument is taken for. A kernel that is called with 0, with 1 and with a column is compiled three times
        where each number is a type of its own

    Returns
    -------
    Whether it was done.
    """
    try:
        ask = kind.get_call_type
    except AttributeError:
        return False

    def get_call_type(self: Any, context: Any, args: Any, kws: Any) -> Any:
        known = self.__dict__.setdefault("_known_calls", {})
        if plain is not None:
            args = tuple(plain(arg) for arg in args)
        key = (tuple(args), tuple(sorted(kws.items())))
        if key not in known:
            known[key] = ask(self, context, args, kws)
        return known[key]

    kind.get_call_type = get_call_type
    return True


def no_code_of_parts(library: Any, codegen: Any) -> bool:
    """Have numba make the machine code of a kernel where its address is asked for, and of what it is made of never.

    numba makes it of every function, though a part's only use is to become code of a far kernel, which has machine code of its own.
    ``_finalize_specific``, where all that was added is made, and ``set_env``, which asks for the address of what a call from Python
    needs, are private to numba. False, and nothing done, where a release lacks either.

    Parameters
    ----------
    library : class of numba's code libraries
    codegen : class of numba's code generators

    Returns
    -------
    Whether it was done.
    """
    if not (hasattr(library, "_finalize_specific") and hasattr(codegen, "set_env")):
        return False
    library._finalize_specific = lambda self: self._codegen._scan_and_fix_unresolved_refs(self._final_module)
    codegen.set_env = lambda self, name, env: None
    return True


def compile_modules(names: list[str]) -> None:
    """Compile the far kernels of these modules, knowing those of others by their symbols only.

    Parameters
    ----------
    names : names of the bodies
    """
    gc.disable()
    linker().partition = frozenset(names)
    from numba.core import codegen, types

    remember_call_types(getattr(types, "BaseFunction", None))
    remember_call_types(getattr(types, "Dispatcher", None), types.unliteral)
    no_code_of_parts(getattr(codegen, "JITCodeLibrary", None), getattr(codegen, "JITCPUCodegen", None))
    for name in names:
        importlib.import_module(f"yapa.engine.kernels.{name}")


def command(names: tuple[str, ...]) -> list[str]:
    """Return the command of a process that compiles these modules.

    Parameters
    ----------
    names : names of the bodies
    """
    return [sys.executable, "-m", "yapa.engine.jit.build", *names]


def environment() -> dict[str, str]:
    """Return the environment of a process that compiles."""
    return {**os.environ, **PLAIN_ERRORS}


if __name__ == "__main__":
    compile_modules(sys.argv[1:])
