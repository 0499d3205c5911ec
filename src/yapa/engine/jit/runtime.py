"""What Python calls of the compiled engine: linked from object files where all are kept; else loaded by numba, or compiled."""

from __future__ import annotations

import logging
import os
import subprocess
import sys
import threading
from collections.abc import Callable
from dataclasses import dataclass

from yapa.engine.jit.cache_key import private_cache
from yapa.engine.jit.object_cache import linker

Call = Callable[..., int]
WARMING = "YAPA_WARMING"
"""Set in the environment of a process that compiles the engine for the others."""
log = logging.getLogger("yapa.engine")
_LOCK = threading.Lock()
_ENTRIES: list[Entries] = []


@dataclass(frozen=True)
class Entries:
    """Kernels that take addresses and whole numbers (``kernels/entries.py``)."""

    run_at: Call
    run_many_at: Call
    knots_at: Call
    gaps_at: Call
    tell_rows: Call


ARGUMENTS = {"run_at": 3, "run_many_at": 4, "knots_at": 2, "gaps_at": 3, "tell_rows": 2}


def _compile_apart() -> None:
    """Compile the engine in processes of its own, said in words, and kept for every later start."""
    log.warning("compiling the engine for this machine, once; it takes about a minute")
    subprocess.run([sys.executable, "-m", "yapa.engine.jit.warmup"], env={**os.environ, WARMING: "1"}, stdout=subprocess.DEVNULL,
                   check=False)


def entries() -> Entries:
    """Return the engine, loaded once a process: fifty milliseconds where it has been compiled before, about a minute where not."""
    if not _ENTRIES:
        with _LOCK:
            if not _ENTRIES:
                _ENTRIES.append(_load())
    return _ENTRIES[0]


def _load() -> Entries:
    private_cache()
    links = linker()
    if not links.load_manifest():
        if WARMING not in os.environ:
            _compile_apart()
        if WARMING in os.environ or not links.load_manifest():
            import yapa.engine.kernels.entries  # noqa: F401  (compiles what is not kept)
    return Entries(**{name: links.function(f"yapa.engine.kernels.entries.{name}", count) for name, count in ARGUMENTS.items()})
