"""Interactive inverse, pulling: An outcome is dragged, the free numbers follow with the smallest change from where the drag began.

The drag's start u₀ is the anchor. Every frame asks for values y of the outcomes and goes on from the last frame's vector with

    u ← u₀ + J⁺(J(u - u₀) - (f(u) - y)),

J corrected by every step (Broyden) and measured again when a step takes away less than 70% of the error, steps at most 0.2 of the
box and halved at most four times, unknowns at a wall held there. A frame spends at most ``MAX_RUNS`` simulations; what is left
undone is carried into the next one, a measurement of J too. Without the anchor a drag there and back would drift; with it the
way back ends where it began, and asking for the value at the start gives the start exactly. What cannot be reached is shown
with its gap, and the next frame begins from the last vector that was good.

Targets that are held stay met: the step is then found under them (``held.py``), and the pulled outcome gives way where they leave
it no room.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.errors import bad_input
from yapa.fitting.optimise.differences import broyden, forward
from yapa.fitting.optimise.jacobian import COARSE_STEP
from yapa.fitting.optimise.minimum_change import minimum_norm_step
from yapa.fitting.problem.cancel import Cancel, Cancelled
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.targets.held import HeldTargets, held_step
from yapa.motion import Array, Motion
from yapa.outcomes import read_target
from yapa.outcomes.judging import is_met

MAX_RUNS = 16
"""simulations of a frame"""
MAX_STEP = 0.2
"""of the unit box: longest step of a frame"""
CLOSE_ENOUGH = 0.05
"""Of a tolerance: near enough for a frame."""
DIFFERENCE_STEP = 1e-6
"""of the unit box: of a finite difference"""
ALLOWED = 0.03
"""of a tolerance: what is held may be beyond its limit by"""
LOST = 100.0
"""of the error: a tolerance by which what is held is lost, beside one of what is pulled"""
UNMOVED = 1e-7
"""Of the box: a number that moved less has its own value."""


@dataclass(frozen=True)
class Pulled:
    """A frame: the values, what the outcomes are with them, by how much they miss what was asked [their units], and its cost."""

    values: dict[str, float]
    now: tuple[float, ...]
    gap: tuple[float, ...]
    reached: bool
    simulations: int
    held_by: tuple[str, ...] = ()
    """Names of held targets that leave the outcome no room."""
    at_ends: tuple[str, ...] = ()
    """Paths of numbers that stand at an end of their range."""


@dataclass
class _Here:
    u: Array
    f: Array
    rows: Array
    broken: float
    """tolerances by which what is held is lost"""

    def error(self, y: Array) -> float:
        return float(np.linalg.norm(self.f - y)) + LOST * max(0.0, self.broken - ALLOWED)


class Pull:
    """Outcomes that are pulled to other values, with the free numbers following.

    Parameters
    ----------
    case : with at least one free unknown
    targets : what is pulled; their values are where the drag begins only if the case gives them. Tolerances set how near is near.
        Conditions do not count.
    cancel : stops it where it is set
    hold : targets that stay met; those that are not met at the start are left out

    Raises
    ------
    InputError
        If nothing is free, or an outcome does not happen at the start.

    Notes
    -----
    Minimum-norm steps with Broyden updates of the Jacobian (Broyden, Mathematics of Computation 19, 1965), a few simulations a
    frame.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> case = load(DATA / "orange-wanted.yapa")
    >>> pull = Pull(case, case.targets[:1])
    >>> pulled = pull.to(pull.start[0] + 0.01)
    >>> abs(pulled.now[0] - pull.start[0]) > 0.005
    True
    """

    def __init__(self, case: Case, targets: Sequence[Target], cancel: Cancel | None = None, hold: Sequence[Target] = ()) -> None:
        equalities = tuple(t.model_copy(update={"condition": "equal", "upper": None}) for t in targets)
        pulled = case.model_copy(update={"targets": (*equalities, *hold), "tracks": (), "takes": ()})
        self.problem = FitProblem(pulled, cancel or Cancel())
        self._pulled = self.problem.targets[: len(equalities)]
        self._scale = np.array([t.tolerance for t in equalities])
        self._home = self.problem.vector()
        self._spent = 0
        self.motion: Motion = self.problem.motion(self.problem.values(self._home))
        kept = [(t, body) for t, body in self.problem.targets[len(equalities) :] if is_met(t, read_target(self.motion, body, t))]
        self.held = HeldTargets.at(self.motion, kept)
        for target, body in self._pulled:
            if read_target(self.motion, body, target).value is None:
                raise bad_input(f"pulling {target.label}", "an outcome that does not happen", "one that the simulation shows")
        self._start = self._read_at(self._home)
        self._here = self._good = self._start
        self._J = np.zeros((len(equalities) + len(self.held.low), len(self._home)))
        self._due = list(range(len(self._home)))
        self._base = self._start
        self._fresh = True

    @property
    def start(self) -> tuple[float, ...]:
        """The outcomes where the drag began."""
        return tuple((self._start.f * self._scale).tolist())

    def to(self, *values: float) -> Pulled:
        """Pull the outcomes to these values [their units], as far as one frame's simulations go.

        A cancelled frame gives the best it came to.

        Parameters
        ----------
        values : path → value, SI units

        Returns
        -------
        What was reached.
        """
        y = np.array(values, dtype=float) / self._scale
        self._spent = 0
        if np.abs(y - self._start.f).max() < 1e-9:
            self._here = self._good = self._start
            return self._frame(self._start, y)
        best = min((self._here, self._good), key=lambda h: h.error(y))
        self._here = best
        try:
            best = self._follow(y, best)
        except Cancelled:
            best = min((self._here, best), key=lambda h: h.error(y))
        if best.error(y) < CLOSE_ENOUGH:
            self._good = best
        return self._frame(best, y)

    def back(self) -> Pulled:
        """Return the start, exactly."""
        self._spent = 0
        self._here = self._good = self._start
        return self._frame(self._start, self._start.f)

    # -- inside --------------------------------------------------------------------------------

    def _follow(self, y: Array, best: _Here) -> _Here:
        """Newton's steps until near enough, stuck, or out of simulations."""
        while self._spent < MAX_RUNS:
            if not self._measured():
                break
            here = self._here
            if here.error(y) < CLOSE_ENOUGH and self._settled(here, y):
                break
            step = self._next(here, y) - here.u
            size = float(np.linalg.norm(step))
            if size < 1e-10:
                break
            step *= min(1.0, MAX_STEP / size)
            there = self._tried(here, step, y)
            if there is None:
                if self._fresh:
                    break
                self._measure_again(here)
                continue
            moved = there.u - here.u
            self._J = broyden(self._J, moved, self._every(there) - self._every(here))
            slow = there.error(y) > 0.3 * here.error(y) and there.error(y) > CLOSE_ENOUGH
            self._here, self._fresh = there, False
            if there.error(y) < best.error(y):
                best = there
            if slow:
                self._measure_again(there)
        return best

    def _settled(self, here: _Here, y: Array) -> bool:
        """Whether no step back towards the anchor is left worth a simulation."""
        return float(np.linalg.norm(self._next(here, y) - here.u)) < 2e-4

    def _next(self, here: _Here, y: Array) -> Array:
        """The vector of the next step."""
        count = len(self._pulled)
        J, C = self._J[:count], self._J[count:]
        if len(C):
            found = held_step(here.u, self._home, here.f - y, J, here.rows, C, self.held)
            return here.u if found is None else found
        return minimum_norm_step(here.u, self._home, here.f - y, J)

    @staticmethod
    def _every(here: _Here) -> Array:
        return np.concatenate([here.f, here.rows])

    def _tried(self, here: _Here, step: Array, y: Array) -> _Here | None:
        step_fraction = 1.0
        for _ in range(5):
            if self._spent >= MAX_RUNS:
                return None
            u = np.clip(here.u + step_fraction * step, 0.0, 1.0)
            there = self._evaluated(u)
            if there.error(y) < here.error(y) or there.error(y) < CLOSE_ENOUGH:
                return there
            step_fraction *= 0.5
        return None

    def _measure_again(self, here: _Here) -> None:
        self._due, self._base = list(range(len(self._home))), here

    def _measured(self) -> bool:
        """Measure what is due of the Jacobian; False when the frame's simulations ended before."""
        while self._due:
            if self._spent >= MAX_RUNS:
                return False
            j = self._due.pop()
            size = COARSE_STEP if self.problem.coarse else DIFFERENCE_STEP
            self._J[:, j] = forward(lambda u: self._every(self._evaluated(u)), self._base.u, self._every(self._base), j, size)
            self._fresh = True
        return True

    def _evaluated(self, u: Array) -> _Here:
        """Outcomes and what is held at a vector, from one run."""
        self._spent += 1
        self.motion = self.problem.motion(self.problem.values(u))
        return self._read_at(u)

    def _read_at(self, u: Array) -> _Here:
        now = [read_target(self.motion, body, target).value_or_surrogate for target, body in self._pulled]
        rows = self.held.read(self.motion)
        return _Here(u, np.asarray(np.array(now) / self._scale), rows, self.held.broken(rows))

    def _frame(self, here: _Here, y: Array) -> Pulled:
        gap = (here.f - y) * self._scale
        values = self._own_values()
        for k, (path, v) in enumerate(self.problem.values(here.u).items()):
            if abs(here.u[k] - self._home[k]) > UNMOVED:
                values[path] = float(v)
        reached = bool(np.abs(here.f - y).max() < 4 * CLOSE_ENOUGH)
        ends = () if reached else tuple(u.path for u, at in zip(self.problem.unknowns, here.u, strict=False) if at in (0.0, 1.0))
        return Pulled(values, tuple((here.f * self._scale).tolist()), tuple(gap.tolist()), reached, self._spent,
                      () if reached else tuple(self.held.holding(here.rows)), ends)

    def _own_values(self) -> dict[str, float]:
        return {u.path: self.problem.program.base[u.path] for u in self.problem.unknowns}
