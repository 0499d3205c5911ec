"""Finds the numbers. Sees simulation as a function of a vector."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yapa.lazily import importer

if TYPE_CHECKING:
    from yapa.fitting.problem.cancel import Cancel
    from yapa.fitting.problem.problem import FitProblem
    from yapa.fitting.problem.result import FitResult, Progress, TargetReport
    from yapa.fitting.setup.from_track import Prepared, Setup, parse_unknown, prepare
    from yapa.fitting.tracks.fit import Fit, fit

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
    "yapa.fitting.setup.from_track": "Prepared Setup parse_unknown prepare",
    "yapa.fitting.tracks.fit": "Fit fit",
    "yapa.fitting.problem.cancel": "Cancel",
    "yapa.fitting.problem.problem": "FitProblem",
    "yapa.fitting.problem.result": "FitResult Progress TargetReport",
})
