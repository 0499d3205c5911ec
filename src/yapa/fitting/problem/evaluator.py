"""Many residual vectors at once: in threads of this process, or by any executor of ``concurrent.futures``.

Threads share the compiled case and stop within a step when asked to. Any other executor (processes, a cluster) gets the case as
text, compiles it once a worker, and is asked to stop between batches. The result is the same, bit for bit, and in the same order.
"""

from __future__ import annotations

import os
from collections.abc import Iterator
from concurrent.futures import Executor, ThreadPoolExecutor
from contextlib import contextmanager
from functools import lru_cache

import numpy as np

from yapa.case.model import Case
from yapa.fitting.problem.cancel import Cancelled
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Array

CHUNK = 8
"""Rows a job of another executor gets at once."""


class ParallelEvaluator:
    """Evaluates rows of vectors of one problem."""

    def __init__(self, problem: FitProblem, executor: Executor, local: bool) -> None:
        self.problem = problem
        self._executor, self._local = executor, local
        self._text = "" if local else problem.case.model_dump_json()

    def residuals(self, rows: Array) -> list[Array]:
        """Return residuals at every row (N, P).

        Parameters
        ----------
        rows : rows of numbers

        Raises
        ------
        Cancelled
            If stopping was asked for.
        """
        problem = self.problem
        if problem.cancel.is_set():
            raise Cancelled
        if self._local:
            return list(self._executor.map(problem.residuals, rows))
        chunks = [rows[k : k + CHUNK] for k in range(0, len(rows), CHUNK)]
        weights = problem.robust_weights
        found = self._executor.map(_far_residuals, [self._text] * len(chunks), chunks, [weights] * len(chunks))
        out = [r for part in found for r in part]
        problem.count(len(rows))
        return out


@contextmanager
def evaluator_of(problem: FitProblem, executor: Executor | None = None, threads: int | None = None) -> Iterator[ParallelEvaluator]:
    """Return runs by an executor, or in threads that end with the block.

    Parameters
    ----------
    problem : the least-squares problem
    executor : runs batches of simulations
    threads : runs side by side
    """
    if executor is not None and not isinstance(executor, ThreadPoolExecutor):
        yield ParallelEvaluator(problem, executor, local=False)
    elif executor is not None:
        yield ParallelEvaluator(problem, executor, local=True)
    else:
        with ThreadPoolExecutor(threads or os.cpu_count() or 1) as own:
            yield ParallelEvaluator(problem, own, local=True)


@lru_cache(maxsize=4)
def _problem_of(text: str) -> FitProblem:
    return FitProblem(Case.model_validate_json(text))


def _far_residuals(text: str, rows: Array, weights: Array | None) -> list[Array]:
    problem = _problem_of(text)
    problem.robust_weights = weights
    return [np.asarray(problem.residuals(row)) for row in rows]
