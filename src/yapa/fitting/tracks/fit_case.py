"""The fit of a case: over all its takes, or of its one recording."""

from __future__ import annotations

import logging
from collections.abc import Callable
from concurrent.futures import Executor

from yapa.case.model import Case
from yapa.fitting.problem.cancel import Cancel
from yapa.fitting.problem.problem import MAX_SIMULATIONS
from yapa.fitting.problem.result import FitResult, Progress
from yapa.fitting.tracks.fit import Fit
from yapa.fitting.tracks.takes import fit_takes

log = logging.getLogger("yapa.fitting")


def fit(case: Case, progress: Callable[[Progress], None] | None = None, cancel: Cancel | None = None, *,
        executor: Executor | None = None, threads: int | None = None, limit: int = MAX_SIMULATIONS) -> FitResult:
    """Find the unknowns of a case from its evidence, over all its takes where it has some.

    Parameters
    ----------
    case : with at least one free unknown, and tracks or targets
    progress : called with a :class:`Progress` while it goes on, from another thread
    cancel : stops it where it is set; the best so far is the result
    executor : runs batches of simulations; threads of its own (as many as processors, or ``threads``) if left out
    threads : simulations side by side
    limit : simulations after which it ends with the best so far and the status "limit reached"; of every take's own fit

    Returns
    -------
    FitResult
        Values in SI units with 95% intervals, how it ended, misfit in standard deviations, findings.

    Raises
    ------
    InputError
        If nothing is free, there is no evidence, or two unknowns cannot be told apart by any evidence.

    Notes
    -----
    Starts from closed forms of the flights, then Levenberg-Marquardt with Broyden updates (Nocedal & Wright, Numerical
    Optimization,
    2006, ch. 10); intervals by profile likelihood (Venzon & Moolgavkar, Applied Statistics 37, 1988). See ``docs/fit.md``.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> result = fit(load(DATA / "orange-drop.yapa"))
    >>> result.stopped
    'converged'
    >>> round(result.estimates["pairs.rind+pad.restitution"].value, 2)
    0.74
    """
    log.info("fitting %d unknowns to %d tracks and %d targets", sum(not u.fixed for u in case.unknowns), len(case.tracks),
             len(case.targets))
    if case.table is not None or case.curves:
        from yapa.fitting.tables.fit_table import fit_table  # which loads statistics that nothing else needs

        result = fit_table(case, progress, cancel, threads, limit)
    elif case.takes:
        result = fit_takes(case, lambda one: Fit(one, None, cancel, executor, threads, limit).run(), progress, cancel, limit)
    else:
        result = Fit(case, progress, cancel, executor, threads, limit).run()
    log.info("%s after %d simulations and %.2f s", result.stopped, result.simulations, result.seconds)
    return result
