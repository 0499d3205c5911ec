"""The fit: first guess, refinement, patterns, fallback, outliers, uncertainty.

1. Read the tracks (no simulation): starts, one for each likely slip/grip pattern, and single frames that stand alone
   (``initial``).
2. Descend from each with a linear loss (``levenberg_marquardt``): a robust loss from far away gets lost. Then every sample is given
   back, and what may be an outlier is left out (``outliers``). A σ that nobody told is read again from what is left over
   (``noise``).
3. Compare the patterns that are left, the plateaus on which friction or spin say nothing (``slip_stick_modes``), and for bodies
   with corners the restitutions beside (``restitution_scan``).
4. Only if the misfit stays bad: growing horizon, several starts, a population (``global_search``).
5. Where anything makes the answer doubtful, descend from the case's own numbers and from the middle of the ranges too; the lowest
   cost over all samples wins, each residual capped at the outlier limit. Answers within the price of it are told beside it.
6. Covariance, what cannot be told, one-sided bounds (``covariance``); other answers and what is left over (``verdict``).

Targets alone are met by the nearest change instead (``targets.search``).
"""

from __future__ import annotations

import time
from collections.abc import Callable, Collection
from concurrent.futures import Executor

import numpy as np
from scipy.stats import qmc

from yapa.case.model import Case
from yapa.fitting.confidence.residual_diagnostics import hangs_together
from yapa.fitting.initial import TrackFeatures, read_tracks
from yapa.fitting.initial.seen import ObservedTrack
from yapa.fitting.optimise.global_search import DifferentialEvolution
from yapa.fitting.optimise.jacobian import POOR, Point, evaluate, with_best_offsets
from yapa.fitting.optimise.levenberg_marquardt import LevenbergMarquardt
from yapa.fitting.optimise.minimum_change import meets_with_margin
from yapa.fitting.optimise.trust_region import TrustRegion
from yapa.fitting.problem.cancel import Cancel, Cancelled, FitStatus
from yapa.fitting.problem.evaluator import evaluator_of
from yapa.fitting.problem.problem import MAX_SIMULATIONS, FitProblem
from yapa.fitting.problem.result import FitResult, Progress
from yapa.fitting.targets.search import Search
from yapa.fitting.tracks.fit_result import result_of
from yapa.fitting.tracks.noise import CHANGE, GREATEST_CHANGE, read_again, read_noises, take_noises
from yapa.fitting.tracks.outliers import Settled, capped_cost, settle, spells
from yapa.fitting.tracks.restitution_scan import scan_restitutions
from yapa.fitting.tracks.slip_stick_modes import Tried, noise_scale, search_modes, span_of
from yapa.fitting.tracks.verdict import LOWER, lie_together, unweighted

MISFIT_LIMIT = 1.8
"""Mean clipped squared residual above which the fit looks elsewhere."""
N_ANYWHERE = 8
"""Starts all over the ranges, where the case's own numbers and the middle leave a poor answer."""
AROUND = 16
"""starts close by"""
CLOSE = 0.015
"""of the ranges: how far off they are"""
LIKELY = 2.5
"""Deviations off at which a correlation from frame to frame makes an answer doubtful, though not yet worth a word."""
SAME = 1e-3
"""of the ranges: answers that lie closer in every number are one"""
ALIKE = 0.01
"""of the ranges: answers so close that neither makes the other doubtful"""


class Fit:
    """One fit of a case; keeps its best so far, so that stopping loses nothing."""

    def __init__(self, case: Case, progress: Callable[[Progress], None] | None = None, cancel: Cancel | None = None,
                 executor: Executor | None = None, threads: int | None = None, limit: int = MAX_SIMULATIONS) -> None:
        self._executor, self._threads = executor, threads
        self.cancel = cancel or Cancel()
        self.problem = FitProblem(case, self.cancel, limit=limit)
        self._progress = progress
        self._phase = "reading the track"
        self._fraction = 0.0
        self.best: Point | None = None
        self.keep: np.ndarray | None = None
        self.tried = Tried()
        self.met: list[Point] = []
        self._compared_without_outliers = False
        self.seen_tracks: tuple[ObservedTrack, ...] = ()
        self._guess: dict[str, float] = {}
        self.out_of_reach = False

    def run(self) -> FitResult:
        """Fit. Never raises for a stop: the result then says "cancelled" and holds the best so far.

        Returns
        -------
        The result.
        """
        begun = time.perf_counter()
        stopped = FitStatus.CONVERGED
        try:
            good = self._search()
            if not good:
                stopped = FitStatus.NOT_REACHABLE if self.out_of_reach else FitStatus.NOT_CONVERGED
        except Cancelled as stop:
            stopped = stop.status
        return result_of(self, stopped, begun)

    # -- phases --------------------------------------------------------------------------------

    def enter(self, phase: str, fraction: float) -> None:
        """Go on to a phase, so far along the way.

        Parameters
        ----------
        phase : in words
        fraction : fraction of the fit, from 0 to 1
        """
        self._phase, self._fraction = phase, fraction
        if self._progress is not None:
            self._report_progress(self.best)

    def _report_progress(self, point: Point | None) -> None:
        if self._progress is None:
            return
        problem = self.problem
        self._progress(Progress(
            self._phase, None if point is None else problem.misfit_of(point.r), problem.simulations,
            {} if point is None else problem.values(point.p), self._fraction,
        ))

    def _keep_if_better(self, point: Point) -> None:
        if self.best is None or point.cost < self.best.cost:
            self.best = point
        self._report_progress(self.best)

    def _search(self) -> bool:
        problem = self.problem
        self.enter("reading the track", 0.0)
        if not problem.tracks:
            self.enter("nearest change", 0.1)
            return self._to_targets()
        read = read_tracks(problem)
        self.seen_tracks, self._guess = read.seen, read.starts[0].values
        good = self._from_starts(read)
        self.enter("sliding or gripping", 0.35)
        self._compare_patterns(read.compared, any(not any(start.slides) for start in read.starts))
        assert self.best is not None
        if self.best.clipped > MISFIT_LIMIT:
            problem.robust_weights = self.keep = None
            self.best = evaluate(problem, self.best.p)
            good = self._look_elsewhere()
            self._read_noise_again(GREATEST_CHANGE)
        if problem.jagged:
            self._comb()
        self.enter("outliers", 0.72)
        best = self._settled(self.best)
        if best.keep is not None and not self._compared_without_outliers:
            best = self._compared_again(best)
        if self._is_doubtful(best, read):
            best = self._lowest(self._from_elsewhere(best))
        self._adopt(best)
        final = LevenbergMarquardt(most=12, enough=1e-3).minimise(problem, self.best)
        self.best = final.point
        if not final.settled:  # a kink in the way: from beside it, and on
            self._compare_patterns()
            final = LevenbergMarquardt(most=30, enough=1e-3).minimise(problem, self.best)
            self.best = final.point
        self._find_noises()
        return good or final.settled

    def _from_starts(self, read: TrackFeatures) -> bool:
        """Descend from every start; then with every sample given back, outliers left out. Whether nothing more is to be gained."""
        problem = self.problem
        mask = problem.robust_weights = self._without_far(read)
        good = False
        for k, start in enumerate(read.starts):
            point = evaluate(problem, with_best_offsets(problem, problem.vector(start.values)))
            self._keep_if_better(point)  # a stop from here on keeps at least the first guess
            self.enter("refining", 0.15 + 0.05 * k)
            assert self.best is not None
            hopeless = None if k == 0 else self.best.cost + self.tried.price
            found = LevenbergMarquardt(hopeless=hopeless).minimise(problem, point, self._keep_if_better)
            if k > 0 and not found.settled:
                self.tried.dropped = True
            self.tried.add(found, np.inf if hopeless is None else hopeless)
            if k == 0 or found.point.cost < self.best.cost:
                self.best, good = found.point, found.settled
        assert self.best is not None
        self._read_noise_again()
        best = self._settled(self.best)
        if mask is not None:  # and once with every sample from the start on
            problem.robust_weights = None
            first = with_best_offsets(problem, problem.vector(read.starts[0].values))
            other = self._settled(LevenbergMarquardt().minimise(problem, first).point)
            best = other if other.capped < best.capped else best
        self._adopt(best)
        return good

    def _read_noise_again(self, most: float = CHANGE) -> None:
        """σ that nobody told, from what is left over, and the answer by it, in turn."""
        problem = self.problem
        for _ in range(3):
            assert self.best is not None
            if not read_again(problem, self.best.r[: problem.track_residuals], most):
                return
            self.tried.points.clear()  # their costs are of another σ
            self.tried.held.clear()
            self.best = LevenbergMarquardt(most=8).minimise(problem, self.best.p).point

    def _compare_patterns(self, compared: Collection[str] = (), gripping: bool = True) -> None:
        assert self.best is not None
        self._compared_without_outliers = self.problem.robust_weights is not None
        best = search_modes(self.problem, self.best, self._keep_if_better, compared, gripping, self.tried)
        self.best = scan_restitutions(self.problem, best, self._keep_if_better)

    def _compared_again(self, best: Settled) -> Settled:
        """The patterns compared without the samples that were left out, since those may have hidden which it is."""
        self._adopt(best)
        self._compare_patterns()
        assert self.best is not None
        there = self._settled(self.best)
        return there if there.capped < best.capped or self.tried.plateaus else best

    def _settled(self, point: Point) -> Settled:
        return settle(self.problem, point, self._times_of_contacts)

    def _adopt(self, settled: Settled) -> None:
        self.best, self.keep, self.problem.robust_weights = settled.point, settled.keep, settled.weights

    def _times_of_contacts(self, p: np.ndarray) -> list[list[float]]:
        """Of every track, when its body meets something at more than a touch, on the track's own clock [s]."""
        problem = self.problem
        values = problem.values(p)
        sampled, end = span_of(problem)
        motion = problem.motion(values, sampled, end)
        late = {t.name: values.get(f"tracks.{t.name}.time_offset", t.time_offset) for t in problem.case.tracks}
        return [[c.time - late[e.data.name] for c in motion.contacts_of(e.data.body) if c.approach > 0.05]
                for e in problem.evidence]

    def _is_doubtful(self, best: Settled, read: TrackFeatures) -> bool:
        """Whether samples were left out, a hypothesis was dropped, another answer comes close, or what is left over is no noise."""
        problem = self.problem
        if best.keep is not None or self.tried.dropped or read.dropped or best.point.clipped > POOR:
            return True
        price = self.tried.price * noise_scale(problem, best.point)
        if any(point.cost < best.point.cost + price for point in self.others(best.point, ALIKE)):
            return True
        return hangs_together(problem, best.point.r[: problem.track_residuals], LIKELY) is not None

    def others(self, best: Point, same: float = SAME) -> list[Point]:
        """Return where other descents ended, elsewhere than the best, the lowest first.

        Parameters
        ----------
        best : the best point so far
        same : largest distance in the unit box of points that are one
        """
        identifiable = [j for j in range(len(self.problem.unknowns)) if j not in self.tried.plateaus]
        out: list[Point] = []
        for point in sorted(self.tried.points, key=lambda q: q.cost):
            others = out if point.cost < best.cost - LOWER else [best, *out]
            if all(np.abs(point.p[identifiable] - other.p[identifiable]).max(initial=0.0) > same for other in others):
                out.append(point)
        return out

    def _from_elsewhere(self, best: Settled) -> Settled:
        """Descend from the case's own numbers and from the middle of the ranges too, with every sample."""
        problem = self.problem
        self.enter("from elsewhere", 0.77)
        if best.keep is not None and best.point.clipped > POOR:  # outliers have hidden which pattern it is
            best = self._compared_again(best)
        count = len(problem.unknowns)
        starts = [problem.vector(), *(problem.vector() for _ in range(1 + N_ANYWHERE))]
        starts[1][:count] = 0.5
        anywhere = qmc.Sobol(count, rng=np.random.default_rng(problem.case.seed + 3)).random(N_ANYWHERE)
        for start, u in zip(starts[2:], anywhere, strict=True):
            start[:count] = u
        for k, start in enumerate(starts):
            if k > 1 and best.point.clipped < POOR and not self._stays_off(best):
                break
            problem.robust_weights = None
            found = LevenbergMarquardt(most=30).minimise(problem, with_best_offsets(problem, start))
            there = self._settled(found.point)
            if there.is_better_than(best):
                self.tried.points.append(best.point)
                self._adopt(there)
                self._compare_patterns()
                assert self.best is not None
                best = self._settled(self.best)
                self._report_progress(best.point)
            elif there.capped < best.capped + self.tried.price * noise_scale(problem, best.point):
                self.tried.points.append(there.point)
        return self._from_around(best)

    def _stays_off(self, best: Settled) -> bool:
        """Whether frames in a row are far off and had to stay."""
        return lie_together(spells(self.problem, best.point.r, best.keep))

    def _lowest(self, best: Settled) -> Settled:
        """The answer for which all samples together say more, by the price and above, of all where a descent ended."""
        problem = self.problem
        price = self.tried.price * noise_scale(problem, best.point)
        for point in self.others(best.point):
            problem.robust_weights = None
            whole = evaluate(problem, point.p)
            if capped_cost(problem, whole.r) < best.capped - price:
                there = self._settled(whole)
                if there.capped < best.capped:
                    self.tried.points.append(best.point)
                    best = there
        return best

    def _from_around(self, best: Settled) -> Settled:
        """Where what is left over is no noise: descents from close by, since valleys of bodies with corners lie side by side."""
        problem = self.problem
        count = len(problem.unknowns)
        for u in qmc.Sobol(count, rng=np.random.default_rng(problem.case.seed + 2)).random(AROUND):
            problem.robust_weights, here = best.weights, best.point
            if hangs_together(problem, here.r[: problem.track_residuals]) is None and here.clipped < POOR:
                break
            start = best.point.p.copy()
            start[:count] = np.clip(start[:count] + CLOSE * (2 * u - 1), 0.0, 1.0)
            found = LevenbergMarquardt(most=14, hopeless=here.cost).minimise(problem, start).point
            held = self.tried.plateaus and here.clipped < POOR  # a good answer on a plateau is left for more than its price
            if found.cost < here.cost - (self.tried.price * noise_scale(problem, here) if held else 0.5):
                there = self._settled(found)
                if there.capped < best.capped:
                    self.tried.points.append(best.point)
                    best = there
                    self._report_progress(best.point)
        return best

    def _comb(self) -> None:
        """Around the best, between the teeth of a stepped profile, where slopes no longer lead: a small population."""
        assert self.best is not None
        self.enter("between the steps", 0.7)
        with evaluator_of(self.problem, self._executor, self._threads) as runs:
            search = DifferentialEvolution(runs, self.problem.case.seed, 0.0, 25, near=0.01, everywhere=False, met=self.met)
            self._take(search.minimise(self.problem, self.best, self._keep_if_better).point)
        self.problem.coarse = False  # from here on one tooth, on which the motion is smooth

    def _to_targets(self) -> bool:
        """Targets alone: the nearest change from the present values, else from elsewhere."""
        search = Search(self.problem.case, None, self.cancel, self.problem.limit)
        search.problem = self.problem
        self.best = search.first_solution(self._keep_if_better)
        self.out_of_reach = search.out_of_reach
        return meets_with_margin(self.problem, self.best) or search.solution(self.best).met

    def _without_far(self, read: TrackFeatures) -> np.ndarray | None:
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
            self.enter("noise", 0.82)
            if not take_noises(problem, read_noises(problem, unweighted(problem, self.best), self.keep)):
                return
            self.best = LevenbergMarquardt(most=12).minimise(problem, self.best.p).point

    def _look_elsewhere(self) -> bool:
        """Growing horizon from the guess, then several starts; the best wins."""
        assert self.best is not None
        problem = self.problem
        self.enter("growing horizon", 0.5)
        p = problem.vector(self._guess)
        end = float(problem.times[-1])
        for fraction in (0.15, 0.3, 0.5, 0.75, 1.0):
            horizon = None if fraction == 1.0 else max(fraction * end, problem.times[:6][-1])
            found = TrustRegion(horizon, most=12).minimise(problem, p)
            p = found.point.p
        self._take(found.point)
        if self.best.clipped > MISFIT_LIMIT:
            self.enter("several starts", 0.6)
            count = len(problem.unknowns)
            guess = problem.vector(self._guess)
            for k, u in enumerate(qmc.Sobol(count, seed=problem.case.seed).random(16)):
                q = guess.copy()
                fraction = 0.1 if k < 6 else 0.5
                q[:count] = np.clip(guess[:count] + fraction * (u - 0.5) * 2, 0, 1)
                self._take(TrustRegion(most=10).minimise(problem, with_best_offsets(problem, q)).point)
                if self.best.clipped <= MISFIT_LIMIT:
                    break
        if self.best.clipped > MISFIT_LIMIT:
            self.enter("population", 0.65)
            with evaluator_of(problem, self._executor, self._threads) as runs:
                search = DifferentialEvolution(runs, problem.case.seed, 1.3 * MISFIT_LIMIT)
                found = search.minimise(problem, self.best, self._keep_if_better)
            self._take(LevenbergMarquardt(most=40).minimise(problem, found.point, self._keep_if_better).point)
        self._compare_patterns()
        last = LevenbergMarquardt(most=30).minimise(problem, self.best)
        self.best = last.point
        return last.settled

    def _take(self, point: Point) -> None:
        if self.best is None or point.cost < self.best.cost:
            self.best = point
            self._report_progress(point)
