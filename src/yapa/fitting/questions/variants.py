"""One case with several named changes, side by side: the outcomes and targets of each in one table."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from yapa.case.changed_numbers import with_numbers
from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.engine.simulate import simulate
from yapa.errors import bad_input
from yapa.fitting.problem.cancel import Cancel
from yapa.fitting.problem.result import TargetReport
from yapa.fitting.problem.target_residuals import evaluate_target
from yapa.outcomes import OutcomeValue, measure, read_target
from yapa.outcomes.judging import target_body

AS_IS = "as it is"
"""name of the case without a change"""


@dataclass(frozen=True)
class Variants:
    """Outcomes of a case under named changes.

    Attributes
    ----------
    names : of the variants, the case as it is first
    changes : path → value of each
    outcomes : name of an outcome → its value in every variant
    targets : reports of every target, a list a variant
    """

    names: list[str]
    changes: list[dict[str, float]]
    outcomes: dict[str, list[OutcomeValue]]
    targets: list[list[TargetReport]]

    def as_dict(self) -> dict[str, Any]:
        """Return it JSON-ready."""
        return {"variants": [
            {"name": name, "changes": changes,
             "outcomes": {label: {"value": row[k].value, "missing": row[k].missing} for label, row in self.outcomes.items()},
             "targets": [{"target": t.target.label, "now": t.now, "met": t.met} for t in self.targets[k]]}
            for k, (name, changes) in enumerate(zip(self.names, self.changes, strict=True))]}


def variants(
    case: Case, changes: Mapping[str, Mapping[str, float]], outcomes: Sequence[Target] = (), *, cancel: Cancel | None = None
) -> Variants:
    """Return outcomes of a case as it is and under named changes.

    Parameters
    ----------
    case : the case
    changes : name → path → value [SI units]
    outcomes : which; by default those of a first look, of every moving body
    cancel : stops the work where it is set

    Raises
    ------
    InputError
        If a number is not there, or two variants have one name.
    Cancelled
        If it was stopped.
    """
    if AS_IS in changes:
        raise bad_input("variants", repr(AS_IS), "another name; the case itself has this one")
    names, sets = [AS_IS, *changes], [{}, *(dict(values) for values in changes.values())]
    stop = cancel or Cancel()
    table: dict[str, list[OutcomeValue]] = {}
    reports: list[list[TargetReport]] = []
    for k, values in enumerate(sets):
        changed = with_numbers(case, values)
        motion = simulate(changed, cancel=stop.flag)
        stop.raise_if_cancelled()
        if outcomes:
            found = {t.label: read_target(motion, target_body(changed, t), t) for t in outcomes}
        else:
            found = {f"{body} {name}": value for body in motion.dynamic_bodies() for name, value in measure(motion, body).items()}
        for label, value in found.items():
            table.setdefault(label, [OutcomeValue(None, None, "not there") for _ in range(k)]).append(value)
        for row in table.values():
            if len(row) <= k:
                row.append(OutcomeValue(None, None, "not there"))
        reports.append([evaluate_target(t, body, read_target(motion, body,
                                                             t)) for t in case.targets for body in [target_body(changed, t)]])
    return Variants(names, sets, table, reports)
