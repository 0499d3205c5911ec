"""The response of outcomes to one or two unknowns (or more, at Sobol points): what a knob does, over its whole range.

Runs are independent and go through one executor in batches, so results stream and a stop keeps what is there. Most outcomes are
told by the compiled engine, run and read without the interpreter in between; the others are read off motions.
"""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor, ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from functools import lru_cache
from time import perf_counter

import numpy as np
from scipy.stats import qmc

from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.case.paths import check_values, get_number
from yapa.case.quantities import quantity_of
from yapa.engine import program_for, sample_times
from yapa.engine.batch import BLOCK
from yapa.engine.program import RawRun
from yapa.engine.simulate import motion_of
from yapa.engine.telling import can_tell, tell
from yapa.errors import bad_input
from yapa.fitting.problem.cancel import Cancel
from yapa.motion import Array
from yapa.outcomes import read_target
from yapa.outcomes.asked import Asked
from yapa.outcomes.told import TOLD, is_told, times_of

BATCH = 64
"""Runs between two looks at whether to stop."""
TOLD_BATCH, TOLD_BLOCK = 1024, 256
"""The same where runs are told (a stop is heard inside them), and how many a job has at most."""
RATE = 240.0
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

    ``stopped`` if not whole; ``threads`` that its last batches ran in (0: those of another executor); ``missing`` says of every
    outcome that does not occur everywhere why it does not where it first does not.
    """

    axes: tuple[Axis, ...]
    labels: tuple[str, ...]
    values: Array
    outcomes: Array
    stopped: bool = False
    threads: int = 1
    missing: dict[str, str] = field(default_factory=dict)


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
    check_values(case, {path: a})
    check_values(case, {path: b})
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
    threads : by default as many as pay: all where runs are told; else more than one only if the first batch spent its time in
        compiled code
    executor : runs the blocks instead of threads of its own; one that is not of threads gets the case as text
    progress : called with runs done and runs in all
    """
    values = points(axes, count, sobol, seed)
    sweeper = _Sweeper(case, [axis.path for axis in axes], asked, cancel)
    rows = np.zeros((0, len(asked)))
    took = 0 if executor is not None else threads or ((os.cpu_count() or 1) if sweeper.told else 1)
    own = ThreadPoolExecutor(took) if took else None
    begun, spent, done = perf_counter(), sweeper.program.spent, 0
    try:
        while done < len(values) and not (cancel is not None and cancel.is_set()):
            if done and own is not None and threads is None and took == 1 and (
                sweeper.program.spent - spent > PAYS * (perf_counter() - begun)):
                own.shutdown()
                took = os.cpu_count() or 1
                own = ThreadPoolExecutor(took)
            batch = values[done : done + sweeper.batch]
            found = sweeper.over(batch, executor or own, took or os.cpu_count() or 1)
            if cancel is not None and cancel.is_set():
                break  # some of these runs may not be whole
            rows = np.concatenate([rows, found])
            done = len(rows)
            if progress is not None:
                progress(done, len(values))
    finally:
        if own is not None:
            own.shutdown()
    absent = [(k, np.flatnonzero(np.isnan(rows[:, k]))) for k in range(len(asked))]
    missing = {asked[k].label: sweeper.reason(values[rows_without[0]], k) for k, rows_without in absent if len(rows_without)}
    return Response(tuple(axes), tuple(t.label for t in asked), values[:done], rows, done < len(values), took, missing)


class _Sweeper:
    """What every run of a sweep has in common."""

    def __init__(self, case: Case, paths: list[str], asked: Sequence[Target], cancel: Cancel | None = None) -> None:
        ties = [(k, other) for k, path in enumerate(paths) for u in case.unknowns if u.path == path for other in u.tied]
        self._columns = [*range(len(paths)), *(k for k, _ in ties)]
        self.swept = paths
        self.case, self.paths, self.asked = case, [*paths, *(other for _, other in ties)], list(asked)
        self.bodies = [_body(case, target) for target in asked]
        self.program, self.times = program_for(case), sample_times(case.duration, RATE)
        self.end = max(case.duration, float(self.times[-1]))
        self._flag = cancel.flag if cancel is not None else None
        self.told = len(set(self.bodies)) == 1 and all(is_told(target) for target in asked) and can_tell(self.program, self.paths)
        self.batch = TOLD_BATCH if self.told else BATCH

    def over(self, batch: Array, executor: Executor | None, workers: int) -> Array:
        """Outcomes (N, K) of a batch, shared among so many workers."""
        if executor is None:
            return self.outcomes(batch)
        size = max(BLOCK, min(TOLD_BLOCK, -(-len(batch) // workers))) if self.told else BLOCK
        blocks = [batch[k : k + size] for k in range(0, len(batch), size)]
        if isinstance(executor, ThreadPoolExecutor):
            return np.concatenate(list(executor.map(self.outcomes, blocks)))
        texts = [self.case.model_dump_json(), json.dumps(self.swept), json.dumps([t.model_dump_json() for t in self.asked])]
        return np.concatenate(list(executor.map(_far_outcomes, *([text] * len(blocks) for text in texts), blocks)))

    def outcomes(self, rows: Array) -> Array:
        """Outcomes (N, K) at rows of values: told by compiled code where it can, else read off one motion after another."""
        rows = self._tied(rows)
        out = np.full((len(rows), len(self.asked)), np.nan)
        left = np.arange(len(rows))
        if self.told:
            at = [times_of(target) for target in self.asked]
            told = tell(self.program, self.paths, rows, self.times, self.end, self.bodies[0], sum(at, ()), self._flag)
            first = 0
            for k, (target, when) in enumerate(zip(self.asked, at, strict=True)):
                seen = told.seen[:, first : first + len(when)]
                out[:, k] = TOLD[target.outcome](replace(told, seen=seen), Asked.of(target))
                first += len(when)
            left = (~told.whole).nonzero()[0]
        run = self.program.run_block if self.program.light else self._one_by_one
        for k in range(0, len(left), BLOCK):
            some = left[k : k + BLOCK]
            sets = [dict(zip(self.paths, row, strict=True)) for row in rows[some].tolist()]
            for i, raw in zip(some, run(sets, self.times, self.end, self._flag, self.told), strict=True):
                motion = motion_of(self.program, raw)
                for j, (target, body) in enumerate(zip(self.asked, self.bodies, strict=True)):
                    value = read_target(motion, body, target).value
                    out[i, j] = np.nan if value is None else value
        return out

    def _one_by_one(
        self, sets: list[dict[str, float]], times: Array, end: float, cancel: np.ndarray | None, lean: bool
    ) -> Iterator[RawRun]:
        for values in sets:
            yield self.program.run(values, times, end, cancel, False, lean)

    def reason(self, row: Array, k: int) -> str:
        """Why an outcome does not occur with a row of values."""
        values = dict(zip(self.paths, self._tied(row[None])[0].tolist(), strict=True))
        motion = motion_of(self.program, self.program.run(values, self.times, self.end, self._flag))
        reading = read_target(motion, self.bodies[k], self.asked[k])
        return reading.missing or motion.status

    def _tied(self, rows: Array) -> Array:
        """Rows (N, P) with the values of what is tied to a swept number behind them."""
        return rows[:, self._columns]


@lru_cache(maxsize=4)
def _sweeper_of(case: str, paths: str, asked: str) -> _Sweeper:
    return _Sweeper(Case.model_validate_json(case), json.loads(paths), [Target.model_validate_json(t) for t in json.loads(asked)])


def _far_outcomes(case: str, paths: str, asked: str, rows: Array) -> Array:
    return _sweeper_of(case, paths, asked).outcomes(rows)


def _body(case: Case, target: Target) -> str:
    movers = case.movers()
    if target.body is None and len(movers) == 1:
        return movers[0]
    if target.body not in movers:
        raise bad_input(f"outcome {target.label}", f"the body {target.body!r}", f"one of {', '.join(movers)}, before the outcome")
    return target.body
