"""Values with no more digits than targets can tell: the coarsest decimal that changes no outcome by a tenth of its tolerance."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np

from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.case.parameters import get_number
from yapa.errors import YapaError
from yapa.fitting.problem.cancel import Cancel
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Array
from yapa.outcomes import read_target

SHARE = 0.1
"""of a tolerance: what rounding may change of an outcome"""
OF_RANGE = 0.05
"""of a range: a value is never rounded more coarsely"""
STEP = 1e-4
"""of a range: of the slopes"""
TRIES = 8
"""times that one more decimal is tried"""
MAX_DECIMALS = 12


def rounded_values(case: Case, values: Mapping[str, float], targets: Sequence[Target], cancel: Cancel | None = None
                   ) -> dict[str, float]:
    """Return values rounded as coarsely as the targets allow; the outcomes of what is returned were run and compared.

    Parameters
    ----------
    case : the case
    values : path → value, SI units; those that the case has already are left as they are
    targets : whose outcomes must not change; of those that do not happen nothing is asked
    cancel : stops it where it is set

    Raises
    ------
    Cancelled
        If stopping was asked for.
    """
    moved = [path for path, value in values.items() if value != get_number(case, path)]
    problem = FitProblem(case.model_copy(update={"targets": tuple(targets), "tracks": (), "takes": ()}), cancel or Cancel(),
                         evaluate_only=True)
    base = _outcomes(problem, values)
    asked = np.isfinite(base)
    scale = np.array([SHARE * target.tolerance for target in targets])
    ranges = {u.path: u.high - u.low for u in case.unknowns}
    least = {path: _decimals(OF_RANGE * ranges.get(path, abs(values[path]) or 1.0)) for path in moved}

    def rounded(decimals: Mapping[str, int]) -> dict[str, float]:
        return {**values, **{path: round(values[path], places) for path, places in decimals.items()}}

    def keeps(decimals: Mapping[str, int]) -> bool:
        try:
            now = _outcomes(problem, rounded(decimals))
        except YapaError:  # a value that this number cannot have
            return False
        return bool((np.abs(now - base)[asked] <= scale[asked]).all())

    decimals = {}
    for path in moved:
        step = STEP * ranges.get(path, abs(values[path]) or 1.0)
        slopes = np.abs(_outcomes(problem, {**values, path: values[path] + step}) - base)[asked] / step
        tight = [float(s) for s in scale[asked][slopes > 0] / (len(moved) * slopes[slopes > 0])]
        decimals[path] = max(least[path], _decimals(min((s for s in tight if math.isfinite(s)), default=math.inf)))
    for _ in range(TRIES):
        if keeps(decimals):
            break
        decimals = {path: min(MAX_DECIMALS, places + 1) for path, places in decimals.items()}
    else:
        return dict(values)
    for path in moved:  # the slopes share the room evenly: some may do with less
        while decimals[path] > least[path] and keeps({**decimals, path: decimals[path] - 1}):
            decimals[path] -= 1
    return rounded(decimals)


def _decimals(room: float) -> int:
    """The fewest decimals that move a value by no more than so much."""
    return -MAX_DECIMALS if math.isinf(room) else min(MAX_DECIMALS, math.ceil(-math.log10(2.0 * room)))


def _outcomes(problem: FitProblem, values: Mapping[str, float]) -> Array:
    """The outcome of every target; NaN where it does not happen."""
    if not problem.targets:
        return np.zeros(0)
    motion = problem.motion(values)
    found = [read_target(motion, body, target).value for target, body in problem.targets]
    return np.array([np.nan if value is None else value for value in found])
