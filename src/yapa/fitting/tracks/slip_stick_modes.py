"""Slip and stick modes, which contacts slip and which grip: alternatives that a local search cannot see from each other.

A contact grips when μ is at least its critical value, slip / ((1 + 1/κ)(1 + e) approach) with
κ = I/(m r²), 3.5 for a solid sphere. Where a fit ended, the critical values of its contacts cut
the range of friction into intervals; inside each the motion is smooth in μ. So the fit is tried
again from the intervals next to where it stands, and from the plateau above them all, where
every contact grips and friction says nothing more. Where every contact slides to its end, a spin
that nobody saw says nothing either, from some value on: the plateau of the spin. A plateau is
preferred unless half the squared misfit worsens by more than the price, 4.5 + ln n of n patterns
tried (the likelihood ratio of one number at three deviations, and Bonferroni's correction): that
keeps a fit from stopping on the edge between slide and grip with a false certainty.
"""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import dataclass, field

import numpy as np

from yapa.case.parameter_path import parse_path
from yapa.case.unknowns import Unknown, from_unit_box, to_unit_box
from yapa.engine.simulate import Sampling
from yapa.fitting.confidence.residual_diagnostics import autocorrelation_factor
from yapa.fitting.optimise.jacobian import POOR, Point
from yapa.fitting.optimise.levenberg_marquardt import LevenbergMarquardt
from yapa.fitting.optimise.optimiser import Found
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Array, Motion
from yapa.motion.contacts import SlipState

JUST = 0.97
"""Of the friction at which every contact grips: where the last of them just slides."""
SATURATION_MARGIN = 4.5
"""of half the squared misfit: what an answer on a plateau may be worse by and still is the one given"""


@dataclass
class Tried:
    """Patterns that a fit has tried: where each of them ended, and whether one was given up before its end."""

    points: list[Point] = field(default_factory=list)
    dropped: bool = False
    plateaus: set[int] = field(default_factory=set)
    """Unknowns that stand on a plateau."""
    held: list[tuple[int, Point]] = field(default_factory=list)
    """Answers on a plateau, with the unknown that stands on it."""

    def add(self, found: Found, hopeless: float) -> Point:
        """Keep where a descent ended, unless it was given up.

        Parameters
        ----------
        found : where the descent ended
        hopeless : cost above which a descent that did not settle is dropped

        Returns
        -------
        Whether it was kept.
        """
        if found.settled or found.point.cost < hopeless:
            self.points.append(found.point)
        return found.point

    @property
    def price(self) -> float:
        """Half the squared misfit within which two answers are not told apart."""
        return SATURATION_MARGIN + float(np.log(max(len(self.points), 1)))


def friction_unknowns(problem: FitProblem) -> list[int]:
    """Return indices of the unknowns that are a friction.

    Parameters
    ----------
    problem : the least-squares problem
    """
    return [j for j, u in enumerate(problem.unknowns) if parse_path(u.path).quantity in ("friction", "dynamic_friction")]


def critical_frictions(problem: FitProblem, motion: Motion, path: str) -> list[float]:
    """Return critical values, on the scale of the unknown, of the contacts that its friction enters.

    Parameters
    ----------
    problem : the least-squares problem
    motion : simulated or measured motion
    path : path of the number
    """
    mine = problem.program.pairs_meeting_by(path)
    present = _pair_friction(problem, path)
    out = []
    for c in motion.contacts:
        if {c.body, c.partner} in mine and c.approach > 0.02 and motion.body(c.body).kind == "sphere":
            both = 2 if c.partner in motion.trajectories else 1
            mu = c.slip_before / (3.5 * both * (c.approach + c.rebound))
            out.append(mu / present)
    return sorted(v for v in out if v > 1e-6)


def slopes_below(problem: FitProblem, motion: Motion, path: str) -> list[float]:
    """Return frictions, on the scale of the unknown, above which what slid up a slope stays there: the tangents of the slopes it
    is on.

    Parameters
    ----------
    problem : the least-squares problem
    motion : simulated or measured motion
    path : path of the number
    """
    mine = problem.program.pairs_meeting_by(path)
    pull = motion.gravity / max(float(np.linalg.norm(motion.gravity)), 1e-9)
    out = set()
    for phase in motion.contact_intervals:
        if {phase.body, phase.partner} in mine and motion.body(phase.body).kind != "sphere":
            into = abs(float(phase.normal @ pull))
            steep = float(np.sqrt(max(1.0 - into**2, 0.0)) / max(into, 1e-9))
            if 0.02 < steep < 3.0:
                out.add(round(steep, 9))
    return sorted(tangent / _pair_friction(problem, path) for tangent in out)


def _pair_friction(problem: FitProblem, path: str) -> float:
    """How much the pair's friction moves when the unknown moves by one: 1 for a pair's value, 1/2 for a mean."""
    if parse_path(path).section == "pairs":
        return 1.0
    surfaces = problem.program.surfaces_meeting_by(path)
    own = parse_path(path).owner
    if problem.case.pairing.friction == "mean" and surfaces and not all(a == b == own for a, b in surfaces):
        return 0.5
    return 1.0


def _alternatives(unknown: Unknown, value: float, critical: list[float], shares: tuple[float, ...]) -> list[float]:
    """Values to start from: at these shares of the intervals around."""
    inside = [c for c in critical if unknown.low < c < unknown.high]
    edges = [max(unknown.low, 0.0), *inside]
    between = [(a, b) for a, b in zip(edges, edges[1:], strict=False) if b - a > 1e-6 * unknown.high]
    here = int(np.searchsorted(inside, value))
    near = sorted(range(len(between)), key=lambda k: abs(k - here))[:4]
    return [a + share * (b - a) for a, b in (between[k] for k in near) for share in shares]


def plateau_value(unknown: Unknown, critical: list[float]) -> float:
    """Return a friction at which every contact grips, well inside the range.

    Parameters
    ----------
    unknown : the unknown
    critical : frictions at which contacts begin to slip
    """
    top = max([c for c in critical if c < unknown.high], default=unknown.low)
    return top + 0.6 * (unknown.high - top)


def search_modes(problem: FitProblem, best: Point, report: Callable[[Point], None] | None = None,
                 compared: Collection[str] = (), gripping: bool = True, tried: Tried | None = None) -> Point:
    """Return the best point over slip/grip patterns of each friction that is unknown.

    Parameters
    ----------
    problem : the least-squares problem
    best : the best point so far
    report : is called with every better point
    compared : frictions whose likely patterns were all tried as starts; of these only the plateau is left to compare
    gripping : whether among those that every contact grips is likely
    tried : patterns so far; what is tried here is added
    """
    tried = Tried() if tried is None else tried
    earlier = len(tried.held)  # with other weights, so no costs to compare
    for j in friction_unknowns(problem):
        unknown = problem.unknowns[j]
        known = unknown.path in compared and best.clipped < POOR
        if known and not gripping:
            continue
        motion = problem.motion(problem.values(best.p), *span_of(problem))
        critical = critical_frictions(problem, motion, unknown.path)
        value = from_unit_box(unknown, best.p[j])
        below = [c for c in critical if c < unknown.high]
        others = [JUST * below[-1]] if below and value > below[-1] else []
        if not known:
            others += _alternatives(unknown, value, critical, (0.5,) if best.clipped < POOR else (0.5, 0.2, 0.8))
            stays = [c for c in slopes_below(problem, motion, unknown.path) if 0.8 < value / c < 1.25]
            others += [share * c for c in stays for share in (0.9, 1.1) if unknown.low < share * c < unknown.high]
        for other in others:
            hopeless = best.cost + tried.price * noise_scale(problem, best)
            search = LevenbergMarquardt(most=15, hopeless=hopeless)
            found = tried.add(search.minimise(problem, with_entry(best.p, j, to_unit_box(unknown, other)), report), hopeless)
            if found.cost < best.cost:
                best = found
        if others:  # where the best stands now its contacts may have other speeds
            critical = critical_frictions(problem, problem.motion(problem.values(best.p), *span_of(problem)), unknown.path)
        before, best = best, _prefer_plateau(problem, best, j, critical, tried)
        if best is not before:
            best = _from_slip_onset(problem, best, j, tried)
        if not critical and any(p.mode == SlipState.SLIP and motion.body(p.body).kind == "sphere"
                                    for p in motion.contact_intervals):
            best = _longer_or_shorter(problem, best, j, tried)
    for j in _unseen_spins(problem):
        best = _prefer_sliding(problem, best, j, tried)
    limit = best.cost + tried.price * scatter_of(problem, best)
    for j, there in tried.held[earlier:]:  # the price has grown with the patterns tried since
        if j not in tried.plateaus and there.cost < limit:
            tried.points.append(best)
            tried.plateaus.add(j)
            best = there
    return best


def _longer_or_shorter(problem: FitProblem, best: Point, j: int, tried: Tried) -> Point:
    """A ball that slides before it rolls, between few frames: a longer or a shorter slide may agree better; so may a short slide
    with another restitution, since what a collision gives and what a slide takes look alike."""
    unknown = problem.unknowns[j]
    value = from_unit_box(unknown, best.p[j])
    starts = [with_entry(best.p, j, to_unit_box(unknown, v)) for v in (0.65 * value, 1.5 * value) if unknown.low < v < unknown.high]
    bounces = [k for k, u in enumerate(problem.unknowns) if parse_path(u.path).quantity == "restitution"]
    if bounces:
        short = with_entry(best.p, j, 0.3)
        short[bounces] = 0.5
        starts.append(short)
    for start in starts:
        far = best.cost + tried.price * noise_scale(problem, best)
        found = tried.add(LevenbergMarquardt(most=15, hopeless=far).minimise(problem, start), far)
        best = found if found.cost < best.cost else best
    return best


def scatter_of(problem: FitProblem, best: Point) -> float:
    """Return the mean squared residual, where above 1: what a difference of half the squared misfit is to be divided by.

    Parameters
    ----------
    problem : the least-squares problem
    best : the best point so far
    """
    return max(1.0, 2 * best.cost / max(len(best.r) - problem.size, 1)) if problem.tracks else 1.0


def noise_scale(problem: FitProblem, best: Point) -> float:
    """Return the same, and by how the residuals hang together.

    Parameters
    ----------
    problem : the least-squares problem
    best : the best point so far
    """
    return scatter_of(problem, best) * (autocorrelation_factor(problem, best.r) if problem.tracks else 1.0)


def _prefer_plateau(problem: FitProblem, best: Point, j: int, critical: list[float], tried: Tried) -> Point:
    unknown = problem.unknowns[j]
    value = from_unit_box(unknown, best.p[j])
    if critical and value > 1.05 * max(critical):
        tried.plateaus.add(j)
        return best  # there already
    tried.plateaus.discard(j)
    return _held(problem, best, j, to_unit_box(unknown, plateau_value(unknown, critical)), tried)


def _from_slip_onset(problem: FitProblem, best: Point, j: int, tried: Tried) -> Point:
    """The answer on a plateau of friction, or one from the onset of slip that is better by more than the price; both are kept."""
    unknown = problem.unknowns[j]
    critical = critical_frictions(problem, problem.motion(problem.values(best.p), *span_of(problem)), unknown.path)
    below = [c for c in critical if unknown.low < c < min(unknown.high, from_unit_box(unknown, best.p[j]))]
    if not below:
        return best
    far = best.cost + tried.price * noise_scale(problem, best)
    start = with_entry(best.p, j, to_unit_box(unknown, JUST * below[-1]))
    found = tried.add(LevenbergMarquardt(most=15, hopeless=far).minimise(problem, start), far)
    return found if found.cost + tried.price * scatter_of(problem, found) < best.cost else best


def _held(problem: FitProblem, best: Point, j: int, u: float, tried: Tried) -> Point:
    """The answer with an entry held on its plateau, if it comes within the price; both are kept."""
    hold = np.zeros(problem.size, bool)
    hold[j] = True
    limit = best.cost + tried.price * scatter_of(problem, best)
    far = best.cost + 2 * tried.price * noise_scale(problem, best)
    plateau = tried.add(LevenbergMarquardt(most=12, fixed=hold, hopeless=far).minimise(problem, with_entry(best.p, j, u)), far)
    if plateau.cost < far:
        tried.held.append((j, plateau))
    if plateau.cost >= limit:
        return best
    free = LevenbergMarquardt(most=12).minimise(problem, plateau).point
    if free.cost < plateau.cost - 0.05:  # it is no plateau
        tried.held.pop()
        better, worse = (free, best) if free.cost < best.cost else (best, free)
        tried.points.append(worse)
        return better
    tried.points.append(best)
    tried.plateaus.add(j)
    return plateau


def _unseen_spins(problem: FitProblem) -> list[int]:
    """Indices of the unknown spins of bodies whose turning no track shows."""
    seen = {e.data.body for e in problem.evidence if e.data.angle is not None}
    return [j for j, u in enumerate(problem.unknowns)
            if parse_path(u.path).quantity == "angular_velocity" and parse_path(u.path).owner not in seen]


def _prefer_sliding(problem: FitProblem, best: Point, j: int, tried: Tried) -> Point:
    """The answer on the plateau of a spin, where every contact slides to its end whatever the spin beyond."""
    unknown = problem.unknowns[j]
    name = parse_path(unknown.path).owner
    motion = problem.motion(problem.values(best.p), *span_of(problem))
    contacts = [c for c in motion.contacts_of(name) if c.approach > 0.02]
    account = motion.body(name)
    if not contacts or account.kind != "sphere" or not contacts[0].slip_before > 0.05:
        return best
    kept = [c.slip_after / contacts[0].slip_before for c in contacts]
    value, way = from_unit_box(unknown, best.p[j]), _way_of_slip(problem, motion, unknown, j, best)
    if way == 0:
        return best
    tried.plateaus.discard(j)
    first = contacts[0].slip_before
    if min(kept) > 0.02:  # there already: it may be that the last contact grips all the same
        edge = value - way * (min(kept) + 0.02) * first / account.bounding_radius
        search = LevenbergMarquardt(most=15, hopeless=best.cost)
        found = tried.add(search.minimise(problem, with_entry(best.p, j, to_unit_box(unknown, edge))), best.cost)
        if found.cost + tried.price * scatter_of(problem, found) < best.cost:
            return found
        tried.plateaus.add(j)
        return best
    if any(share < 1e-6 and c.slip_before > 0.15 * first for share, c in zip(kept[:-1], contacts, strict=False)):
        one_more = with_entry(best.p, j, to_unit_box(unknown, value + way * 0.1 * first / account.bounding_radius))
        limit = best.cost + tried.price * noise_scale(problem, best)
        found = tried.add(LevenbergMarquardt(most=15, hopeless=limit).minimise(problem, one_more), limit)
        return found if found.cost < best.cost else best  # more than the last of the slip is gripped: one contact more may slide
    for more in (0.3 * first, max(c.slip_before for c in contacts[-2:]) + 0.1 * first):
        further = value + way * more / account.bounding_radius
        if not unknown.low < further < unknown.high:
            continue
        there = _held(problem, best, j, to_unit_box(unknown, further), tried)
        if there is not best:
            return there
    return best


def _way_of_slip(problem: FitProblem, motion: Motion, unknown: Unknown, j: int, best: Point) -> int:
    """Whether more or less of a spin makes the first contact slip faster; 0 where it changes nothing."""
    name = parse_path(unknown.path).owner
    values = problem.values(best.p) | {unknown.path: from_unit_box(unknown, best.p[j]) + 1e-3 * (unknown.high - unknown.low)}
    there = problem.motion(values, *span_of(problem)).contacts_of(name)
    here = motion.contacts_of(name)
    if not here or not there:
        return 0
    return int(np.sign(there[0].slip_before - here[0].slip_before))


def span_of(problem: FitProblem) -> tuple[Sampling, float]:
    """Return the times a motion is wanted at, and its end.

    Parameters
    ----------
    problem : the least-squares problem
    """
    times = problem.times if len(problem.times) else problem.target_times
    return Sampling(times), float(times[-1])


def with_entry(p: Array, j: int, u: float) -> Array:
    """Return a vector with one entry changed.

    Parameters
    ----------
    p : vector of unknowns, in their unit box, then angle offsets
    j : index of the entry
    u : its new value
    """
    q = p.copy()
    q[j] = u
    return q
