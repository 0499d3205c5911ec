"""Whether the engine is compiled for this machine, and compiling it in a process of its own."""

from __future__ import annotations

from yapa.engine.jit.cache_key import compiled_share, is_warm
from yapa.engine.jit.warmup import warm_in_child

__all__ = ["compiled_share", "is_warm", "warm_in_child"]
