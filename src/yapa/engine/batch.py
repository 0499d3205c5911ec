"""Many runs of one case: the same scene at many sets of values, in threads.

The case is compiled once and never copied; a run writes only the rows its values touch. What is
read off a motion is kept, the motion itself is not. The order and every bit of the results are the
same at any number of threads.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from concurrent.futures import Executor, ThreadPoolExecutor
from typing import Any

import numpy as np

from yapa.case.model import Case
from yapa.engine.runner import RawRun
from yapa.engine.simulate import READ_RATE, Sampling, motion_of, program_for, sample_times, sampling
from yapa.errors import bad_input
from yapa.motion import Array, Motion

BLOCK = 16
"""Rows that one job carries, in a light scene in one compiled call: handing each over by itself takes as long as to run it."""


def simulate_many(
    case: Case,
    paths: Sequence[str],
    values: Array,
    read: Callable[[Motion], Any] | None = None,
    *,
    times: Array | None = None,
    threads: int | None = None,
    executor: Executor | None = None,
    cancel: np.ndarray | None = None,
) -> list[Any]:
    """Run a case once for every row of values.

    Parameters
    ----------
    case : the case
    cancel : stops the work where it is set
    paths : (P,) paths of the numbers that change
    values : (N, P)
    read : what to keep of each motion; without it the motions themselves are returned
    times : sample times [s]; by default the case's duration at its output rate
    threads : how many; by default as many as there are processors
    executor : runs the jobs instead of threads of its own

    Returns
    -------
    list
        N motions, or N of what ``read`` gave.

    Raises
    ------
    InputError
        If a path does not exist or the shapes do not fit.
    """
    rows = np.atleast_2d(np.asarray(values, dtype=float))
    if rows.shape[1] != len(paths):
        raise bad_input("values", f"{rows.shape[1]} columns", f"{len(paths)}, one for each path")
    program = program_for(case)
    for path in paths:
        program.affected_rows(path)
    if times is None:
        times = sample_times(case.duration, case.output_rate if read is None else READ_RATE)
    times = np.ascontiguousarray(times, dtype=float)
    end = max(case.duration, float(times[-1]))
    sampled = sampling(times, end, len(program.force_driven)) if read is None else Sampling(times)

    def one(row: Array) -> Any:
        raw: RawRun = program.run(dict(zip(paths, row.tolist(), strict=True)), sampled.times, end, cancel, read is None,
                                  lean=False)
        motion = motion_of(program, raw, sampled)
        return motion if read is None else read(motion)

    def block(some: Array) -> list[Any]:
        if read is None or not program.is_small:
            return [one(row) for row in some]
        raws = program.run_block([dict(zip(paths, row, strict=True)) for row in some.tolist()], times, end, cancel, lean=False)
        return [read(motion_of(program, raw)) for raw in raws]

    blocks = [rows[k : k + BLOCK] for k in range(0, len(rows), BLOCK)]
    if executor is not None:
        return [answer for done in executor.map(block, blocks) for answer in done]
    with ThreadPoolExecutor(threads or os.cpu_count() or 1) as pool:
        return [answer for done in pool.map(block, blocks) for answer in done]
