"""Compile every kernel once, into the cache. Run as ``python -m yapa.engine.jit.warmup``.

The compiler holds the interpreter lock for a minute, so the window runs this as a child
process and shows its progress; set-up runs it too.
"""

from __future__ import annotations

import os
import subprocess
import sys

from yapa.engine.jit.build import SHARES, command, environment
from yapa.engine.jit.cache_key import cache_folder, forget_old_caches, is_warm, point_numba_at_cache, private_cache
from yapa.engine.jit.object_cache import ORDER, objects_folder
from yapa.engine.jit.runtime import WARMING


def warm() -> None:
    """Compile all parts beside each other; run one tiny scene, and list what the next process will link."""
    os.environ[WARMING] = "1"
    private_cache()
    for part in [subprocess.Popen(command(names), env=environment()) for names in SHARES]:
        part.wait()
    from yapa.case import Body, Case, Plane, Sphere
    from yapa.engine.jit.object_cache import linker
    from yapa.engine.simulate import simulate

    bodies = {
        "ball": Body(shapes=(Sphere(kind="sphere", radius=0.05),), position=(0.0, 0.0, 0.1)),
        "floor": Body(motion="static", shapes=(Plane(kind="plane"),)),
    }
    simulate(Case(bodies=bodies, duration=0.3)).trajectory("ball")
    linker().write_manifest()
    (cache_folder() / "warm").touch()
    forget_old_caches()


def warm_in_child() -> subprocess.Popen[bytes]:
    """Start compiling in a child process.

    Returns
    -------
    The process.
    """
    point_numba_at_cache()
    return subprocess.Popen([sys.executable, "-m", "yapa.engine.jit.warmup"], stdout=subprocess.DEVNULL)


if __name__ == "__main__":
    if not is_warm() or not (objects_folder() / ORDER).exists():
        warm()
