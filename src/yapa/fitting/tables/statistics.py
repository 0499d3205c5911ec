"""Statistics of a fitted table: levels, lack of fit, leverage, the row that stands out.

With residuals e [σ], their Jacobian J by the unknowns and the hat matrix H = J (JᵀJ)⁻¹ Jᵀ, a fit without the rows g predicts them
to first order as measured − σ (1 − H_gg)⁻¹ e_g (Cook & Weisberg, Residuals and Influence in Regression, 1982, ch. 2); the
externally
studentised residual of row i is e_i / (s_(i) √(1 − h_ii)).

Lack of fit (Draper & Smith, Applied Regression Analysis, 1998, ch. 2): with L levels, n values and p unknowns,

    F = [(SS − SS_pe) / (L − p)] / [SS_pe / (n − L)],

SS_pe the squares about the mean of each level, all weighted by 1/σ².
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import stats

from yapa.fitting.tables.report import Adequacy, FTest, Level, Scatter, StandingOut
from yapa.fitting.tables.trial_rows import TrialRows
from yapa.motion import Array

MAX_PREDICTED = 1e6
"""residuals: further off, a prediction without a level says nothing"""


@dataclass(frozen=True)
class Value:
    """One measured value: which part and column of the table, which of its rows, and its level."""

    part: int
    column: int
    row: int
    level: int


def values_of(parts: list[TrialRows]) -> list[Value]:
    """Return every measured value in the order of the residuals; values of one outcome with equal settings share a level.

    Parameters
    ----------
    parts : the rows of the table
    """
    out: list[Value] = []
    levels: dict[tuple[object, ...], int] = {}
    for p, part in enumerate(parts):
        for c, used in enumerate(part.used):
            for k in np.flatnonzero(used):
                own = tuple(values[k] for name, values in part.columns.items() if name in part.measured[c].arithmetic.names)
                level = levels.setdefault((p, c, int(part.run_of[k]), *own), len(levels))
                out.append(Value(p, c, int(k), level))
    return out


def scatters(parts: list[TrialRows], misses: Array, values: list[Value], unknowns: int) -> list[Scatter]:
    """Return the scatter of every measured outcome: found from what is left over, or as it is given.

    Parameters
    ----------
    parts : the rows of the table
    misses : (n,) predicted less measured [SI]
    values : every measured value
    unknowns : how many were fitted
    """
    out = []
    columns = np.array([v.column for v in values])
    for c, column in enumerate(parts[0].measured):
        own = columns == c
        count = int(own.sum())
        if not count:
            continue
        if column.sigma is None:
            free = max(count * (1 - unknowns / len(values)), 1e-9)
            size = float(np.sqrt((misses[own] ** 2).sum() / free)) if len(values) > unknowns else 0.0
        else:
            size = float(np.sqrt(np.mean(np.concatenate([part.sigmas(c)[part.used[c]] for part in parts]) ** 2)))
        out.append(Scatter(column.text, column.unit, size, count, column.sigma is None))
    return out


def adequacy_of(e: Array, values: list[Value], unknowns: int, given: bool) -> Adequacy:
    """Return whether the model explains the levels.

    Parameters
    ----------
    e : (n,) residuals in σ
    values : every measured value
    unknowns : how many were fitted
    given : whether σ is given
    """
    level = np.array([v.level for v in values])
    n, L = len(e), len(set(level.tolist()))
    pure = 0.0
    for k in range(L):
        own = e[level == k]
        pure += float(((own - own.mean()) ** 2).sum())
    if n > L > unknowns and pure > 0:
        ratio = ((float(e @ e) - pure) / (L - unknowns)) / (pure / (n - L))
        return Adequacy("replicates", FTest(ratio, (L - unknowns, n - L), float(stats.f.sf(ratio, L - unknowns, n - L))))
    if given and n > unknowns:
        chi2 = float(e @ e)
        return Adequacy("sigma", None, chi2, n - unknowns, float(stats.chi2.sf(chi2, n - unknowns)))
    return Adequacy("nothing")


def hat_of(J: Array) -> Array:
    """Return an orthonormal basis Q (n, k) of the columns of a Jacobian; the hat matrix is Q Qᵀ.

    Parameters
    ----------
    J : (n, P) Jacobian of the residuals of the rows
    """
    if not J.size:
        return np.zeros((len(J), 0))
    u, s, _ = np.linalg.svd(J, full_matrices=False)
    return np.asarray(u[:, s > 1e-9 * max(float(s.max(initial=0.0)), 1e-300)])


def levels_of(parts: list[TrialRows], e: Array, Q: Array, values: list[Value]) -> list[Level]:
    """Return every level, with what a fit without it predicts.

    Parameters
    ----------
    parts : the rows of the table
    e : (n,) residuals in σ, predicted less measured
    Q : basis of the columns of the Jacobian
    values : every measured value
    """
    level = np.array([v.level for v in values])
    out = []
    for k in range(int(level.max(initial=-1)) + 1):
        at = np.flatnonzero(level == k)
        first = values[at[0]]
        part, column = parts[first.part], parts[first.part].measured[first.column]
        rows = np.array([values[i].row for i in at])
        sigma, y = part.sigmas(first.column)[rows], column.y[part.rows[rows]]
        apart = np.eye(len(at)) - Q[at] @ Q[at].T
        alone = np.clip(np.linalg.lstsq(apart, e[at], rcond=1e-9)[0], -MAX_PREDICTED, MAX_PREDICTED)
        weight = 1 / sigma**2
        settings = {path: float(numbers[part.rows[rows[0]]]) for path, numbers in part.settings.items()}
        mean = float((y * weight).sum() / weight.sum())
        out.append(Level(column.text, column.unit, settings, tuple(int(part.rows[r]) + 1 for r in rows), mean,
                         float(((y + e[at] * sigma) * weight).sum() / weight.sum()),
                         float(((y + alone * sigma) * weight).sum() / weight.sum())))
    return out


def furthest(parts: list[TrialRows], e: Array, Q: Array, values: list[Value]) -> StandingOut | None:
    """Return the row with the largest externally studentised residual; None with too few values to say.

    Parameters
    ----------
    parts : the rows of the table
    e : (n,) residuals in σ
    Q : basis of the columns of the Jacobian
    values : every measured value
    """
    n, dof = len(e), len(e) - Q.shape[1]
    if dof < 3:
        return None
    h = np.minimum((Q**2).sum(axis=1), 1 - 1e-9)
    internal = e**2 / (1 - h)
    s2 = np.maximum((float(e @ e) - internal) / (dof - 1), 1e-12)
    t = e / np.sqrt(s2 * (1 - h))
    k = int(np.argmax(np.abs(t)))
    value = values[k]
    part = parts[value.part]
    p = min(1.0, 2 * n * float(stats.t.sf(abs(t[k]), dof - 1)))
    column = part.measured[value.column]
    return StandingOut(int(part.rows[value.row]) + 1, column.text, -float(e[k] * part.sigmas(value.column)[value.row]), column.unit,
                       -float(t[k]), p)
