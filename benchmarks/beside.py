"""``python -m benchmarks.beside OLD NEW``: how long two checkouts take for the same runs, in turns.

Of each the best of 15 is told, of what is short the best of 150.

OLD and NEW are folders or commits of this repository. Each runs in a process of its own, and one waits while the other works.
"""

from __future__ import annotations

import os
import subprocess
import sys
from contextlib import ExitStack
from pathlib import Path

from tools.same_results import checkout

ROUNDS = 15
WORKER = """
import os, sys, time
os.sched_setaffinity(0, {max(os.sched_getaffinity(0))})  # both on one processor: they differ, and wander
import numpy as np
from benchmarks.drop import TIMES, the_case
from benchmarks.engine import mixed_scene
from benchmarks.instances import instance, laid
from benchmarks.scenes import pile
from yapa.engine.runner import Program
try:
    from yapa.engine.kernels.contact.contact_solver import solve_law
except ImportError:  # an older checkout
    from yapa.engine.kernels.law import solve_law

FEW = np.array([0.0, 2.0])
drop, mixed, heap = Program(the_case()), Program(mixed_scene()), Program(pile(30, np.random.default_rng(2)))
rng = np.random.default_rng(1)
stacks = [laid(*instance(rng, "stack")) for _ in range(60)]


def islands():
    for arrays in stacks:
        solve_law.host(*(a.copy() if isinstance(a, np.ndarray) else a for a in arrays))


WORK = {
    "drop, 480 samples": lambda: [drop.run(None, TIMES, 2.0, keep=False) for _ in range(100)],
    "drop, contacts only": lambda: [drop.run(None, FEW, 2.0, keep=False) for _ in range(100)],
    "mixed scene": lambda: mixed.run(None, FEW, 2.0, keep=False),
    "pile of 30": lambda: heap.run(None, FEW, 2.0, keep=False),
    "60 islands": islands,
}
for work in WORK.values():
    work()
print("ready", flush=True)
for line in sys.stdin:
    begun = time.perf_counter()
    WORK[line.strip()]()
    print(time.perf_counter() - begun, flush=True)
"""
SHORT = ("drop, 480 samples", "drop, contacts only", "mixed scene", "60 islands")
"""Done ten times as often."""
NAMES = ("drop, 480 samples", "drop, contacts only", "mixed scene", "pile of 30", "60 islands")


def worker(tree: Path) -> subprocess.Popen[str]:
    """Return a process that does the work of a checkout when it is told to."""
    env = os.environ | {"PYTHONPATH": f"{tree / 'src'}{os.pathsep}{tree}"}
    return subprocess.Popen([sys.executable, "-c", WORKER], cwd=tree, env=env, text=True, stdin=subprocess.PIPE,
                            stdout=subprocess.PIPE)


def asked(process: subprocess.Popen[str], name: str) -> float:
    """Return how long a process takes for one piece of work [s]."""
    assert process.stdin is not None
    assert process.stdout is not None
    process.stdin.write(f"{name}\n")
    process.stdin.flush()
    return float(process.stdout.readline())


def main() -> None:
    with ExitStack() as stack:
        both = [worker(stack.enter_context(checkout(what))) for what in sys.argv[1:3]]
        for process in both:
            assert process.stdout is not None
            assert process.stdout.readline() == "ready\n"
        for name in NAMES:
            times = [[asked(process, name) for process in both] for _ in range(ROUNDS if name not in SHORT else 10 * ROUNDS)]
            old, new = (min(column) for column in zip(*times, strict=True))
            print(f"{name}: {1e3 * old:.2f} ms before, {1e3 * new:.2f} ms now: {100 * (new / old - 1):+.1f}%", flush=True)
        for process in both:
            process.kill()


if __name__ == "__main__":
    main()
