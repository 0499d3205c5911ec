"""The engine against a specialised C loop and a general solver, crowds, batches, and the island solver.

Everything is timed interleaved in one run; only ratios and microseconds a step of the same run mean
anything. ``python benchmarks/engine.py`` rewrites its part of docs/benchmarks.md.
"""

from __future__ import annotations

import ctypes
import os
import statistics
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parent.parent))
from benchmarks.clusters import cluster, drifts
from benchmarks.drop import MU, SPIN, START, TIMES, E, K, R, by_solve_ivp, the_case, timed
from benchmarks.instances import instance, laid
from benchmarks.pages import put
from benchmarks.scenes import ball, crate, floor, pile, scene
from yapa.case import Target
from yapa.engine import simulate, simulate_many
from yapa.engine.kernels.contact.contact_solver import solve_law
from yapa.engine.runner import Program
from yapa.fitting.explore.sweep import Axis, sweep

HERE = Path(__file__).parent


def c_loop():
    """The specialised drop, compiled by gcc -O3."""
    folder = tempfile.mkdtemp()
    library = Path(folder) / "drop.so"
    subprocess.run(["gcc", "-O3", "-march=native", "-shared", "-fPIC", str(HERE / "drop.c"), "-o", str(library), "-lm"], check=True)
    drop = ctypes.CDLL(str(library)).drop
    real = ctypes.POINTER(ctypes.c_double)
    drop.argtypes = [real] + [ctypes.c_double] * 6 + [ctypes.c_int, real, real]
    start, out, hits = np.array(START), np.zeros((480, 6)), np.zeros(64)
    pointer = [a.ctypes.data_as(real) for a in (start, out, hits)]

    def call():
        return drop(pointer[0], SPIN, R, K, E, MU, 1 / 240, 480, pointer[1], pointer[2])

    return call, out


def drop_rows():
    """One drop: ours, C, the general solver, and a batch that keeps only an outcome."""
    case = the_case()
    program = Program(case)
    values = {"surfaces.s.restitution": E, "bodies.ball.velocity.x": START[2]}
    call, out = c_loop()
    call()
    exact, _ = by_solve_ivp(1e-10, 1e-10)
    error = np.abs(program.run(values, TIMES, 2.0).states[:480, 0, [0, 2]] - exact[:480]).max()
    c_error = np.abs(out[:, :2] - exact[:480]).max()
    few = np.array([0.0, 2.0])
    rows = []
    for _ in range(9):
        rows.append((timed(lambda: program.run(values, TIMES, 2.0, keep=False), 200), timed(call, 400),
                     timed(lambda: by_solve_ivp(1e-9, 1e-9), 2), timed(lambda: program.run(values, few, 2.0, keep=False), 200)))
    ours, c, theirs, bare = (statistics.median(column) for column in zip(*rows, strict=True))
    return [
        ("position error, ours / C, against DOP853 at 1e-10", f"{error:.1e} / {c_error:.1e} m"),
        ("compiled call, 480 samples and contacts", f"{ours * 1e6:.0f} µs, {ours / c:.1f}× the C loop ({c * 1e6:.0f} µs)"),
        ("`solve_ivp` DOP853, events, rtol 1e-9", f"{theirs / ours:.0f}× ours"),
        ("the same call, contacts only", f"{bare * 1e6:.0f} µs, {bare / c:.1f}× the C loop"),
    ]


def machine_cap():
    """What two processors give over one: the C loop in one process and in two at once."""
    code = "from benchmarks.engine import c_loop\nimport time\ncall = c_loop()[0]\ninput()\nb = time.perf_counter()\n" \
           "for _ in range(20000): call()\nprint(time.perf_counter() - b)"

    def spent(count):
        running = [subprocess.Popen([sys.executable, "-c", code], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
                                    cwd=HERE.parent) for _ in range(count)]
        time.sleep(4.0)  # imports done, waiting for the word
        for p in running:
            p.stdin.write("\n")
            p.stdin.flush()
        return max(float(p.communicate()[0]) for p in running)

    one, two = spent(1), spent(2)
    return 2 * one / two


LOAD = """
import time, yapa.case
begun = time.perf_counter()
import yapa.engine
from yapa.engine.jit.runtime import entries
entries()
print(time.perf_counter() - begun)
"""


def load_rows():
    """The engine in a new process: compiled before, and never."""
    def spent(code, **env):
        begun = time.perf_counter()
        out = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True, env={**os.environ, **env})
        return time.perf_counter() - begun, out.stdout

    warm = statistics.median(float(spent(LOAD)[1]) for _ in range(7))
    with tempfile.TemporaryDirectory() as home:
        cold, _ = spent("from yapa.engine.jit.warmup import warm; warm()", XDG_CACHE_HOME=home)
    return [("loading the engine in a new process, compiled before", f"{warm:.2f} s"), ("compiling all of it", f"{cold:.0f} s")]


def thread_rows():
    """A batch in one and two threads; told runs and heavy ones the best of 15, as neighbours on the machine take a processor."""
    case = the_case()
    values = np.column_stack([np.linspace(0.5, 0.9, 2000)])

    def contacts(motion):
        return len(motion.contacts)

    def batch(threads):
        return timed(lambda: simulate_many(case, ["surfaces.s.restitution"], values[:400], contacts, times=np.array([0.0, 2.0]),
                                           threads=threads), 1)

    batch(1)
    rows = [(batch(1), batch(2)) for _ in range(5)]
    one, two = (statistics.median(column) for column in zip(*rows, strict=True))
    asked = [Target(outcome="contacts", body="ball")]
    axes = [Axis("surfaces.s.restitution", 0.5, 0.9)]

    def swept(threads):
        return timed(lambda: sweep(case, axes, asked, 2000, threads=threads), 1)

    swept(2)
    t1, t2 = (min(column) for column in zip(*[(swept(1), swept(2)) for _ in range(15)], strict=True))
    mixed = Program(mixed_scene())

    def heavy(threads):
        begun = time.perf_counter()
        with ThreadPoolExecutor(threads) as pool:
            list(pool.map(lambda _: mixed.run(None, np.array([0.0, 2.0]), 2.0, keep=False), range(24)))
        return time.perf_counter() - begun

    heavy(2)
    p1, p2 = (min(column) for column in zip(*[(heavy(1), heavy(2)) for _ in range(15)], strict=True))
    caps = [machine_cap() for _ in range(5)]
    return [("two processes of the C loop at once, over one: the most this machine gives", f"{statistics.median(caps):.2f}×"),
            ("batch of 400 drops, a count read off each motion in Python, threads 1 → 2", f"{one / two:.2f}×"),
            ("2000 drops, a count told by compiled code, threads 1 → 2", f"{t1 / t2:.2f}×"),
            ("a drop of those, in one thread", f"{t1 / 2000 * 1e6:.0f} µs, against {one / 400 * 1e6:.0f} µs read in Python"),
            ("runs of 10 spheres and 4 boxes, threads 1 → 2", f"{p1 / p2:.2f}×")]


def mixed_scene():
    """Ten spheres and four boxes above a plane."""
    bodies = {f"s{k}": ball(0.05, position=(0.15 * (k % 5), 0.15 * (k // 5), 0.3 + 0.02 * k)) for k in range(10)}
    bodies |= {f"c{k}": crate(0.2 * k, 0.6, 0.2 + 0.1 * k) for k in range(4)} | {"f": floor()}
    return scene(bodies, duration=2.0, friction=0.5, restitution=0.3)


def crowd_rows():
    """Microseconds a step and a body-substep."""
    rng = np.random.default_rng(1)
    program = Program(mixed_scene())
    program.run(None, np.array([0.0, 2.0]), 0.1)
    took = min(timed(lambda: program.run(None, np.array([0.0, 2.0]), 2.0, keep=False), 1) for _ in range(60))
    rows = [("10 spheres and 4 boxes on a plane", f"{took / 480 * 1e6:.0f} µs a step of 1/240 s")]
    before = None
    for count in (10, 100, 500):
        case = pile(count, rng)
        program = Program(case)
        took = 1e300
        for _ in range({10: 40, 100: 12, 500: 4}[count]):
            begun = time.perf_counter()
            raw = program.run(None, np.array([0.0, case.duration]), case.duration, keep=False)
            took = min(took, time.perf_counter() - begun)
        outer = case.duration * 240
        grew = "" if before is None else f", {took / outer / before:.1f}× the one before"
        before = took / outer
        rows.append((f"{count} bodies poured into a bin, {case.duration:g} s",
                     f"{took / outer * 1e6:.0f} µs a step, {took / outer / 8 / count * 1e6:.2f} µs a body-substep{grew}"
                     + ("" if raw.code == 0 else " (not finished)")))
    return rows


def island_rows(count=40_000):
    """The contact law on random islands: failures and time."""
    rng = np.random.default_rng()
    errors, times = [], []
    solve_law.host(*laid(*instance(rng, "stack")))  # compiled at its first call
    for first in range(0, count, 500):  # one after the other, as in a run: not with the making of each between them
        islands = [laid(*instance(rng, ("neighbours", "stack", "tetrahedra")[k % 3])) for k in range(first, first + 500)]
        for arrays in islands:
            begun = time.perf_counter()
            errors.append(solve_law.host(*arrays))
            times.append(time.perf_counter() - begun)
    e, t = np.array(errors), np.array(times) * 1e6
    return [(f"{count} random islands of 1 – 8 contacts, error above 1e-10", f"{(e > 1e-10).mean():.2%}"),
            ("a solve", f"{t.mean():.0f} µs on average, {np.median(t):.0f} µs median, {np.percentile(t, 99):.0f} µs at 99%")]


def turning_rows(count=60):
    """What soft contacts do to the angular momentum of boxes that meet in free space, over what each of them has."""
    changes = [drifts(motion)[1] for motion in (simulate(cluster(seed, "box", friction=0.5)) for seed in range(count))
               if motion.regime_switches]
    return [(f"angular momentum of {len(changes)} clusters of six boxes handed over to soft contacts, changed by",
             f"{np.median(changes):.1e} at the median, {max(changes):.1e} at most")]


def main() -> None:
    rows = drop_rows() + load_rows() + thread_rows() + crowd_rows() + island_rows() + turning_rows()
    print("\n".join(f"{name}: {value}" for name, value in rows))
    put("The engine (`benchmarks/engine.py`)", rows)


if __name__ == "__main__":
    main()
