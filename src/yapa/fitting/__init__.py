"""Finds the numbers. Sees simulation as a function of a vector."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yapa.lazily import importer

if TYPE_CHECKING:
    from yapa.fitting.calibrate import Prepared, Setup, parse_unknown, prepare
    from yapa.fitting.fitter import Fit, fit
    from yapa.fitting.problem import Cancel, Problem
    from yapa.fitting.result import FitResult, Progress, TargetReport

__all__ = ["Cancel", "Fit", "FitResult", "Prepared", "Problem", "Progress", "Setup", "TargetReport", "fit",
           "parse_unknown", "prepare"]
__getattr__ = importer(__name__, {
    "yapa.fitting.calibrate": "Prepared Setup parse_unknown prepare",
    "yapa.fitting.fitter": "Fit fit",
    "yapa.fitting.problem": "Cancel Problem",
    "yapa.fitting.result": "FitResult Progress TargetReport",
})
