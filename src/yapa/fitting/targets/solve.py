"""The search for values that meet the targets of a case."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Executor

from yapa.case.model import Case
from yapa.fitting.problem.cancel import Cancel
from yapa.fitting.problem.problem import MAX_SIMULATIONS
from yapa.fitting.problem.result import Progress
from yapa.fitting.targets.search import Search
from yapa.fitting.targets.solutions import Solutions


def solve(
    case: Case, progress: Callable[[Progress], None] | None = None, cancel: Cancel | None = None, *, most: int = 6,
    threads: int | None = None, executor: Executor | None = None, limit: int = MAX_SIMULATIONS,
) -> Solutions:
    """Find values that meet a case's targets: the nearest to the present ones first, then others. Tracks are left aside.

    Parameters
    ----------
    case : with at least one free unknown and one target
    progress : called with a :class:`Progress` while it goes on, from another thread
    cancel : stops it where it is set; what was found so far is the result
    most : solutions at most
    threads : simulations side by side
    executor : runs batches of simulations
    limit : simulations after which it ends with what it found and the status "limit reached"

    Returns
    -------
    Solutions
        Each with its values in SI units, what every target comes to, and what distinguishes it from the others.

    Raises
    ------
    InputError
        If nothing is free or nothing is wanted.

    Notes
    -----
    Differential evolution (Storn & Price, Journal of Global Optimization 11, 1997) over the ranges, minimum-norm steps to the
    targets,
    and sequential quadratic programming for the least change (Nocedal & Wright, 2006, ch. 18). See ``docs/fit.md``.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> found = solve(load(DATA / "orange-wanted.yapa"), most=1)
    >>> found.found[0].met
    True
    """
    return Search(case, progress, cancel, limit).run(most, threads, executor)
