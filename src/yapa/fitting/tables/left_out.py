"""A take of rows predicted from the other rows: how well the numbers hold where they were not fitted."""

from __future__ import annotations

import numpy as np

from yapa.case.changed_numbers import with_numbers
from yapa.case.model import Case
from yapa.case.takes import Take
from yapa.case.trial_table import MIN_ROWS, TrialTable
from yapa.case.unknowns import to_unit_box
from yapa.fitting.problem.cancel import Cancel
from yapa.fitting.problem.result import FitResult
from yapa.fitting.tables.fit_table import fit_table
from yapa.fitting.tables.joint import joint_problem


def with_rows(case: Case, rows: list[int], takes: tuple[Take, ...]) -> Case:
    """Return the case with some rows of its table, and takes of these rows alone.

    Parameters
    ----------
    case : with a table
    rows : which rows, from 1
    takes : those that stay
    """
    assert case.table is not None
    columns = {name: tuple(cells[k - 1] for k in rows) for name, cells in (case.table.columns or {}).items()}
    new = {row: k + 1 for k, row in enumerate(rows)}
    kept = tuple(take.model_copy(update={"rows": tuple(new[row] for row in take.rows if row in new)}) for take in takes)
    return case.model_copy(update={"table": case.table.model_copy(update={"columns": columns, "file": None}), "takes": kept})


def misfits_left_out(case: Case, cancel: Cancel | None = None) -> list[tuple[str, float, float]]:
    """Return, of every take with rows, its name, its misfit with the shared numbers of the others, and its misfit fitted alone [σ].

    σ that is found is that of the fit to the others.

    Parameters
    ----------
    case : with a table and takes
    cancel : stops the work where it is set
    """
    assert case.table is not None
    out = []
    for take in case.takes:
        mine = list(take.rows)
        rest = [row for row in range(1, case.table.rows + 1) if row not in mine]
        if len(mine) < MIN_ROWS or len(rest) < MIN_ROWS:
            continue
        others = tuple(other for other in case.takes if other is not take and not other.tracks)
        found = fit_table(with_rows(case, rest, others), None, cancel)
        known = {path: e.value for path, e in found.estimates.items() if path not in take.free_per_take}
        own = with_rows(_scaled(case, found), mine, (take,))
        locked = tuple(u.model_copy(update={"fixed": u.fixed or u.path in known}) for u in case.unknowns)
        held = with_numbers(own, known).model_copy(update={"unknowns": locked})
        out.append((take.name, _misfit(held, cancel), _misfit(own, cancel)))
    return out


def _scaled(case: Case, found: FitResult) -> Case:
    """The case with the σ that another fit found."""
    assert case.table is not None
    assert found.table is not None
    sizes = {s.outcome: s.value for s in found.table.scatter if s.found and s.value > 0}
    measured = tuple(m if m.outcome not in sizes else m.model_copy(update={"sigma": f"{sizes[m.outcome]:.12g}"})
                     for m in case.table.measured)
    table: TrialTable = case.table.model_copy(update={"measured": measured})
    return case.model_copy(update={"table": table})


def _misfit(case: Case, cancel: Cancel | None) -> float:
    """Root mean square residual of the rows [σ], fitted where something is free."""
    free = [u for u in case.unknowns if not u.fixed]
    if not free:  # one unknown stays so that there is a vector; it has the case's own number
        case = case.model_copy(update={"unknowns": (case.unknowns[0].model_copy(update={"fixed": False}),)})
    problem = joint_problem(case, cancel or Cancel())
    x = problem.start.copy()
    if free:
        values = fit_table(case, None, cancel)
        for (owner, path), k in problem.columns.items():
            estimate = values.estimates.get(path) if owner is None else values.own.get(owner, {}).get(path)
            if estimate is not None:
                x[k] = to_unit_box(problem.unknowns[k], estimate.value)
    r = np.concatenate([part.residuals(x)[: part.count] for part in problem.rows])
    return float(np.sqrt(np.mean(r**2)))
