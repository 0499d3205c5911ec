"""``python -m benchmarks.apart [COUNT] [SEED]``: the whole suite; rewrites its section of ``docs/benchmarks.md``."""

from __future__ import annotations

import os
import pickle
import sys
import time
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

from benchmarks.apart.families import FAMILIES, draws
from benchmarks.apart.fits import STARTS, Score, one
from benchmarks.pages import put


def jobs(seed: int, count: int, starts: int, families=FAMILIES):
    """Every family with as many truths, each with its draws."""
    for k, name in enumerate(families):
        for i, drawn in enumerate(draws(np.random.default_rng([seed, k]), count)):
            yield name, (seed + 1000 * k + i) % 2**31, drawn, starts


def report(scores: list[Score]) -> list[tuple[str, ...]]:
    """What is asked of the suite."""
    by, kinds, bounds = defaultdict(list), defaultdict(list), []
    for s in scores:
        by[s.family].append(s)
        for kind, ok in s.intervals:
            kinds[kind].append(ok)
        bounds += [ok for _, ok in s.bounds]
    every = [ok for oks in kinds.values() for ok in oks]
    many = {kind: np.mean(oks) for kind, oks in kinds.items() if len(oks) >= 200}
    rows = [(name, f"{sum(s.ended_well for s in got)} of {len(got)}", f"{np.median([s.simulations for s in got]):.0f}")
            for name, got in by.items()]
    rows += [
        ("all", f"{np.mean([s.ended_well for s in scores]):.1%} of {len(scores)}",
         f"{np.median([s.simulations for s in scores]):.0f} / {np.percentile([s.simulations for s in scores], 95):.0f}"),
        ("told more than six deviations off", str(sum(len(s.false) for s in scores)), ""),
        ("95% intervals that hold the truth", f"{np.mean(every):.1%} of {len(every)}", ""),
        ("the least of those with 200 and more",
         " ".join(f"{k} {v:.1%}" for k, v in [min(many.items(), key=lambda i: i[1])]) if many else "", ""),
        ("one-sided bounds that hold", f"{np.mean(bounds):.1%} of {len(bounds)}" if bounds else "none", ""),
        ("not converged", str(sum(s.stopped != "converged" for s in scores)), "")]
    return rows


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 50
    seed = int(sys.argv[2]) if len(sys.argv) > 2 else int.from_bytes(os.urandom(3), "big")
    begun = time.time()
    print(f"seed {seed}", flush=True)
    scores = []
    with ProcessPoolExecutor(2) as pool:
        for s in pool.map(one, jobs(seed, count, STARTS), chunksize=2):
            scores.append(s)
            if not s.ended_well or s.false:
                print(s.family, s.seed, s.drawn, f"cost {s.cost:.1f} least {s.least:.1f} left out {s.outliers}", *s.false,
                      flush=True)
    if kept := os.environ.get("APART_LOG"):
        Path(kept).write_bytes(pickle.dumps(scores))
    rows = report(scores)
    print("\n".join(": ".join(row) for row in rows), f"\n{time.time() - begun:.0f} s")
    put("Recordings made apart (`benchmarks/apart`)", rows, f"Seed {seed}.", ("set-up", "ended well", "simulations"))


if __name__ == "__main__":
    main()
