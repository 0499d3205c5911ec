"""What would do it: single numbers that meet a target that is missed, looked for while nothing else is to be done."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

from yapa.case import Case, Target, Unknown, get_number, has_number, label_of, quantity_of
from yapa.case.units import amount_text
from yapa.engine import simulate
from yapa.errors import YapaError
from yapa.findings.single_number import moves_towards, value_that_meets
from yapa.fitting.problem.cancel import Cancel
from yapa.outcomes import OutcomeValue, read_target
from yapa.outcomes.judging import is_met, target_body
from yapa.session import edits
from yapa.session.idle_look import IdleLook

if TYPE_CHECKING:
    from yapa.session.desk import Desk

MAX_REMEDIES = 5
"""answers that are shown"""
OF_BODY = ("speed", "elevation", "azimuth", "velocity.x", "velocity.y", "velocity.z", "position.z", "position.x", "linear_damping")
OF_SKIN = ("restitution", "friction")


@dataclass(frozen=True)
class Remedy:
    """A number that meets a missed target at another value."""

    target: str
    path: str
    value: float

    @property
    def words(self) -> str:
        """``launch speed 3.2 m/s``."""
        return f"{label_of(self.path)} {amount_text(self.value, quantity_of(self.path).unit, '.4g')}"


def candidates(case: Case, body: str) -> Iterator[Unknown]:
    """Yield the numbers that may meet a target of a body, those that are to be found first; locked ones are left as they are.

    Parameters
    ----------
    case : the case
    body : name of the body
    """
    known = {unknown.path: unknown for unknown in case.unknowns}
    yield from (unknown for unknown in case.unknowns if not unknown.fixed)
    skin = case.bodies[body].shapes[0].surface
    paths = [f"bodies.{body}.{part}" for part in OF_BODY]
    paths += [f"pairs.{pair.key}.{part}" for pair in case.pairs if skin in pair.surfaces for part in OF_SKIN]
    paths += [f"surfaces.{skin}.{part}" for part in OF_SKIN]
    for path in paths:
        if path not in known and has_number(case, path):
            yield edits.free(path).change(case).unknowns[-1]


def remedies_of(case: Case, cancel: Cancel) -> list[Remedy]:
    """Return single numbers that meet the first missed target, the smallest move of a range first.

    Parameters
    ----------
    case : the case
    cancel : stops it where it is set

    Raises
    ------
    Cancelled
        If stopping was asked for.
    """
    motion = simulate(case, cancel=cancel.flag)
    cancel.raise_if_cancelled()
    for target in case.targets:
        try:
            body = target_body(case, target)
            here = read_target(motion, body, target)
        except YapaError:  # what is wrong with the target itself is said where it is used
            continue
        if not is_met(target, here) and target.condition != "never" and body in case.bodies:
            return _of_target(case, target, body, here, cancel)
    return []


def _of_target(case: Case, target: Target, body: str, here: OutcomeValue, cancel: Cancel) -> list[Remedy]:
    found: list[Remedy] = []
    moves = []
    for unknown in candidates(case, body):
        cancel.raise_if_cancelled()
        moves += moves_towards(case, target, body, here, [unknown])
    for move, unknown in sorted(moves, key=lambda one: abs(one[0])):
        cancel.raise_if_cancelled()
        value = value_that_meets(case, target, body, here, unknown, move)
        if value is not None and value != get_number(case, unknown.path):
            found.append(Remedy(target.label, unknown.path, value))
        if len(found) == MAX_REMEDIES:
            break
    return found


class Remedies(IdleLook[list[Remedy]]):
    """What would meet the first missed target of the case that is open.

    Attributes
    ----------
    found : newest answers, for the case as it is; empty while they are looked for
    """

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk, "looking for what would do it", remedies_of, [], desk.remedies_changed.emit)

    def is_wanted(self, case: Case) -> bool:
        """Return whether a target is missed.

        Parameters
        ----------
        case : the case that is open
        """
        comparison = self._desk.preview.comparison
        return comparison is not None and any(not report.met for report in comparison.targets)

    def try_out(self, remedy: Remedy | None) -> None:
        """Show an answer as if it were taken; None: the case as it is.

        Parameters
        ----------
        remedy : one of those found
        """
        self._desk.preview.set({} if remedy is None else {remedy.path: remedy.value})

    def take(self, remedy: Remedy) -> bool:
        """Set the number, as one step.

        Parameters
        ----------
        remedy : one of those found

        Returns
        -------
        Whether it was set.
        """
        return self._desk.set_number(remedy.path, remedy.value)
