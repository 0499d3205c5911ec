"""The response of outcomes to one or two unknowns (or more, at Sobol points): what a knob does, over its whole range.

Runs are independent and go through one executor in batches, so results stream and a stop keeps what is there.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor, ThreadPoolExecutor
from dataclasses import dataclass
from time import perf_counter

import numpy as np
from scipy.stats import qmc

from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.case.paths import get_number, quantity_of
from yapa.engine import program_for, sample_times, simulate_many
from yapa.errors import bad_input
from yapa.fitting.problem import Cancel
from yapa.motion import Array, Motion
from yapa.outcomes import Reading, read_target

BATCH = 64
RATE = 120.0
"""Samples a second of a swept run: as those that targets are read off."""
MOST = 100_000
PAYS = 0.4
"""Of the time, in compiled code: below this threads wait for each other more than they help."""


@dataclass(frozen=True)
class Axis:
    """A number that is swept from ``low`` to ``high``."""

    path: str
    low: float
    high: float
    log: bool = False

    def at(self, share: Array) -> Array:
        """Values at shares of the range, 0 … 1."""
        if self.log:
            return np.asarray(self.low * (self.high / self.low) ** share)
        return self.low + share * (self.high - self.low)


@dataclass(frozen=True)
class Response:
    """Swept values (N, P) and what every outcome was there (N, K); NaN where it did not occur.

    ``stopped`` if not whole; ``threads`` that its last batches ran in (0: those of another executor).
    """

    axes: tuple[Axis, ...]
    labels: tuple[str, ...]
    values: Array
    outcomes: Array
    stopped: bool = False
    threads: int = 1


def axis_of(case: Case, path: str, low: float | None = None, high: float | None = None) -> Axis:
    """An axis over a range, by default the unknown's own, or the usual one of its kind.

    Raises
    ------
    InputError
        If there is no such number, or the range does not rise.
    """
    get_number(case, path)
    unknown = next((u for u in case.unknowns if u.path == path), None)
    quantity = quantity_of(path)
    a = low if low is not None else (unknown.low if unknown else quantity.low)
    b = high if high is not None else (unknown.high if unknown else quantity.high)
    if not a < b:
        raise bad_input(path, f"the range {a:g} to {b:g}", "a range that rises")
    log = (unknown.scale if unknown else quantity.scale) == "log"
    if log and a <= 0:
        raise bad_input(path, f"a range from {a:g}", "one above zero; this number is swept on a logarithmic scale")
    return Axis(path, a, b, log)


def points(axes: Sequence[Axis], count: int, sobol: bool, seed: int) -> Array:
    """Swept values: a grid of ``count`` along each axis, or ``count`` Sobol points. Shape (N, P)."""
    total = count if sobol else count ** len(axes)
    if not count >= 2 or total > MOST:
        raise bad_input("count", f"{total} runs", f"from 2 to {MOST}")
    if sobol:
        shares = qmc.Sobol(len(axes), seed=seed).random(count)
    else:
        grid = np.meshgrid(*[np.linspace(0.0, 1.0, count)] * len(axes), indexing="ij")
        shares = np.column_stack([g.ravel() for g in grid])
    return np.column_stack([axis.at(shares[:, k]) for k, axis in enumerate(axes)])


def sweep(
    case: Case, axes: Sequence[Axis], asked: Sequence[Target], count: int = 21, *, sobol: bool = False, seed: int = 0,
    threads: int | None = None, executor: Executor | None = None, cancel: Cancel | None = None,
    progress: Callable[[int, int], None] | None = None,
) -> Response:
    """Outcomes over a range of one number or several.

    Parameters
    ----------
    asked : targets; only which outcome they ask for counts
    count : points along each axis, or Sobol points in all
    threads : by default as many as pay: more than one only where the first batch spent its time in compiled code
    progress : called with runs done and runs in all
    """
    values = points(axes, count, sobol, seed)
    bodies = [_body(case, target) for target in asked]
    rows: list[list[float]] = []
    times = sample_times(case.duration, RATE)

    def read(motion: Motion) -> list[Reading]:
        return [read_target(motion, body, target) for target, body in zip(asked, bodies, strict=True)]

    took = 0 if executor is not None else threads or 1
    own = ThreadPoolExecutor(took) if took else None
    program, paths = program_for(case), [axis.path for axis in axes]
    begun, spent = perf_counter(), program.spent
    try:
        for k, batch in enumerate(_batches(values)):
            if cancel is not None and cancel.is_set():
                break
            if k == 1 and own is not None and threads is None and program.spent - spent > PAYS * (perf_counter() - begun):
                own.shutdown()
                took = os.cpu_count() or 1
                own = ThreadPoolExecutor(took)
            found = simulate_many(case, paths, batch, read, times=times, executor=executor or own)
            rows += [[np.nan if r.value is None else r.value for r in readings] for readings in found]
            if progress is not None:
                progress(len(rows), len(values))
    finally:
        if own is not None:
            own.shutdown()
    done = np.array(rows, dtype=float).reshape(len(rows), len(asked))
    return Response(tuple(axes), tuple(t.label for t in asked), values[: len(rows)], done, len(rows) < len(values),
                    took)


def _batches(values: Array) -> Iterator[Array]:
    for k in range(0, len(values), BATCH):
        yield values[k : k + BATCH]


def _body(case: Case, target: Target) -> str:
    movers = case.movers()
    if target.body is None and len(movers) == 1:
        return movers[0]
    if target.body not in movers:
        raise bad_input(f"outcome {target.label}", f"the body {target.body!r}", f"one of {', '.join(movers)}, before the outcome")
    return target.body
