"""What a fit to tracks comes to, beside its numbers: other answers, what is left over, and sentences on both."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from yapa.case.model import Case
from yapa.case.profiles import Precise, Stepped
from yapa.case.quantities import label_of
from yapa.case.unknowns import Estimate
from yapa.fitting.confidence.covariance import covariance_at
from yapa.fitting.confidence.residual_diagnostics import factor_along, hangs_together
from yapa.fitting.optimise.jacobian import Point, evaluate, with_best_offsets
from yapa.fitting.optimise.levenberg_marquardt import LevenbergMarquardt
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.problem.result import Answer, TargetReport, at_walls
from yapa.fitting.tracks.noise import FINDING as NOISE_FOUND
from yapa.fitting.tracks.noise import track_of
from yapa.fitting.tracks.outliers import IN_A_ROW, Spell, capped_cost, spells
from yapa.fitting.tracks.slip_stick_modes import Tried, noise_scale, scatter_of
from yapa.motion import Array

LOWER = 0.3
"""Half a squared misfit by which an answer beside a plateau must be lower to be told, though the plateau's numbers allow it."""
SUSPECT = 1.2
"""Misfit [σ] above which a stepped profile is held against precise."""
FEW_LEFT_OUT = 0.03
"""Share of samples left out that says nothing against a stepped profile."""
OTHER_PROFILE = 12.5
"""Gain of half the squared misfit by which precise is told to be better."""
AS_BAD = 1.5
"""Misfit [σ] above which precise is told to be no better."""


@dataclass(frozen=True)
class Verdict:
    """The end of a fit, looked at.

    Parameters
    ----------
    best : the answer, with the weights it was found with
    keep : (R,) samples that are no outliers; None: all
    tried : the modes of slip and stick that were compared
    others : where other descents ended, the lowest first
    """

    problem: FitProblem
    best: Point
    keep: NDArray[np.bool_] | None
    tried: Tried
    others: list[Point]

    @cached_property
    def plain(self) -> Array:
        """Residuals of the answer, all samples counted the same."""
        return unweighted(self.problem, self.best)

    def runners_up(self, estimates_of: dict[str, Estimate]) -> list[Answer]:
        """Return answers within the price of the one given, outside what it says of its numbers; at most two, the lowest first.

        Parameters
        ----------
        estimates_of : estimates of the answer
        """
        problem = self.problem
        if not problem.tracks:
            return []
        plain = self.plain
        here, price = capped_cost(problem, plain), self.tried.price * noise_scale(problem, self.best)
        weights, problem.robust_weights = problem.robust_weights, None
        try:
            found = [(evaluate(problem, point.p), point) for point in self.others
                     if point.cost < self.best.cost + 3 * price]
        finally:
            problem.robust_weights = weights
        plateaus = {id(point): problem.unknowns[j].path for j, point in self.tried.held}
        answers = [(Answer(problem.values(whole.p), capped_cost(problem, whole.r) - here, plateaus.get(id(point))),
                    max(price, self._price_to(whole.r - plain))) for whole, point in found]
        distinct = (a for a, limit in answers if a.away < limit and (a.away < -LOWER or a.differs_from(estimates_of)))
        beside = sorted(distinct, key=lambda answer: answer.away)[:2]
        return [replace(answer, stds=self._stds_at(answer)) for answer in beside]

    def _price_to(self, apart: np.ndarray) -> float:
        """The price by how the noise hangs together in the columns in which another answer is apart [σ]."""
        problem = self.problem
        apart = apart[: problem.track_residuals]
        kept = apart if self.keep is None else np.where(self.keep, apart, 0.0)
        return self.tried.price * scatter_of(problem, self.best) * factor_along(problem, self.best.r, kept)

    def profile_is_another(self, misfit: float | None, outliers: int) -> str | None:
        """Return a sentence, where a stepped profile cannot follow a recording: it is not certain which numbers another would need.

        Parameters
        ----------
        misfit : root mean square of the residuals
        outliers : samples left out
        """
        problem = self.problem
        if not problem.jagged or misfit is None:
            return None
        plain = self.plain
        r = plain[: problem.track_residuals]
        together = lie_together(spells(problem, plain, self.keep))
        if misfit < SUSPECT and outliers < FEW_LEFT_OUT * len(r) and not together and hangs_together(problem, r) is None:
            return None
        precise = FitProblem(problem.case.model_copy(update={"profile": Precise()}), problem.cancel)
        for e in problem.evidence:
            precise.set_sigma(e.data.name, e.data.sigma, e.data.sigma_angle)
        there = LevenbergMarquardt(most=20).minimise(precise, self.best.p).point
        problem.count(precise.simulations)
        gained = (capped_cost(problem, plain) - capped_cost(precise, there.r)) / noise_scale(precise, there)
        words = (f"the stepped profile ({_profile_words(problem.case)}) is not that of the recording: it leaves "
                 f"{misfit:.2g} σ over" + (f" and {outliers} samples out" if outliers else ""))
        if gained > OTHER_PROFILE:
            return words + f"; half the squared misfit is {gained:.3g} lower in precise. Nothing is told as certain"
        return words + ", in precise too. Nothing is told as certain" if misfit > AS_BAD or together else None

    def _stds_at(self, answer: Answer) -> dict[str, float]:
        problem = self.problem
        point = evaluate(problem, with_best_offsets(problem, problem.vector(answer.values)))
        box = covariance_at(problem, point).std
        return {u.path: float(s) * (u.high - u.low) if u.transform == "linear" else float(s) * value * float(np.log(u.high / u.low))
                for u, s, value in zip(problem.unknowns, box, answer.values.values(), strict=False)}

    def where_it_is_off(self) -> list[str]:
        """Return sentences on outliers, and on samples that are off together and therefore none."""
        problem = self.problem
        every = spells(problem, self.plain, self.keep)
        left = [spell for spell in every if spell.left_out]
        model = [spell for spell in every if not spell.left_out and spell.frames >= 2]
        out = []
        if left:
            count = sum(spell.frames for spell in left)
            where = ", ".join(str(spell) for spell in left[:4]) + (" …" if len(left) > 4 else "")
            out.append(f"{count} frame{'s were' if count > 1 else ' was'} judged outliers and left out: {where}")
        if model:
            worst = sorted(model, key=lambda spell: -spell.frames)[:3]
            out.append("frames more than 5 σ off that lie together: " + "; ".join(str(spell) for spell in worst)
                       + ": a model error, not outliers")
        return out

    def findings(self, estimates_of: dict[str, Estimate], misfit: float | None, targets: list[TargetReport]) -> list[str]:
        """Return sentences on what is undetermined, at an end of its range, or missed.

        Parameters
        ----------
        estimates_of : estimates of the answer
        misfit : root mean square of the residuals
        targets : wanted outcomes
        """
        out = []
        for path, e in estimates_of.items():
            if not e.determined:
                out.append(f"{label_of(path)}: {e.reason}")
        out += at_walls(self.problem.unknowns, {path: e.value for path, e in estimates_of.items()})
        if misfit is not None and misfit > 1.5:
            out.append(f"the simulation misses the track by {misfit:.1f} σ: something in the model is not as it was, "
                       "or σ is too small")
        out += [NOISE_FOUND.format(track_of(u)) for u in self.problem.noises]
        for t in targets:
            if not t.met:
                out.append(f"target {t.target.label} is missed {t.how_missed}")
        return out


def unweighted(problem: FitProblem, point: Point) -> Array:
    """Return residuals at a point, all samples counted the same.

    Parameters
    ----------
    problem : the least-squares problem
    point : an evaluated point
    """
    weights, problem.robust_weights = problem.robust_weights, None
    try:
        return evaluate(problem, point.p).r
    finally:
        problem.robust_weights = weights


def lie_together(spells: list[Spell]) -> bool:
    """Return whether frames in a row are far off and stayed in: an error of the model, or a wrong answer.

    Parameters
    ----------
    spells : runs of frames that are far off
    """
    return any(not spell.left_out and spell.frames >= IN_A_ROW for spell in spells)


def _profile_words(case: Case) -> str:
    profile = case.profile
    assert isinstance(profile, Stepped)
    integrator, _, found, collision = profile.conventions
    return f"{integrator}, {found}, {collision}, {1 / profile.step:.4g} steps/s"
