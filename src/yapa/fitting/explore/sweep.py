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
from yapa.case.outcome_text import FORMULA
from yapa.case.parameter_path import canonical_path
from yapa.case.parameters import check_values, get_number
from yapa.case.quantities import quantity_of
from yapa.case.unknowns import Unknown
from yapa.engine import program_for, sample_times
from yapa.engine.batch import BLOCK
from yapa.engine.batch_summary import summarise_batch, supports_batch
from yapa.engine.runner import RawRun
from yapa.engine.simulate import motion_of
from yapa.errors import bad_input
from yapa.fitting.problem.cancel import Cancel
from yapa.motion import Array
from yapa.outcomes import read_target
from yapa.outcomes.batch import BATCH_OUTCOMES, has_batch_form, sample_times_of
from yapa.outcomes.judging import target_body
from yapa.outcomes.query import OutcomeQuery

BATCH = 64
"""Runs between two looks at whether to stop."""
SUMMARY_BATCH = 1024
"""the same where runs are summarised in compiled code, which hears a stop inside them"""
SUMMARY_BLOCK = 256
"""runs of one compiled call at most"""
RATE = 240.0
"""Samples a second of a swept run: as those that targets are read off."""
MAX_POINTS = 100_000
"""points of a sweep"""
MIN_COMPILED_FRACTION = 0.4
"""Of the time, in compiled code: below this threads wait for each other more than they help."""


@dataclass(frozen=True)
class Axis:
    """A number that is swept from ``low`` to ``high``."""

    path: str
    low: float
    high: float
    log: bool = False

    def at(self, fraction: Array) -> Array:
        """Return values at shares of the range, 0 … 1.

        Parameters
        ----------
        fraction : (N,) from 0 to 1
        """
        if self.log:
            return np.asarray(self.low * (self.high / self.low) ** fraction)
        return self.low + fraction * (self.high - self.low)


def unknown_over(axis: Axis) -> Unknown:
    """Return an unknown over the range of an axis.

    Parameters
    ----------
    axis : a number and its range
    """
    return Unknown(path=axis.path, low=axis.low, high=axis.high, transform="log" if axis.log else "linear")


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
    """Return an axis over a range, by default the unknown's own, or the usual one of its kind.

    Parameters
    ----------
    case : the case
    path : path of the number
    low : lower end
    high : upper end

    Raises
    ------
    InputError
        If there is no such number, or the range does not rise.
    """
    get_number(case, path)
    path = canonical_path(path)
    unknown = next((u for u in case.unknowns if u.path == path), None)
    quantity = quantity_of(path)
    a = low if low is not None else (unknown.low if unknown else quantity.low)
    b = high if high is not None else (unknown.high if unknown else quantity.high)
    if not a < b:
        raise bad_input(path, f"the range {a:g} to {b:g}", "a range that rises")
    check_values(case, {path: a})
    check_values(case, {path: b})
    log = (unknown.transform if unknown else quantity.scale) == "log"
    if log and a <= 0:
        raise bad_input(path, f"a range from {a:g}", "one above zero; this number is swept on a logarithmic scale")
    return Axis(path, a, b, log)


def points(axes: Sequence[Axis], count: int, sobol: bool, seed: int) -> Array:
    """Return swept values: a grid of ``count`` along each axis, or ``count`` Sobol points. Shape (N, P).

    Parameters
    ----------
    axes : numbers that are swept
    count : how many
    sobol : whether the points are a Sobol sequence instead of a grid
    seed : of random numbers

    Raises
    ------
    InputError
        If it cannot be used: what was found, and what is expected.
    """
    total = count if sobol else count ** len(axes)
    if not count >= 2 or total > MAX_POINTS:
        raise bad_input("count", f"{total} runs", f"from 2 to {MAX_POINTS}")
    if sobol:
        shares = qmc.Sobol(len(axes), seed=seed).random(count)
    else:
        grid = np.meshgrid(*[np.linspace(0.0, 1.0, count)] * len(axes), indexing="ij")
        shares = np.column_stack([g.ravel() for g in grid])
    return np.column_stack([axis.at(shares[:, k]) for k, axis in enumerate(axes)])


def sweep(
    case: Case, axes: Sequence[Axis], targets: Sequence[Target], count: int = 21, *, sobol: bool = False, seed: int = 0,
    threads: int | None = None, executor: Executor | None = None, cancel: Cancel | None = None,
    progress: Callable[[int, int], None] | None = None,
) -> Response:
    """Return outcomes over a range of one number or several.

    Parameters
    ----------
    case : the case
    axes : the numbers that are swept, and their ranges
    sobol : whether the points are a Sobol sequence instead of a grid
    seed : of random numbers
    cancel : stops the work where it is set
    targets : targets; only which outcome they ask for counts
    count : points along each axis, or Sobol points in all
    threads : by default as many as pay: all where runs are told; else more than one only if the first batch spent its time in
        compiled code
    executor : runs the blocks instead of threads of its own; one that is not of threads gets the case as text
    progress : called with runs done and runs in all
    """
    values = points(axes, count, sobol, seed)
    if any(axis.path.startswith("profile.") for axis in axes):
        return _over_profiles(case, axes, targets, values, threads, cancel, progress)
    sweeper = _Sweeper(case, [axis.path for axis in axes], targets, cancel)
    rows = np.zeros((0, len(targets)))
    took = 0 if executor is not None else threads or ((os.cpu_count() or 1) if sweeper.in_batches else 1)
    own = ThreadPoolExecutor(took) if took else None
    begun, spent, done = perf_counter(), sweeper.program.compiled_seconds, 0
    try:
        while done < len(values) and not (cancel is not None and cancel.is_set()):
            if done and own is not None and threads is None and took == 1 and (
                sweeper.program.compiled_seconds - spent > MIN_COMPILED_FRACTION * (perf_counter() - begun)):
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
    missing_event = [(k, np.flatnonzero(np.isnan(rows[:, k]))) for k in range(len(targets))]
    missing = {targets[k].label: sweeper.reason(values[rows_without[0]], k) for k,
               rows_without in missing_event if len(rows_without)}
    return Response(tuple(axes), tuple(t.label for t in targets), values[:done], rows, done < len(values), took, missing)


def _over_profiles(
    case: Case, axes: Sequence[Axis], targets: Sequence[Target], values: Array, threads: int | None, cancel: Cancel | None,
    progress: Callable[[int, int], None] | None,
) -> Response:
    """The response where a number of the solver profile is swept: every run is of a case of its own."""
    from yapa.fitting.questions.outcomes_at import OutcomesAt

    outcomes = OutcomesAt(case, targets, cancel, threads)
    rows, missing, done = np.zeros((0, len(targets))), {}, 0
    while done < len(values) and not (cancel is not None and cancel.is_set()):
        batch = values[done : done + BATCH]
        for read in outcomes.at([dict(zip([axis.path for axis in axes], row.tolist(), strict=True)) for row in batch]):
            rows = np.concatenate([rows, [[np.nan if r.value is None else r.value for r in read]]])
            missing.update({t.label: r.missing or "" for t, r in zip(targets, read, strict=True)
                            if r.value is None and t.label not in missing})
        done = len(rows)
        if progress is not None:
            progress(done, len(values))
    return Response(tuple(axes), tuple(t.label for t in targets), values[:done], rows, done < len(values), outcomes.threads,
                    missing)


class _Sweeper:
    """What every run of a sweep has in common."""

    def __init__(self, case: Case, paths: list[str], targets: Sequence[Target], cancel: Cancel | None = None) -> None:
        ties = [(k, tie) for k, path in enumerate(paths) for u in case.unknowns if u.path == path for tie in u.ties]
        self._columns = [*range(len(paths)), *(k for k, _ in ties)]
        self._factors = np.array([1.0] * len(paths) + [tie.factor for _, tie in ties])
        self._offsets = np.array([0.0] * len(paths) + [tie.offset for _, tie in ties])
        self.swept = paths
        self.case, self.paths, self.targets = case, [*paths, *(tie.path for _, tie in ties)], list(targets)
        self.bodies = [_body(case, target) for target in targets]
        self.program, self.times = program_for(case), sample_times(case.duration, RATE)
        self.end = max(case.duration, float(self.times[-1]))
        self._flag = cancel.flag if cancel is not None else None
        self.in_batches = (len(set(self.bodies)) == 1 and all(has_batch_form(target) for target in targets)
                           and supports_batch(self.program, self.paths))
        self.batch = SUMMARY_BATCH if self.in_batches else BATCH

    def over(self, batch: Array, executor: Executor | None, workers: int) -> Array:
        """Outcomes (N, K) of a batch, shared among so many workers."""
        if executor is None:
            return self.outcomes(batch)
        size = max(BLOCK, min(SUMMARY_BLOCK, -(-len(batch) // workers))) if self.in_batches else BLOCK
        blocks = [batch[k : k + size] for k in range(0, len(batch), size)]
        if isinstance(executor, ThreadPoolExecutor):
            return np.concatenate(list(executor.map(self.outcomes, blocks)))
        texts = [self.case.model_dump_json(), json.dumps(self.swept), json.dumps([t.model_dump_json() for t in self.targets])]
        return np.concatenate(list(executor.map(_far_outcomes, *([text] * len(blocks) for text in texts), blocks)))

    def outcomes(self, rows: Array) -> Array:
        """Outcomes (N, K) at rows of values: told by compiled code where it can, else read off one motion after another."""
        rows = self._tied(rows)
        out = np.full((len(rows), len(self.targets)), np.nan)
        left = np.arange(len(rows))
        if self.in_batches:
            at = [sample_times_of(target) for target in self.targets]
            batch = summarise_batch(self.program, self.paths, rows, self.times, self.end, self.bodies[0], sum(at, ()), self._flag)
            first = 0
            for k, (target, when) in enumerate(zip(self.targets, at, strict=True)):
                states = batch.states[:, first : first + len(when)]
                out[:, k] = BATCH_OUTCOMES[target.outcome](replace(batch, states=states), OutcomeQuery.of(target))
                first += len(when)
            left = (~batch.is_whole).nonzero()[0]
        run = self.program.run_block if self.program.is_small else self._one_by_one
        for k in range(0, len(left), BLOCK):
            some = left[k : k + BLOCK]
            sets = [dict(zip(self.paths, row, strict=True)) for row in rows[some].tolist()]
            for i, raw in zip(some, run(sets, self.times, self.end, self._flag, self.in_batches), strict=True):
                motion = motion_of(self.program, raw)
                for j, (target, body) in enumerate(zip(self.targets, self.bodies, strict=True)):
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
        reading = read_target(motion, self.bodies[k], self.targets[k])
        return reading.missing or motion.status

    def _tied(self, rows: Array) -> Array:
        """Rows (N, P) with the values of what is tied to a swept number behind them."""
        return np.asarray(rows[:, self._columns] * self._factors + self._offsets)


@lru_cache(maxsize=4)
def _sweeper_of(case: str, paths: str, targets: str) -> _Sweeper:
    return _Sweeper(Case.model_validate_json(case), json.loads(paths), [Target.model_validate_json(t) for t in json.loads(targets)])


def _far_outcomes(case: str, paths: str, targets: str, rows: Array) -> Array:
    return _sweeper_of(case, paths, targets).outcomes(rows)


def _body(case: Case, target: Target) -> str:
    movers = case.dynamic_bodies()
    if target.outcome == FORMULA or target.each is not None:
        return target_body(case, target)
    if target.body is None and len(movers) == 1:
        return movers[0]
    if target.body not in movers:
        raise bad_input(f"outcome {target.label}", f"the body {target.body!r}", f"one of {', '.join(movers)}, before the outcome")
    return target.body
