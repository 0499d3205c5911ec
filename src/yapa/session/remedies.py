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
from yapa.fitting.targets.drag import Pull
from yapa.fitting.targets.rounding import rounded_values
from yapa.outcomes import OutcomeValue, read_target
from yapa.outcomes.judging import is_met, target_body
from yapa.session import edits
from yapa.session.idle_look import IdleLook

if TYPE_CHECKING:
    from yapa.session.desk import Desk

MAX_REMEDIES = 5
"""answers that are shown"""
OF_BODY = ("speed", "elevation", "azimuth", "velocity.x", "velocity.y", "velocity.z", "position.z", "position.x", "linear_damping")
FRAMES = (0.2, 0.4, 0.6, 0.8, 1.0, 1.0, 1.0)
"""of the way to a target: the steps of a pull that looks for the nearest answer"""
TOLD = 3
"""numbers of an answer that are named"""
OF_SKIN = ("restitution", "friction")


@dataclass(frozen=True)
class Remedy:
    """What meets a missed target: one number at another value, or the nearest change of several.

    Attributes
    ----------
    target : its name
    path, value : the number that moves most, and its value
    others : the other numbers that move with it
    """

    target: str
    path: str
    value: float
    others: tuple[tuple[str, float], ...] = ()

    @property
    def values(self) -> dict[str, float]:
        """Every number and its value."""
        return {self.path: self.value, **dict(self.others)}

    @property
    def words(self) -> str:
        """``launch speed 3.2 m/s``."""
        told = [f"{label_of(path)} {amount_text(v, quantity_of(path).unit, '.4g')}" for path, v in self.values.items()]
        return told[0] if len(told) == 1 else "nearest: " + ", ".join(told[:TOLD]) + (f" and {len(told) - TOLD} more" if
                                                                                    len(told) > TOLD else "")


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
        if len(found) == MAX_REMEDIES - 1:
            break
    nearest = _nearest(case, target, cancel)
    return found if nearest is None else [*found, nearest]


def _nearest(case: Case, target: Target, cancel: Cancel) -> Remedy | None:
    """The smallest change of all free numbers that meets a target, those that are met being held; None where there is none."""
    if target.condition != "equal" or sum(not u.fixed for u in case.unknowns) < 2:
        return None
    try:
        pull = Pull(case, [target], cancel, hold=[t for t in case.targets if t is not target])
        start = pull.start[0]
        frame = pull.back()
        for share in FRAMES:
            cancel.raise_if_cancelled()
            frame = pull.to(start + share * (target.value - start))
        if not frame.reached:
            return None
        values = rounded_values(case, frame.values, case.targets, cancel)
    except YapaError:  # an outcome that does not happen cannot be pulled
        return None
    ranges = {u.path: u.high - u.low for u in case.unknowns}
    apart = {p: abs(v - get_number(case, p)) / ranges[p] for p, v in values.items()}
    moved = sorted(((far, p) for p, far in apart.items() if far > 0), reverse=True)
    if len(moved) < 2:
        return None
    return Remedy(target.label, moved[0][1], values[moved[0][1]], tuple((p, values[p]) for _, p in moved[1:]))


class Remedies(IdleLook[list[Remedy]]):
    """What would meet the first missed target of the case that is open.

    Attributes
    ----------
    found : newest answers, for the case as it is; empty while they are looked for
    """

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk, "looking for what would do it", remedies_of, [], desk.remedies_changed.emit)

    def has_something_to_find(self, case: Case) -> bool:
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
        self._desk.preview.set({} if remedy is None else remedy.values)

    def take(self, remedy: Remedy) -> bool:
        """Set the number, as one step.

        Parameters
        ----------
        remedy : one of those found

        Returns
        -------
        Whether it was set.
        """
        if not remedy.others:
            return self._desk.set_number(remedy.path, remedy.value)
        return self._desk.make_by_hand(edits.use_values(remedy.values, f"meet {remedy.target}"))
