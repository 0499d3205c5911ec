"""Finds the numbers. Sees simulation as a function of a vector."""

from yapa.fitting.calibrate import Prepared, Setup, parse_unknown, prepare
from yapa.fitting.fit import Fit, fit
from yapa.fitting.problem import Cancel, Problem
from yapa.fitting.result import FitResult, Progress, TargetReport

__all__ = ["Cancel", "Fit", "FitResult", "Prepared", "Problem", "Progress", "Setup", "TargetReport", "fit",
           "parse_unknown", "prepare"]
