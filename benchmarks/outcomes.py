"""How often an outcome of a noisy track lies within three of its own standard deviations of the truth.

Three situations at 30, 60 and 120 frames a second, 1 mm and 0.01 rad of noise, many seeds. An outcome may say "not
resolved"; it may not be wrong. Prints a table and puts it into ``docs/benchmarks.md``.
"""

from __future__ import annotations

import sys
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor

import numpy as np

from benchmarks.pages import put
from benchmarks.situations import SITUATIONS, tracked, truths
from yapa.engine import simulate
from yapa.outcomes import read

BAR = 0.985


def cell(job):
    """Of one situation at one rate: outcome → (within, said)."""
    situation, rate, seeds = job
    motion = simulate(SITUATIONS[situation])
    truth = truths(motion)
    rng = np.random.default_rng(1000 + rate)
    told = defaultdict(lambda: [0, 0])
    for _ in range(seeds):
        measured = tracked(motion, rate, rng)
        for (name, asked), true in truth.items():
            reading = read(measured, name, "b", query=asked)
            if reading.value is None:
                continue
            key = f"{name} {asked.index}" if asked.index else name
            told[key][1] += 1
            told[key][0] += true.value is not None and abs(reading.value - true.value) <= 3 * max(reading.std or 0.0, 1e-9)
    return situation, rate, dict(told)


def main(seeds=200):
    """Run all cells, two at a time."""
    jobs = [(s, r, seeds) for s in SITUATIONS for r in (30, 60, 120)]
    rows = []
    with ProcessPoolExecutor(2) as pool:
        for situation, rate, told in pool.map(cell, jobs):
            within, said = (sum(v[k] for v in told.values()) for k in (0, 1))
            short = sorted((1 - (n - w) / seeds, name, n) for name, (w, n) in told.items() if 1 - (n - w) / seeds < BAR)
            line = "; ".join(f"{name} {share:.1%}" for share, name, n in short) or "none"
            rows.append((f"{situation} at {rate} fps", f"{within / said:.2%} of {said}; under 98.5% of seeds: {line}"))
            print(*rows[-1], flush=True)
    put("Outcomes of noisy tracks (`benchmarks/outcomes.py`)", rows, f"{seeds} seeds a row.")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 200)
