"""Wanted outcomes: the solution nearest to the present values, then others that are genuinely different.

The search pulls from the present values (``nearest``); where that leads nowhere it starts from points spread over the box (Sobol),
nearest first, with a short descent and a pull back towards the present values. After the first solution it goes on through a
dozen starts; solutions closer than a tenth of the box are one. Each is told apart by what it has most of: the smallest change, the
softest surface, the slowest launch and so on. With more unknowns than targets the solutions are points of a curve, and it says so.

Where nothing meets all targets, each target is tried without one of the others: what can be met once another is left out is in
conflict with it.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from concurrent.futures import Executor, ThreadPoolExecutor

import numpy as np
from scipy.optimize import minimize_scalar
from scipy.stats import qmc

from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.case.quantities import kind_of
from yapa.fitting.optimise.global_search import DifferentialEvolution
from yapa.fitting.optimise.jacobian import Point, evaluate
from yapa.fitting.optimise.levenberg_marquardt import LevenbergMarquardt
from yapa.fitting.optimise.minimum_change import ClosestSolution, MinimumChange, meets_with_margin
from yapa.fitting.problem.cancel import Cancel, Cancelled, FitStatus
from yapa.fitting.problem.evaluator import evaluator_of
from yapa.fitting.problem.problem import MAX_BODY_STEPS, MAX_SIMULATIONS, FitProblem
from yapa.fitting.problem.result import Progress, TargetReport, at_walls
from yapa.fitting.problem.target_residuals import evaluate_target
from yapa.fitting.targets.sign_changes import sign_changes
from yapa.fitting.targets.solutions import Solution, Solutions
from yapa.fitting.tracks.slip_stick_modes import with_entry
from yapa.motion import Array

N_STARTS = 16
"""starts all over the ranges"""
BUDGET = 550
"""Simulations after which a search for a first solution starts nowhere else."""
N_PROJECTED = 4
"""Solutions from which the nearest is walked to."""
N_LOCAL_STARTS = 16
"""Starts nearer than the nearest solution."""
N_SCANNED = 49
"""Values of one unknown over its range."""
MOVED = 1e-7
"""tolerances: a residual that differs by less has not moved"""
DISTINCT_DISTANCE = 0.1
"""Of the box: solutions nearer to each other than this are one."""


class Search:
    """One search; keeps what it found, so that stopping loses nothing."""

    def __init__(self, case: Case, progress: Callable[[Progress], None] | None = None, cancel: Cancel | None = None,
                 limit: int | None = MAX_SIMULATIONS) -> None:
        self.case = case
        self.problem = FitProblem(case.model_copy(update={"tracks": (), "takes": ()}), cancel or Cancel(), limit=limit,
                                  max_body_steps=MAX_BODY_STEPS if limit == MAX_SIMULATIONS else None)
        self._stopped = False
        self.out_of_reach = False
        """Whether nothing that may change moves what is asked for."""
        self.home = self.problem.vector()
        self.points: list[Point] = []
        self._most: Solution | None = None
        """What meets the most targets, of what was tried for that."""
        self.best = Point(self.home, np.full(1, np.inf), np.inf)
        self.first: int | None = None
        self._progress = progress
        self._report: Callable[[Point], None] | None = None
        self._phase, self._fraction = "nearest change", 0.0

    def run(self, most: int = 6, threads: int | None = None, executor: Executor | None = None) -> Solutions:
        """Search. Never raises for a stop.

        Parameters
        ----------
        most : solutions at most
        threads : runs side by side
        executor : runs batches of simulations

        Returns
        -------
        What was found.
        """
        begun = time.perf_counter()
        stopped = FitStatus.CONVERGED
        why: list[str] = []
        try:
            here = evaluate(self.problem, self.home)
            if self._is_met(here):
                self._keep_if_better(here)
                self.points.append(here)
                self.first = self.problem.simulations
            else:
                self._search(here, executor, threads)
            if not self.points and self.solution(self.best).met:
                self.points.append(self.best)  # inside the tolerances, though no nearer to what is wanted
            if not self.points:
                self._scan()
                if not self.points:
                    stopped = FitStatus.NOT_REACHABLE
                    why = self._conflicts()
        except Cancelled as stop:
            stopped, self._stopped = stop.status, True
            if not self.points and self.solution(self.best).met:
                self.points.append(self.best)
        found = self._described(sorted(self.points, key=self._change)[:most])
        closest = found[0] if found else self.solution(self.best)
        most_met = None
        if self._most is not None and not found and sum(t.met for t in self._most.targets) > sum(t.met for t in closest.targets):
            most_met = self._most
        return Solutions(found, closest, self.problem.simulations, self.first, time.perf_counter() - begun, stopped, why,
                         self._notes(), most_met)

    def _search(self, here: Point, executor: Executor | None, threads: int | None) -> None:
        self._take(MinimumChange(self.home).minimise(self.problem, here, self._keep_if_better).point)
        if not self.points:
            for point in sign_changes(self.problem, self.home):
                self._take(point)
        self._others(executor, threads)
        self._walk()
        self._nearer(executor, threads)
        if not self.points and self.problem.jagged:
            self._comb(executor, threads)

    def _is_met(self, point: Point) -> bool:
        """Whether every target is met, by what it says itself; outcomes are read only where the misses are small."""
        return meets_with_margin(self.problem, point) or (point.cost <= len(point.r) and self.solution(point).met)

    def moves_nothing(self) -> bool:
        """Return whether no residual of a target moves, whatever the unknowns are: at both ends of each, and all over their ranges.

        Then nothing can be reached, and starts from elsewhere would be looked at for nothing.
        """
        problem, count = self.problem, len(self.problem.unknowns)
        here = evaluate(problem, self.home).r
        ends = (with_entry(self.home, j, u) for j in range(count) for u in (0.0, 1.0))
        spread = (np.concatenate([u, self.home[count:]]) for u in qmc.Sobol(count, seed=self.case.seed).random(N_STARTS))
        return all(np.abs(evaluate(problem, p).r - here).max(initial=0.0) <= MOVED for p in (*ends, *spread))

    def first_solution(self, report: Callable[[Point], None] | None = None) -> Point:
        """Return what the pull from the present values finds, or the first solution from elsewhere; else the closest.

        Parameters
        ----------
        report : is called with every better point
        """
        self._report = report
        self._take(MinimumChange(self.home).minimise(self.problem, evaluate(self.problem, self.home), self._keep_if_better).point)
        if not self.points and self.moves_nothing():
            self.out_of_reach = True
        elif not self.points:
            for start in self._starts(4 * N_STARTS):
                self._take(self._from(start))
                if self.points or self.problem.simulations > BUDGET:
                    break
        self._walk()
        self.points.sort(key=self._change)
        return self.points[0] if self.points else self.best

    # -- searching -----------------------------------------------------------------------------

    def _keep_if_better(self, point: Point) -> None:
        if point.cost < self.best.cost:
            self.best = point
        if self.first is None and meets_with_margin(self.problem, point):
            self.first = self.problem.simulations
        if self._report is not None:
            self._report(point)
        if self._progress is not None:
            values = self.problem.values(self.best.p) if np.isfinite(self.best.cost) else {}
            self._progress(Progress(self._phase, None, self.problem.simulations, values, self._fraction))

    def _take(self, point: Point) -> None:
        self._keep_if_better(point)
        if not meets_with_margin(self.problem, point):
            return
        for k, other in enumerate(self.points):
            if np.linalg.norm(point.p - other.p) < DISTINCT_DISTANCE:
                if self._change(point) < self._change(other):
                    self.points[k] = point
                return
        self.points.append(point)

    def _change(self, point: Point) -> float:
        return float(np.linalg.norm(point.p - self.home))

    def _others(self, executor: Executor | None, threads: int | None) -> None:
        """Starts spread over the box, nearest first; the order of what they find does not depend on the threads."""
        self._phase = "other starts"
        self._over(self._starts(), executor, threads, 0.1, 0.6)

    def _nearer(self, executor: Executor | None, threads: int | None) -> None:
        """Starts nearer to the present values than the nearest solution is: another valley of solutions may reach in there."""
        if not self.points:
            return
        self._phase = "nearer starts"
        nearest = min(map(self._change, self.points))
        box = qmc.Sobol(len(self.home), rng=np.random.default_rng(self.case.seed + 1)).random(4 * N_LOCAL_STARTS)
        starts = np.clip(self.home + nearest * (2 * box - 1), 0, 1)
        inside = [start for start in starts if np.linalg.norm(start - self.home) < nearest][:N_LOCAL_STARTS]
        self._over(inside, executor, threads, 0.7, 0.2)
        if min(map(self._change, self.points)) < nearest:
            self._walk()

    def _over(self, starts: list[Array], executor: Executor | None, threads: int | None, begun: float, fraction: float) -> None:
        own = ThreadPoolExecutor(threads or 1) if executor is None or not isinstance(executor, ThreadPoolExecutor) else None
        pool = own or executor
        assert pool is not None
        try:
            for k, point in enumerate(pool.map(self._from, starts)):
                self._fraction = begun + fraction * k / len(starts)
                self._take(point)
        finally:
            if own is not None:
                own.shutdown()

    def _walk(self) -> None:
        """From the nearest solutions found, along what meets the targets to where that comes nearest."""
        for point in sorted(self.points, key=self._change)[:N_PROJECTED]:
            self._take(ClosestSolution(self.home).minimise(self.problem, point).point)

    def _starts(self, count: int = N_STARTS) -> list[Array]:
        box = qmc.Sobol(len(self.home), rng=np.random.default_rng(self.case.seed)).random(count)
        return sorted(box, key=lambda s: float(np.linalg.norm(s - self.home)))

    def _comb(self, executor: Executor | None, threads: int | None) -> None:
        """Around the best, between the teeth of a stepped profile: a small population."""
        self._phase = "between the steps"
        with evaluator_of(self.problem, executor, threads) as runs:
            search = DifferentialEvolution(runs, self.case.seed, 1e-4, generations=25, near=0.03, everywhere=False)
            self._take(search.minimise(self.problem, self.best, self._keep_if_better).point)

    def _from(self, start: Array) -> Point:
        point = LevenbergMarquardt(most=12, reach=0.05, enough=1e-6).minimise(self.problem, start).point
        if point.cost > 50.0 * max(1, len(self.problem.targets)):
            return point
        pulled = MinimumChange(self.home).minimise(self.problem, point).point
        return pulled if pulled.cost <= point.cost or meets_with_margin(self.problem, pulled) else point

    # -- telling -------------------------------------------------------------------------------

    def solution(self, point: Point, distinguished_by: tuple[str, ...] = ()) -> Solution:
        """Return a point as a solution, with what each target comes to.

        Parameters
        ----------
        point : an evaluated point
        distinguished_by : what tells it from the others
        """
        values = {path: float(v) for path, v in self.problem.values(point.p).items()}
        if self._stopped and not self.problem.is_quick:  # a stop is heard at once
            unread = [TargetReport(t, body, None, meets_with_margin(self.problem, point), None, "stopped before it was read")
                      for t, body in self.problem.targets]
            return Solution(values, self._change(point), unread, distinguished_by)
        reading = FitProblem(self.problem.case) if self._stopped else self.problem
        reports = [evaluate_target(t, body, r) for t, body, r in reading.target_readings(values)]
        return Solution(values, self._change(point), reports, distinguished_by)

    def _described(self, points: list[Point]) -> list[Solution]:
        labels: list[list[str]] = [[] for _ in points]
        if len(points) > 1:
            labels[0].append("smallest change")
            for path, words in _extremes(self.problem):
                values = [self.problem.values(p.p)[path] for p in points]
                sizes = [abs(v) for v in values]
                spread = max(sizes) - min(sizes)
                if spread > 0.05 * max(sizes):
                    labels[int(np.argmin(sizes))].append(words[0])
                    labels[int(np.argmax(sizes))].append(words[1])
        return [self.solution(p, tuple(t)) for p, t in zip(points, labels, strict=True)]

    def _notes(self) -> list[str]:
        wanted = sum(t.condition == "equal" for t, _ in self.problem.targets)
        free = len(self.problem.unknowns)
        notes = []
        if self.points and free > wanted:
            notes.append(f"{free} unknowns and {wanted} exact wishes: the solutions are points among many; another wish or a lock "
                         "would tell them apart")
        if self.points and not self._stopped:
            notes += self.problem.remarks(self.problem.values(min(self.points, key=self._change).p))
        return notes

    def _scan(self) -> None:
        """Every unknown over its whole range, from the present values and from the closest: a solution may be a single point that
        no slope leads to. Then several together, by a population."""
        self._phase = "over the whole ranges"
        problem = self.problem
        for start in (self.home, self.best.p):
            for j in range(len(problem.unknowns)):
                row = [evaluate(problem, with_entry(start, j, float(u))) for u in np.linspace(0.0, 1.0, N_SCANNED)]
                for low, high in _promising(row, j):
                    self._take_if_met(_closed_in(problem, row[0].p, j, low, high))
                    if self.points:
                        return
        if len(problem.unknowns) == 1:
            return
        with evaluator_of(problem, None, 1) as runs:  # numbers that only help together
            found = DifferentialEvolution(runs, self.case.seed, 1e-4, generations=30).minimise(problem, self.best,
                                                                                               self._keep_if_better).point
        self._take_if_met(MinimumChange(self.home).minimise(problem, found).point)
        self._take_if_met(found)

    def _take_if_met(self, point: Point) -> None:
        self._keep_if_better(point)
        if not self.points and self._is_met(point):
            self.first = self.first or self.problem.simulations
            self.points.append(point)

    def _conflicts(self) -> list[str]:
        """Which targets stand in the way, by leaving out first one at a time, then what is missed most."""
        self._phase = "what stands in the way"
        closest = self.solution(self.best)
        missed = [t for t in closest.targets if not t.met]
        out = [f"the closest misses {t.target.label} {t.how_missed}" for t in missed]
        out += at_walls(self.problem.unknowns, self.problem.values(self.best.p))
        if len(self.case.targets) < 2:
            return out
        self._most = closest
        met = 0
        for target in self.case.targets:
            if self._without((target,)):
                met += 1
                out.append(f"without {target.label} the others can be met: it is in conflict with them")
        worst = sorted(missed, key=lambda t: -abs(t.miss or np.inf))
        for count in range(2, len(self.case.targets)) if not met else ():
            left_out = tuple(t.target for t in worst[:count])
            if len(left_out) < count:
                break
            if self._without(left_out):
                out.append(f"without {' and '.join(t.label for t in left_out)} the others can be met")
                break
        return out

    def _without(self, left_out: tuple[Target, ...]) -> bool:
        """Whether the other targets can be met; what then meets the most of all is kept."""
        rest = tuple(t for t in self.case.targets if t not in left_out)
        left = None if self.problem.limit is None else max(self.problem.limit - self.problem.simulations, 0)
        part = FitProblem(self.problem.case.model_copy(update={"targets": rest}), self.problem.cancel, limit=left)
        point = MinimumChange(self.best.p).minimise(part, evaluate(part, self.best.p)).point
        if not meets_with_margin(part, point):
            point = MinimumChange(self.home).minimise(part, evaluate(part, self.home)).point
        self.problem.count(part.simulations)
        there = self.solution(point)
        if self._most is not None and sum(t.met for t in there.targets) > sum(t.met for t in self._most.targets):
            self._most = there
        return meets_with_margin(part, point)


def _promising(row: list[Point], j: int) -> list[tuple[float, float]]:
    """Stretches of a scan in which a solution may lie: where a miss changes its sign, and around the lowest costs."""
    at = np.array([point.p[j] for point in row])
    cost = np.array([point.cost for point in row])
    r = np.array([point.r for point in row])
    crossed = np.flatnonzero((np.sign(r[1:]) * np.sign(r[:-1]) < 0).any(axis=1))
    lowest = np.argsort(cost)[:4]
    out = [(at[k], at[k + 1]) for k in crossed[np.argsort(np.minimum(cost[crossed], cost[crossed + 1]))][:6]]
    return [(float(a), float(b)) for a, b in out] + [
        (float(at[max(k - 1, 0)]), float(at[min(k + 1, len(at) - 1)])) for k in lowest]


def _closed_in(problem: FitProblem, p: Array, j: int, low: float, high: float) -> Point:
    """The best point of a stretch: bisection on the miss that changes its sign most, else a search for the least cost."""
    ends = [evaluate(problem, with_entry(p, j, u)) for u in (low, high)]
    changed = np.flatnonzero(np.sign(ends[0].r) * np.sign(ends[1].r) < 0)
    best = min(ends, key=lambda point: point.cost)
    if len(changed):
        k = int(changed[np.argmax(np.abs(ends[1].r - ends[0].r)[changed])])
        sign = np.sign(ends[0].r[k])
        for _ in range(50):
            middle = evaluate(problem, with_entry(p, j, 0.5 * (low + high)))
            best = min(best, middle, key=lambda point: point.cost)
            if best.cost < 1e-12 or high - low < 1e-15:
                break
            low, high = (0.5 * (low + high), high) if np.sign(middle.r[k]) == sign else (low, 0.5 * (low + high))
        return best
    found = minimize_scalar(lambda u: evaluate(problem, with_entry(p, j, float(u))).cost, bounds=(low, high), method="bounded",
                            options={"maxiter": 25, "xatol": 1e-7})
    there = evaluate(problem, with_entry(p, j, float(found.x)))
    return min(best, there, key=lambda point: point.cost)


def _extremes(problem: FitProblem) -> list[tuple[str, tuple[str, str]]]:
    """Words for the least and the greatest of each unknown."""
    words = {"restitution": ("softest surface", "liveliest surface"), "friction": ("smoothest surface", "roughest surface"),
             "speed": ("slowest launch", "fastest launch"), "mass": ("lightest", "heaviest"),
             "angular_velocity": ("least spin", "most spin"),
             "rolling_resistance": ("easiest roll", "hardest roll"), "drag_coefficient": ("least drag", "most drag")}
    out = []
    for unknown in problem.unknowns:
        kind = kind_of(unknown.path)
        if kind == "velocity":
            axis = unknown.path[-1]
            out.append((unknown.path, (f"slowest launch along {axis}", f"fastest launch along {axis}")))
        elif kind in words:
            out.append((unknown.path, words[kind]))
    return out


