"""The fit: first guess, refinement, patterns, fallback, outliers, uncertainty.

1. Read the tracks (no simulation): starts, one for each likely slip/grip pattern, and frames to leave out at first (``guess``).
2. Descend from each with a linear loss (``descent``): a robust loss from far away gets lost.
3. Compare the patterns that are left, the plateau on which friction says nothing (``patterns``), and for bodies with corners
   the restitutions beside (``beside``).
4. Only if the misfit stays bad: growing horizon, several starts, a population (``population``).
5. Only near the answer, and only if there are outliers: Tukey weights (5σ), refitted.
6. Covariance, what cannot be told, one-sided bounds, and what is left over (``uncertainty``, ``systematic``).

Targets alone are met by the nearest change instead (``solve``).
"""

from __future__ import annotations

import time
from collections.abc import Callable
from concurrent.futures import Executor

import numpy as np
from scipy.stats import qmc

from yapa.case.model import Case
from yapa.case.unknowns import Estimate
from yapa.fitting.beside import try_beside
from yapa.fitting.descent import descend
from yapa.fitting.goals import judge
from yapa.fitting.guess import Readings, read_tracks
from yapa.fitting.guess.seen import Seen
from yapa.fitting.nearest import met_well
from yapa.fitting.noise import FINDING as NOISE_FOUND
from yapa.fitting.noise import read_noises, take_noises, track_of
from yapa.fitting.patterns import try_patterns
from yapa.fitting.population import search_population
from yapa.fitting.problem import MAX_SIMULATIONS, Cancel, Cancelled, Problem, from_unit
from yapa.fitting.refine import Point, evaluate, refine, with_best_offsets
from yapa.fitting.result import FitResult, Progress, TargetReport
from yapa.fitting.runs import runs_of
from yapa.fitting.solve import Search
from yapa.fitting.systematic import signs
from yapa.fitting.takes import fit_takes
from yapa.fitting.uncertainty import estimates, spread

BAD = 1.8
"""Mean clipped squared residual above which the fit looks elsewhere."""
OUTLIER = 5.0


class Fit:
    """One fit of a case; keeps its best so far, so that stopping loses nothing."""

    def __init__(self, case: Case, progress: Callable[[Progress], None] | None = None, cancel: Cancel | None = None,
                 executor: Executor | None = None, threads: int | None = None, limit: int = MAX_SIMULATIONS) -> None:
        self._executor, self._threads = executor, threads
        self.cancel = cancel or Cancel()
        self.problem = Problem(case, self.cancel, limit=limit)
        self._progress = progress
        self._phase = "reading the track"
        self._share = 0.0
        self.best: Point | None = None
        self._keep: np.ndarray | None = None
        self._met: list[Point] = []
        self._seen_tracks: tuple[Seen, ...] = ()
        self._guess: dict[str, float] = {}

    def run(self) -> FitResult:
        """Fit. Never raises for a stop: the result then says "cancelled" and holds the best so far."""
        begun = time.perf_counter()
        stopped = "converged"
        try:
            good = self._search()
            if not good:
                stopped = "not converged"
        except Cancelled as stop:
            stopped = stop.status
        return self._result(stopped, begun)

    # -- phases --------------------------------------------------------------------------------

    def _enter(self, phase: str, share: float) -> None:
        self._phase, self._share = phase, share
        if self._progress is not None:
            self._tell(self.best)

    def _tell(self, point: Point | None) -> None:
        if self._progress is None:
            return
        problem = self.problem
        self._progress(Progress(
            self._phase, None if point is None else problem.misfit_of(point.r), problem.simulations,
            {} if point is None else problem.values(point.p), self._share,
        ))

    def _seen(self, point: Point) -> None:
        if self.best is None or point.cost < self.best.cost:
            self.best = point
        self._tell(self.best)

    def _search(self) -> bool:
        problem = self.problem
        self._enter("reading the track", 0.0)
        if not problem.tracks:
            self._enter("nearest change", 0.1)
            return self._to_targets()
        read = read_tracks(problem)
        self._seen_tracks, self._guess = read.seen, read.starts[0].values
        problem.robust_weights = self._without_far(read)
        good = False
        for k, start in enumerate(read.starts):
            point = evaluate(problem, with_best_offsets(problem, problem.vector(start.values)))
            self._seen(point)  # a stop from here on keeps at least the first guess
            self._enter("refining", 0.15 + 0.05 * k)
            assert self.best is not None
            found = descend(problem, point, report=self._seen, hopeless=None if k == 0 else self.best.cost + 2.0)
            if k == 0 or found.point.cost < self.best.cost:
                self.best, good = found.point, found.settled
        self._enter("sliding or gripping", 0.35)
        gripping = any(not any(start.slides) for start in read.starts)
        assert self.best is not None
        self.best = try_beside(problem, try_patterns(problem, self.best, self._seen, read.compared, gripping), self._seen)
        if self.best.clipped > BAD:
            problem.robust_weights = None
            self.best = evaluate(problem, self.best.p)
            good = self._look_elsewhere()
        if problem.jagged:
            self._comb()
        self._enter("outliers", 0.75)
        self._handle_outliers()
        final = descend(problem, self.best, most=12, enough=1e-3)
        self.best = final.point
        self._find_noises()
        return good or final.settled

    def _comb(self) -> None:
        """Around the best, between the teeth of a stepped profile, where slopes no longer lead: a small population."""
        assert self.best is not None
        self._enter("between the steps", 0.7)
        with runs_of(self.problem, self._executor, self._threads) as runs:
            found = search_population(self.problem, runs, self.best, self.problem.case.seed, 0.0, self._seen, generations=25,
                                      near=0.01, everywhere=False, met=self._met)
        self._take(found)
        self.problem.coarse = False  # from here on one tooth, on which the motion is smooth

    def _to_targets(self) -> bool:
        """Targets alone: the nearest change from the present values, else from elsewhere."""
        search = Search(self.problem.case, None, self.cancel, self.problem.limit)
        search.problem = self.problem
        self.best = search.first_solution(self._seen)
        return met_well(self.problem, self.best) or search.solution(self.best).met

    def _without_far(self, read: Readings) -> np.ndarray | None:
        """Weights that leave out frames far off the flights read off the tracks, until the fit can judge them itself."""
        problem = self.problem
        far = []
        for e in problem.evidence:
            here = read.far[e.data.name]
            far += [here] * len(e.columns) + ([np.zeros(len(here), bool)] if e.data.angle is not None else [])
        mask = np.concatenate(far)
        return None if not mask.any() or mask.mean() > 0.2 else np.where(mask, 0.0, 1.0)

    def _find_noises(self) -> None:
        """The unknown σ of tracks and the other unknowns in turn."""
        assert self.best is not None
        problem = self.problem
        for _ in range(12 if problem.noises else 0):
            self._enter("noise", 0.82)
            if not take_noises(problem, read_noises(problem, self._unweighted(), self._keep)):
                return
            self.best = descend(problem, self.best.p, most=12).point

    def _look_elsewhere(self) -> bool:
        """Growing horizon from the guess, then several starts; the best wins."""
        assert self.best is not None
        problem = self.problem
        self._enter("growing horizon", 0.5)
        p = problem.vector(self._guess)
        end = float(problem.times[-1])
        good = False
        for share in (0.15, 0.3, 0.5, 0.75, 1.0):
            point, good = refine(problem, p, horizon=None if share == 1.0 else max(share * end, problem.times[5]), most=12)
            p = point.p
        self._take(point)
        if self.best.clipped > BAD:
            self._enter("several starts", 0.6)
            count = len(problem.unknowns)
            guess = problem.vector(self._guess)
            for k, u in enumerate(qmc.Sobol(count, seed=problem.case.seed).random(16)):
                q = guess.copy()
                share = 0.1 if k < 6 else 0.5
                q[:count] = np.clip(guess[:count] + share * (u - 0.5) * 2, 0, 1)
                point, _ = refine(problem, with_best_offsets(problem, q), most=10)
                self._take(point)
                if self.best.clipped <= BAD:
                    break
        if self.best.clipped > BAD:
            self._enter("population", 0.65)
            with runs_of(problem, self._executor, self._threads) as runs:
                found = search_population(problem, runs, self.best, problem.case.seed, 1.3 * BAD, self._seen)
            self._take(descend(problem, found, most=40, report=self._seen).point)
        self.best = try_beside(problem, try_patterns(problem, self.best, self._seen), self._seen)
        last = descend(problem, self.best, most=30)
        self.best = last.point
        return last.settled

    def _take(self, point: Point) -> None:
        if self.best is None or point.cost < self.best.cost:
            self.best = point
            self._tell(point)

    def _handle_outliers(self) -> None:
        """Tukey's weights, refitted until they settle; only where a few samples stand far off."""
        assert self.best is not None
        problem = self.problem
        n = problem.track_residuals
        for _ in range(6):
            problem.robust_weights = None
            raw = problem.residuals(self.best.p)[:n]
            seen = np.isfinite(problem.residual_times)
            scale = max(1.0, 1.4826 * float(np.median(np.abs(raw[seen]))))
            far = seen & (np.abs(raw) > OUTLIER * scale)
            if not far.any() or far.sum() > 0.2 * seen.sum():
                self._keep = None
                self.best = evaluate(problem, self.best.p)
                return
            # the square root of Tukey's weight, since residuals are squared
            weights = np.where(far, 0.0, 1.0 - (raw / (OUTLIER * scale)) ** 2)
            previous = self._keep
            self._keep = ~far
            problem.robust_weights = weights
            self.best = descend(problem, self.best.p, most=15).point
            if previous is not None and np.array_equal(previous, self._keep):
                return

    # -- the end -------------------------------------------------------------------------------

    def _result(self, stopped: str, begun: float) -> FitResult:
        problem = self.problem
        if self.best is None:
            start = {u.path: Estimate(value=from_unit(u, v), determined=False, reason="stopped before anything was found")
                     for u, v in zip(problem.unknowns, problem.vector(), strict=False)}
            return FitResult(start, None, problem.simulations, time.perf_counter() - begun, stopped,
                             findings=self._why_stopped(stopped))
        if stopped in ("cancelled", "limit reached"):
            told = {path: Estimate(value=v, determined=False, reason="stopped before its uncertainty was known")
                    for path, v in problem.values(self.best.p).items()}
            return FitResult(told, problem.misfit_of(self.best.r, self._keep), problem.simulations,
                             time.perf_counter() - begun, stopped, findings=self._why_stopped(stopped))
        try:
            self._enter("how sure", 0.85)
            told = estimates(problem, self.best, spread(problem, self.best, self._met))
            plain = self._unweighted()
            told |= read_noises(problem, plain, self._keep)
            misfit = problem.misfit_of(plain, self._keep)
            targets = target_reports(problem, problem.values(self.best.p))
            remarks = problem.remarks(problem.values(self.best.p))
        except Cancelled as stop:
            return self._result(stop.status, begun)
        outliers = 0 if self._keep is None else int((~self._keep).sum())
        findings = self._findings(told, misfit, outliers, targets)
        if problem.tracks:
            kept = plain if self._keep is None else np.where(self._keep, plain[: problem.track_residuals], 0.0)
            findings += signs(problem, problem.values(self.best.p), kept[: problem.track_residuals], self._seen_tracks)
        return FitResult(told, misfit, problem.simulations, time.perf_counter() - begun, stopped, outliers, targets,
                         findings + remarks)

    def _why_stopped(self, stopped: str) -> list[str]:
        if stopped != "limit reached":
            return []
        return [f"stopped after {self.problem.limit:,} simulations, the most it may take: fewer unknowns, narrower ranges or a "
                "higher limit may let it end"]

    def _unweighted(self) -> np.ndarray:
        assert self.best is not None
        weights, self.problem.robust_weights = self.problem.robust_weights, None
        try:
            return evaluate(self.problem, self.best.p).r
        finally:
            self.problem.robust_weights = weights

    def _findings(self, told: dict[str, Estimate], misfit: float | None, outliers: int, targets: list[TargetReport]
                  ) -> list[str]:
        from yapa.case.paths import label_of

        out = []
        for path, e in told.items():
            if not e.determined:
                out.append(f"{label_of(path)}: {e.reason}")
        for unknown in self.problem.unknowns:
            e = told[unknown.path]
            at_wall = min(abs(e.value - unknown.low), abs(e.value - unknown.high)) < 1e-6 * (unknown.high - unknown.low)
            if e.determined and at_wall and self.problem.tracks:
                out.append(f"{label_of(unknown.path)} stands at the end of its range; widen the range if it should go on")
        if misfit is not None and misfit > 1.5:
            out.append(f"the simulation misses the track by {misfit:.1f} σ: something in the model is not as it was, "
                       "or σ is too small")
        out += [NOISE_FOUND.format(track_of(u)) for u in self.problem.noises]
        if outliers:
            out.append(f"{outliers} samples were judged outliers and left out")
        for t in targets:
            if not t.met:
                why = t.missing or (f"misses by {abs(t.miss):.2g} tolerances" if t.miss is not None else "missed")
                out.append(f"target {t.target.label} is not met: {why}")
        return out


def target_reports(problem: Problem, values: dict[str, float]) -> list[TargetReport]:
    """Each target beside its outcome at these values."""
    return [
        judge(t, body, r)
        for t, body, r in problem.target_readings(values)
    ]


def fit(case: Case, progress: Callable[[Progress], None] | None = None, cancel: Cancel | None = None, *,
        executor: Executor | None = None, threads: int | None = None, limit: int = MAX_SIMULATIONS) -> FitResult:
    """Find the unknowns of a case from its evidence, over all its takes where it has some.

    Parameters
    ----------
    executor : runs batches of simulations; threads of its own (as many as processors, or ``threads``) if left out
    limit : simulations after which it ends with the best so far and the status "limit reached"; of every take's own fit

    Raises
    ------
    InputError
        If nothing is free or there is no evidence.

    Examples
    --------
    >>> result = fit(case)
    >>> result.estimates["pairs.rind+pad.restitution"].value
    """
    if case.takes:
        return fit_takes(case, lambda one: Fit(one, None, cancel, executor, threads, limit).run(), progress, cancel, limit)
    return Fit(case, progress, cancel, executor, threads, limit).run()
