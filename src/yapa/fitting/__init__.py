"""Finds the numbers. Sees simulation as a function of a vector."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yapa.lazily import importer

if TYPE_CHECKING:
    from yapa.fitting.problem.cancel import Cancel
    from yapa.fitting.problem.problem import FitProblem
    from yapa.fitting.problem.result import FitResult, Progress, TargetReport
    from yapa.fitting.setup.from_track import prepare
    from yapa.fitting.setup.track_setup import Prepared, Setup, parse_unknown
    from yapa.fitting.tracks.fit import Fit
    from yapa.fitting.tracks.fit_case import fit

__all__ = [
    "Cancel",
    "Fit",
    "FitProblem",
    "FitResult",
    "Prepared",
    "Progress",
    "Setup",
    "TargetReport",
    "fit",
    "parse_unknown",
    "prepare",
]
__getattr__ = importer(__name__, {
    "yapa.fitting.setup.from_track": "prepare",
    "yapa.fitting.setup.track_setup": "Prepared Setup parse_unknown",
    "yapa.fitting.tracks.fit": "Fit",
    "yapa.fitting.tracks.fit_case": "fit",
    "yapa.fitting.problem.cancel": "Cancel",
    "yapa.fitting.problem.problem": "FitProblem",
    "yapa.fitting.problem.result": "FitResult Progress TargetReport",
})
