"""The public API: the same calls the window and the command line make."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import wraps
from math import cos, radians, sin
from pathlib import Path
from typing import Any, TypeVar

import numpy as np

from yapa.case.model import Case
from yapa.case.paths import with_numbers
from yapa.case.takes import case_of
from yapa.case.unknowns import Estimate
from yapa.engine import program_for, simulate
from yapa.errors import bad_input
from yapa.findings import Finding
from yapa.findings import check as find
from yapa.fitting import Cancel, FitResult, Prepared, Progress, Setup, prepare
from yapa.fitting import fit as _fit
from yapa.fitting.compare import compare
from yapa.fitting.compare import corrected as _corrected
from yapa.fitting.guess.seen import look
from yapa.fitting.problem import Problem
from yapa.fitting.pull import Pull
from yapa.fitting.solve import Solutions
from yapa.fitting.solve import solve as _solve
from yapa.fitting.takes import with_takes
from yapa.fitting.trust import Trust
from yapa.fitting.trust import trust as _trust
from yapa.formats.any_track import read_any
from yapa.formats.case_file import load_case, save_case
from yapa.formats.importing import Said
from yapa.interrupt import stopping
from yapa.motion import Motion
from yapa.outcomes import SHORT, Reading, measure
from yapa.outcomes.energies import ending
from yapa.outcomes.theory import Prediction, predictions

_Found = TypeVar("_Found")
__all__ = [
    "Calibration", "Pull", "calibrate", "check", "compare", "corrected", "ending", "fit", "load", "measure_motion",
    "measured_motions", "save", "simulate", "solve", "trust", "with_numbers",
]


def _kept(run: Callable[..., _Found], cancel: Cancel | None, *args: Any, **options: Any) -> _Found:
    """Run something that hears a stop; Ctrl+C stops it, and what it found so far is its result."""
    stop = cancel or Cancel()
    with stopping(stop.flag, stop.set):
        return run(*args, cancel=stop, **options)


@wraps(_fit)
def fit(case: Case, progress: Callable[[Progress], None] | None = None, cancel: Cancel | None = None, **options: Any) -> FitResult:
    return _kept(_fit, cancel, case, progress, **options)


@wraps(_solve)
def solve(case: Case, progress: Callable[[Progress], None] | None = None, cancel: Cancel | None = None, **options: Any
          ) -> Solutions:
    return _kept(_solve, cancel, case, progress, **options)


@wraps(_trust)
def trust(case: Case, progress: Callable[[Progress], None] | None = None, cancel: Cancel | None = None, **options: Any) -> Trust:
    return _kept(_trust, cancel, case, progress, **options)


@wraps(_corrected)
def corrected(case: Case, progress: Callable[[Progress], None] | None = None, cancel: Cancel | None = None, **options: Any
              ) -> Solutions:
    return _kept(_corrected, cancel, case, progress, **options)


def load(path: str | Path, allow_outside: bool = False) -> Case:
    """Read a case file and the tracks it names.

    Parameters
    ----------
    allow_outside : whether files outside the case's folder may be read, as tracks that the case names

    Raises
    ------
    InputError
        With everything wrong in it.
    """
    return load_case(Path(path), allow_outside)[0]


def save(case: Case, path: str | Path) -> None:
    """Save a case atomically."""
    save_case(case, Path(path))


def measured_motions(case: Case) -> dict[str, Motion]:
    """Every track of a case as a motion, by the track's name."""
    if not case.tracks:
        return {}
    takes = [case_of(case, take) for take in case.takes] or [case]
    return {seen.data.name: seen.motion for one in takes for seen in look(Problem(one, look_only=True))}


def check(case: Case, run: bool = True, cancel: Cancel | None = None) -> list[Finding]:
    """Findings of a case: what may be wrong, why something does not happen, and what would mend it.

    Raises
    ------
    Cancelled
        If stopping was asked for.
    """
    motion = simulate(case, cancel=None if cancel is None else cancel.flag) if run else None
    if cancel is not None:
        cancel.heed()
    return find(case, motion, cancel.heed if cancel is not None else lambda: None)


def predict(case: Case, motion: Motion) -> dict[str, dict[str, Prediction]]:
    """What closed forms say of every moving body of a simulated motion."""
    program = program_for(case)

    def law(a: str, b: str) -> dict[str, float]:
        return program.law_between(case.bodies[a].shapes[0].surface, case.bodies[b].shapes[0].surface)

    return {body: predictions(motion, body, law) for body in motion.movers() if body in motion.paths}


def measure_motion(motion: Motion, every: bool = False) -> dict[str, dict[str, Reading]]:
    """Outcomes of every moving body: a first look, or all that need to be told nothing but a number."""
    return {body: measure(motion, body, None if every else SHORT) for body in motion.movers() if body in motion.paths}


@dataclass(frozen=True)
class Calibration:
    """A finished calibration: the result with short names, the case with the values in it, and what was assumed."""

    result: FitResult
    case: Case
    estimates: dict[str, Estimate]
    assumed: dict[str, float | str]

    def as_dict(self) -> dict[str, Any]:
        """JSON-ready, keyed by the short names."""
        out = replace(self.result, estimates=self.estimates).as_dict()
        return {**out, "assumed": self.assumed}


def _short_estimates(prepared: Prepared, setup: Setup, result: FitResult) -> dict[str, Estimate]:
    """Estimates by short name; a speed along a slope also as its world components."""
    out: dict[str, Estimate] = {}
    for path, e in result.estimates.items():
        name = prepared.short[path]
        if name != "speed":
            out[name] = e
            continue
        out["velocity"] = e
        angle = radians(setup.slope or 0.0)
        for axis, share in (("x", cos(angle)), ("z", sin(angle))):
            ends = [None if v is None else v * share for v in (e.low, e.high)]
            if share < 0:
                ends.reverse()
            out[f"velocity.{axis}"] = e.model_copy(update={
                "value": e.value * share, "std": None if e.std is None else e.std * abs(share), "low": ends[0],
                "high": ends[1]})
    return out


def calibrate(
    track: str | Path, setup: Setup, progress: Callable[[Progress], None] | None = None, cancel: Cancel | None = None,
    said: Said | None = None, **options: Any,
) -> Calibration:
    """From a track to numbers.

    Parameters
    ----------
    track : any table file: text, a spreadsheet, Parquet
    setup : shape, support, unknowns, fixed values, σ
    said : what the file does not say of itself: columns, units, rate …
    options : of the fit

    Examples
    --------
    >>> done = calibrate("drop.csv", Setup(radius=0.038, mass=0.2, unknown={"restitution": None}))
    >>> done.estimates["restitution"].value
    """
    path = Path(track)
    if path.suffix.lower() == ".yapa":
        raise bad_input(str(path), "a case file", "a track; for a case use `yapa fit`")
    read = read_any(path, None, said)
    prepared = prepare(read.samples, replace(setup, title=path.stem) if setup.title == "calibration" else setup)
    result = fit(prepared.case, progress, cancel, **options)
    if read.notices:
        result = replace(result, findings=[*read.notices, *result.findings])
    return Calibration(result, with_result(prepared.case, result), _short_estimates(prepared, setup, result),
                       prepared.assumed)


def with_result(case: Case, result: FitResult) -> Case:
    """The case with the fitted values set and the fit kept as a trial."""
    from yapa.trials import add_trial, fit_trial

    fitted = with_takes(with_numbers(case, result.values), result)
    return add_trial(fitted, fit_trial(fitted, result))


def contact_rows(motion: Motion) -> list[dict[str, Any]]:
    """The contact log as plain rows."""
    return [
        {"time": c.time, "time_std": c.time_std, "body": c.body, "partner": c.partner,
         "point": np.asarray(c.point).tolist(), "normal": np.asarray(c.normal).tolist(), "approach_speed": c.approach,
         "rebound_speed": None if np.isnan(c.rebound) else c.rebound, "slip_before": c.slip_before, "slip_after": c.slip_after,
         "normal_impulse": c.normal_impulse, "friction_impulse": c.friction_impulse}
        for c in motion.contacts
    ]


def reading_dict(reading: Reading) -> dict[str, Any]:
    """A reading as plain data."""
    return {"value": reading.value, "std": reading.std, "missing": reading.missing}
