"""Everything at once: ``python -m benchmarks.fit [COUNT] [PART …]``; rewrites its sections of ``docs/benchmarks.md``."""

from __future__ import annotations

import os
import sys
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor

import numpy as np

from benchmarks.fit import asked, honest, pulling, rivals, supports, thrown, walltime, wanted, wishes
from benchmarks.pages import put


class Suite:
    """One run with fresh seeds."""

    def __init__(self, pool: ProcessPoolExecutor, seed: int, share: float) -> None:
        self.pool, self.seed, self.share = pool, seed, share

    def seeds(self, count: int) -> list[int]:
        return [self.seed + k for k in range(max(4, int(count * self.share)))]

    def thrown(self) -> None:
        rows = []
        for name in thrown.SETS:
            out = list(self.pool.map(thrown.one, [(name, s) for s in self.seeds(100)], chunksize=4))
            calls, total = (np.array([getattr(o, k) for o in out]) for k in ("calls", "total"))
            rows.append(
                (
                    name,
                    "this fit",
                    f"{np.mean([o.success for o in out]):.0%} of {len(out)}",
                    f"{np.median(calls):.0f} / {np.percentile(calls, 95):.0f}",
                    f"{np.median(total):.0f}",
                )
            )
            print(*rows[-1], flush=True)
        for method, word, count in (
            (rivals.many_starts, "SciPy least squares, 10 starts", 20),
            (rivals.evolution, "SciPy differential evolution", 8),
        ):
            for name in ("easy", "mix"):
                good, spent = zip(*self.pool.map(method, [(name, s) for s in self.seeds(count)]), strict=True)
                rows.append(
                    (
                        name,
                        word,
                        f"{np.mean(good):.0%} of {len(good)}",
                        f"{np.median(spent):.0f} / {np.percentile(spent, 95):.0f}",
                        "",
                    )
                )
                print(*rows[-1], flush=True)
        put(
            "Fit 1: thrown sphere, six unknowns",
            rows,
            "Success: as close to the track as the truth, and every number told right. "
            "Simulations: median / 95th percentile up to the answer; in all, with its uncertainty.",
            ("set", "method", "success", "simulations", "in all"),
        )

    def supports(self) -> None:
        rows = []
        for kind in supports.KINDS:
            out = list(self.pool.map(supports.one, [(kind, s) for s in self.seeds(50)]))
            calls = [o.calls for o in out]
            rows.append(
                (
                    kind,
                    f"{np.mean([o.success for o in out]):.0%} of {len(out)}",
                    f"{np.median(calls):.0f} / {np.percentile(calls, 95):.0f}",
                )
            )
            print(*rows[-1], flush=True)
        put("Fit 2: on supports, and two bodies", rows, "", ("situation", "success", "simulations"))

    def honest(self) -> None:
        rows = []
        flags = list(self.pool.map(honest.gripping, self.seeds(100), chunksize=4))
        rows.append((f"all-grip tracks with a two-sided friction, of {len(flags)}", str(sum(not open_ for open_, _ in flags))))
        rows.append(("lower bound of friction holds", f"{np.mean([ok for _, ok in flags]):.0%}"))
        for noise, count in (("plain", 300), ("outliers", 300), ("hanging together", 300)):
            by = defaultdict(list)
            for told in self.pool.map(honest.covered, [(noise, s) for s in self.seeds(count)], chunksize=4):
                for path, ok in told:
                    by[path.split(".", 2)[-1]].append(ok)
            every = [ok for oks in by.values() for ok in oks]
            least = min(by, key=lambda p: np.mean(by[p]))
            rows.append(
                (
                    f"95% intervals that hold the truth, {noise}",
                    f"{np.mean(every):.1%} of {len(every)}; least {least} {np.mean(by[least]):.1%}",
                )
            )
            print(*rows[-1], flush=True)
        for name in honest.NULLS:
            got = list(self.pool.map(honest.null, [(name, s) for s in self.seeds(30)], chunksize=2))
            rows.append((f"null flagged: {name}", f"{np.mean(got):.0%} of {len(got)}"))
            print(*rows[-1], flush=True)
        counts = np.array(list(self.pool.map(honest.falsely_flagged, self.seeds(60), chunksize=2)))
        rows.append(
            ("false flags in throws that tell all six", f"{counts[:, 0].sum() / counts[:, 1].sum():.1%} of {counts[:, 1].sum()}")
        )
        put("Fit 3 – 5: honesty", rows)
        rows = []
        for name in honest.ERRORS:
            got = list(self.pool.map(honest.model_error, [(name, s) for s in self.seeds(40)], chunksize=2))
            rows.append(
                (name, f"{np.mean([raised for raised, _ in got]):.0%} of {len(got)}", f"{np.median([m for _, m in got]):.2f}")
            )
            print(*rows[-1], flush=True)
        put("Fit 9: errors of the model", rows, "", ("error", "a finding speaks of it", "median misfit"))

    def wishes(self) -> None:
        rows, every = [], []
        for name in wanted.FAMILIES:
            got = list(self.pool.map(wishes.first, [(name, s) for s in self.seeds(40)]))
            every += got
            spent = [n for _, n in got]
            brute = (5, 20) if name == "hit and topple" else (12, 60)
            near = [r for r in self.pool.map(wishes.nearness, [(name, s, brute[1]) for s in self.seeds(brute[0])]) if r is not None]
            rows.append(
                (
                    name,
                    f"{np.mean([ok and n <= 600 for ok, n in got]):.1%} of {len(got)}",
                    f"{np.median(spent):.0f} / {np.percentile(spent, 95):.0f}",
                    f"{np.mean(np.array(near) <= 1.05):.0%} of {len(near)}",
                )
            )
            print(*rows[-1], flush=True)
        spent = [n for _, n in every]
        rows.append(
            (
                "all",
                f"{np.mean([ok and n <= 600 for ok, n in every]):.1%} of {len(every)}",
                f"{np.median(spent):.0f} / {np.percentile(spent, 95):.0f}",
                "",
            )
        )
        put(
            "Fit 6: wanted outcomes",
            rows,
            "",
            ("family", "met within 600 simulations", "simulations, median / 95%", "nearest within 5% of brute force"),
        )

    def asked(self) -> None:
        got = list(self.pool.map(asked.answered, asked.ASKED))
        there = [a for a in got if a.anywhere]
        rows = [
            ("called not reachable, where a look everywhere meets all", str(sum(a.false for a in got))),
            ("met, of those that something meets", f"{sum(a.met for a in there)} of {len(there)}"),
            ("called not reachable, of those that nothing meets",
             f"{sum(a.stopped == 'not reachable' for a in got if not a.anywhere)} of {len(got) - len(there)}"),
            ("seconds, median and most", f"{np.median([a.seconds for a in got]):.1f}, {max(a.seconds for a in got):.1f}"),
            ("simulations, median and most", f"{np.median([a.simulations for a in got]):.0f}, {max(a.simulations for a in got)}"),
        ]
        for a in got:
            print(a, flush=True)
        put("Fit 10: thirty wanted outcomes, held against a look everywhere", rows)

    def pulling(self) -> None:
        got = list(self.pool.map(pulling.one, [(k, s) for k in range(len(pulling.PULLED)) for s in self.seeds(20)], chunksize=4))
        close = [c for g in got for c in g["close"]]
        spent = [n for g in got for n in g["spent"]]
        rows = [
            ("reachable frames within 1 mm", f"{np.mean(close):.2%} of {len(close)}"),
            ("simulations a frame, mean and most", f"{np.mean(spent):.1f}, {max(spent)}"),
            (
                "drift of a loop, share of the range: 95% and most",
                f"{np.percentile([g['drift'] for g in got], 95):.1e}, {max(g['drift'] for g in got):.1e}",
            ),
            ("loops that end exactly where they began", f"{np.mean([g['exact'] for g in got]):.0%} of {len(got)}"),
        ]
        for row in rows:
            print(*row, flush=True)
        put("Fit 7: pulling", rows)

    def walltime(self) -> None:
        rows = [(f"fit of {name}", f"{seconds:.2f} s") for name, seconds in walltime.demo_fits().items()]
        took, own, one, two, singles = walltime.map_of_drop()
        rows += [
            ("map of 64 × 64", f"{own:.2f} s"),
            ("the same, over as many single runs / threads it takes by itself", f"{own / (singles / took):.2f} ({took})"),
            ("threads 1 → 2", f"{one / two:.2f}×"),
        ]
        for row in rows:
            print(*row, flush=True)
        put("Fit 8: wall time", rows, "The most that two processors of the machine give over one stands under *The engine*.")


def main() -> None:
    share = float(sys.argv[1]) if len(sys.argv) > 1 else 1.0
    seed = int.from_bytes(os.urandom(3), "big")
    print(f"seed {seed}")
    parts = sys.argv[2:] or ["walltime", "thrown", "supports", "honest", "wishes", "asked", "pulling"]
    with ProcessPoolExecutor(2) as pool:
        for part in parts:
            getattr(Suite(pool, seed, share), part)()


if __name__ == "__main__":
    main()
