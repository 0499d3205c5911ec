"""Fits, searches and what may be wrong, with a stop that Ctrl+C reaches and that keeps the best so far."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any, TypeVar

from yapa.case.changed_numbers import with_numbers
from yapa.case.model import Case
from yapa.fitting import Cancel, FitResult, Progress
from yapa.fitting import fit as _fit
from yapa.fitting.confidence.validation import ValidationReport
from yapa.fitting.confidence.validation import trust as _trust
from yapa.fitting.targets.solutions import Solutions
from yapa.fitting.targets.solve import solve as _solve
from yapa.fitting.targets.step_correction import corrected as _corrected
from yapa.fitting.tracks.takes import with_takes
from yapa.interrupt import stopping
from yapa.session.ledger import add_trial, fit_trial

_Found = TypeVar("_Found")


def kept(run: Callable[..., _Found], cancel: Cancel | None, *args: Any, **options: Any) -> _Found:
    """Return what something that hears a stop found; Ctrl+C stops it, and what it found so far is its result.

    Parameters
    ----------
    run : takes ``cancel`` beside what follows
    cancel : stops it where it is set
    args, options : handed on
    """
    stop = cancel or Cancel()
    with stopping(stop.flag, stop.set):
        return run(*args, cancel=stop, **options)


@wraps(_fit)
def fit(case: Case, progress: Callable[[Progress], None] | None = None, cancel: Cancel | None = None, **options: Any) -> FitResult:
    return kept(_fit, cancel, case, progress, **options)


@wraps(_solve)
def solve(case: Case, progress: Callable[[Progress], None] | None = None, cancel: Cancel | None = None, **options: Any
          ) -> Solutions:
    return kept(_solve, cancel, case, progress, **options)


@wraps(_trust)
def trust(case: Case, progress: Callable[[Progress], None] | None = None, cancel: Cancel | None = None,
          **options: Any) -> ValidationReport:
    return kept(_trust, cancel, case, progress, **options)


@wraps(_corrected)
def corrected(case: Case, progress: Callable[[Progress], None] | None = None, cancel: Cancel | None = None, **options: Any
              ) -> Solutions:
    return kept(_corrected, cancel, case, progress, **options)


def with_result(case: Case, result: FitResult) -> Case:
    """Return the case with the fitted values set and the fit kept as a trial.

    Parameters
    ----------
    case : the case
    result : what the fit found
    """
    fitted = with_takes(with_numbers(case, result.values), result)
    return add_trial(fitted, fit_trial(fitted, result))
