"""Outcomes of a case at sets of numbers: what every question is asked of."""

from __future__ import annotations

import os
from collections.abc import Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from yapa.case.changed_numbers import with_links, with_numbers
from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.case.parameter_path import canonical_path, parse_path
from yapa.case.parameters import check_values, get_number
from yapa.engine.batch import simulate_many
from yapa.engine.simulate import simulate
from yapa.errors import bad_input
from yapa.fitting.problem.cancel import Cancel
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Motion
from yapa.outcomes import OutcomeValue, read_target
from yapa.outcomes.groups import margin
from yapa.outcomes.judging import target_body

NEVER = 1e6
"""tolerances: the most that a margin says"""


class OutcomesAt:
    """Runs a case with numbers in place of its own and reads outcomes.

    Parameters
    ----------
    case : the case
    targets : outcomes to read, and what is wanted of them
    cancel : stops the work where it is set
    threads : runs side by side

    Raises
    ------
    InputError
        If an outcome's body is not there.
    """

    def __init__(self, case: Case, targets: Sequence[Target], cancel: Cancel | None = None, threads: int | None = None) -> None:
        if not targets:
            raise bad_input("targets", "nothing wanted", "at least one target")
        self.case = case.model_copy(update={"targets": tuple(targets), "tracks": (), "takes": (), "table": None})
        self.targets = list(targets)
        self.bodies = [target_body(self.case, t) for t in targets]
        self.cancel = cancel or Cancel()
        self.threads = threads or os.cpu_count() or 1
        self.times = FitProblem(self.case, self.cancel, evaluate_only=True).target_times
        self.simulations = 0

    def at(self, rows: Sequence[Mapping[str, float]]) -> list[list[OutcomeValue]]:
        """Return every outcome at every set of numbers.

        Parameters
        ----------
        rows : sets of path → number [SI units]; the same paths in each

        Raises
        ------
        Cancelled
            If stopping was asked for.
        """
        self.cancel.raise_if_cancelled()
        sets = [{canonical_path(path): value for path, value in row.items()} for row in rows]
        for row in sets:
            check_values(self.case, row)
        self.simulations += len(sets)
        if any(parse_path(path).section == "profile" for row in sets for path in row):
            with ThreadPoolExecutor(self.threads) as pool:
                found = list(pool.map(self._apart, sets))
        else:
            linked = [with_links(self.case, row) for row in sets]
            paths = list(linked[0]) if linked else []
            values = np.array([[row[path] for path in paths] for row in linked]) if paths else np.zeros((len(linked), 0))
            found = simulate_many(self.case, paths, values, self._read, times=self.times, threads=self.threads,
                                  cancel=self.cancel.flag)
        self.cancel.raise_if_cancelled()
        return found

    def _apart(self, row: dict[str, float]) -> list[OutcomeValue]:
        """One run of a case of its own: numbers of the solver profile are none of the compiled case's."""
        return self._read(simulate(with_numbers(self.case, row), times=self.times, cancel=self.cancel.flag))

    def _read(self, motion: Motion) -> list[OutcomeValue]:
        return [read_target(motion, body, target) for target, body in zip(self.targets, self.bodies, strict=True)]

    def margins(self, rows: Sequence[Mapping[str, float]]) -> list[float]:
        """Return the least margin of all targets, in tolerances, at every set of numbers; below zero one is missed.

        Parameters
        ----------
        rows : sets of path → number
        """
        return [self.margin_of(values) for values in self.at(rows)]

    def margin_of(self, values: Sequence[OutcomeValue]) -> float:
        """Return the least margin of outcomes that were read, in tolerances.

        Parameters
        ----------
        values : one of every target
        """
        return min(self.margin_of_one(k, value) for k, value in enumerate(values))

    def margin_of_one(self, k: int, value: OutcomeValue) -> float:
        """Return the margin of one outcome, in tolerances.

        Parameters
        ----------
        k : which of the targets
        value : what was read
        """
        target = self.targets[k]
        if value.value is None or target.condition in ("happens", "never"):
            return min(margin(target, value), NEVER)
        return margin(target, value) / target.tolerance

    def present(self, paths: Sequence[str]) -> dict[str, float]:
        """Return the case's own numbers.

        Parameters
        ----------
        paths : of the numbers
        """
        return {canonical_path(path): get_number(self.case, path) for path in paths}
