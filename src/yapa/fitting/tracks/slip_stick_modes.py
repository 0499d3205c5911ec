"""Which contacts slip and which grip: alternatives that a local search cannot see from each other.

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

from yapa.case.unknowns import Unknown, from_unit, to_unit
from yapa.engine.simulate import Sampling
from yapa.fitting.confidence.residual_diagnostics import autocorrelation_factor
from yapa.fitting.optimise.jacobian import POOR, Point
from yapa.fitting.optimise.levenberg_marquardt import Found, descend
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Array, Motion

JUST = 0.97
"""Of the friction at which every contact grips: where the last of them just slides."""
PRICE = 4.5


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
        """Keep where a descent ended, unless it was given up."""
        if found.settled or found.point.cost < hopeless:
            self.points.append(found.point)
        return found.point

    @property
    def price(self) -> float:
        """Half the squared misfit within which two answers are not told apart."""
        return PRICE + float(np.log(max(len(self.points), 1)))


def friction_unknowns(problem: FitProblem) -> list[int]:
    """Indices of the unknowns that are a friction."""
    return [j for j, u in enumerate(problem.unknowns) if u.path.split(".")[-1] in ("friction", "dynamic_friction")]


def critical_frictions(problem: FitProblem, motion: Motion, path: str) -> list[float]:
    """Critical values, on the scale of the unknown, of the contacts that its friction enters."""
    mine = problem.program.pairs_meeting_by(path)
    present = _pair_friction(problem, path)
    out = []
    for c in motion.contacts:
        if {c.body, c.partner} in mine and c.approach > 0.02 and motion.account(c.body).kind == "sphere":
            both = 2 if c.partner in motion.paths else 1
            mu = c.slip_before / (3.5 * both * (c.approach + c.rebound))
            out.append(mu / present)
    return sorted(v for v in out if v > 1e-6)


def slopes_below(problem: FitProblem, motion: Motion, path: str) -> list[float]:
    """Frictions, on the scale of the unknown, above which what slid up a slope stays there: the tangents of the slopes it is on."""
    mine = problem.program.pairs_meeting_by(path)
    pull = motion.gravity / max(float(np.linalg.norm(motion.gravity)), 1e-9)
    out = set()
    for phase in motion.phases:
        if {phase.body, phase.partner} in mine and motion.account(phase.body).kind != "sphere":
            into = abs(float(phase.normal @ pull))
            steep = float(np.sqrt(max(1.0 - into**2, 0.0)) / max(into, 1e-9))
            if 0.02 < steep < 3.0:
                out.add(round(steep, 9))
    return sorted(tangent / _pair_friction(problem, path) for tangent in out)


def _pair_friction(problem: FitProblem, path: str) -> float:
    """How much the pair's friction moves when the unknown moves by one: 1 for a pair's value, 1/2 for a mean."""
    if path.startswith("pairs."):
        return 1.0
    surfaces = problem.program.surfaces_meeting_by(path)
    own = path.split(".")[1]
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
    """A friction at which every contact grips, well inside the range."""
    top = max([c for c in critical if c < unknown.high], default=unknown.low)
    return top + 0.6 * (unknown.high - top)


def try_patterns(problem: FitProblem, best: Point, report: Callable[[Point], None] | None = None,
                 compared: Collection[str] = (), gripping: bool = True, tried: Tried | None = None) -> Point:
    """The best point over slip/grip patterns of each friction that is unknown.

    Parameters
    ----------
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
        value = from_unit(unknown, best.p[j])
        below = [c for c in critical if c < unknown.high]
        others = [JUST * below[-1]] if below and value > below[-1] else []
        if not known:
            others += _alternatives(unknown, value, critical, (0.5,) if best.clipped < POOR else (0.5, 0.2, 0.8))
            stays = [c for c in slopes_below(problem, motion, unknown.path) if 0.8 < value / c < 1.25]
            others += [share * c for c in stays for share in (0.9, 1.1) if unknown.low < share * c < unknown.high]
        for other in others:
            hopeless = best.cost + tried.price * noise_scale(problem, best)
            found = tried.add(descend(problem, with_entry(best.p, j, to_unit(unknown, other)), most=15, report=report,
                                      hopeless=hopeless), hopeless)
            if found.cost < best.cost:
                best = found
        if others:  # where the best stands now its contacts may have other speeds
            critical = critical_frictions(problem, problem.motion(problem.values(best.p), *span_of(problem)), unknown.path)
        before, best = best, _prefer_plateau(problem, best, j, critical, tried)
        if best is not before:
            best = _from_slip_onset(problem, best, j, tried)
        if not critical and any(p.mode == "slides" and motion.account(p.body).kind == "sphere" for p in motion.phases):
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
    value = from_unit(unknown, best.p[j])
    starts = [with_entry(best.p, j, to_unit(unknown, v)) for v in (0.65 * value, 1.5 * value) if unknown.low < v < unknown.high]
    bounces = [k for k, u in enumerate(problem.unknowns) if u.path.endswith(".restitution")]
    if bounces:
        short = with_entry(best.p, j, 0.3)
        short[bounces] = 0.5
        starts.append(short)
    for start in starts:
        far = best.cost + tried.price * noise_scale(problem, best)
        found = tried.add(descend(problem, start, most=15, hopeless=far), far)
        best = found if found.cost < best.cost else best
    return best


def scatter_of(problem: FitProblem, best: Point) -> float:
    """The mean squared residual, where above 1: what a difference of half the squared misfit is to be divided by."""
    return max(1.0, 2 * best.cost / max(len(best.r) - problem.size, 1)) if problem.tracks else 1.0


def noise_scale(problem: FitProblem, best: Point) -> float:
    """The same, and by how the residuals hang together."""
    return scatter_of(problem, best) * (autocorrelation_factor(problem, best.r) if problem.tracks else 1.0)


def _prefer_plateau(problem: FitProblem, best: Point, j: int, critical: list[float], tried: Tried) -> Point:
    unknown = problem.unknowns[j]
    value = from_unit(unknown, best.p[j])
    if critical and value > 1.05 * max(critical):
        tried.plateaus.add(j)
        return best  # there already
    tried.plateaus.discard(j)
    return _held(problem, best, j, to_unit(unknown, plateau_value(unknown, critical)), tried)


def _from_slip_onset(problem: FitProblem, best: Point, j: int, tried: Tried) -> Point:
    """The answer on a plateau of friction, or one from the onset of slip that is better by more than the price; both are kept."""
    unknown = problem.unknowns[j]
    critical = critical_frictions(problem, problem.motion(problem.values(best.p), *span_of(problem)), unknown.path)
    below = [c for c in critical if unknown.low < c < min(unknown.high, from_unit(unknown, best.p[j]))]
    if not below:
        return best
    far = best.cost + tried.price * noise_scale(problem, best)
    start = with_entry(best.p, j, to_unit(unknown, JUST * below[-1]))
    found = tried.add(descend(problem, start, most=15, hopeless=far), far)
    return found if found.cost + tried.price * scatter_of(problem, found) < best.cost else best


def _held(problem: FitProblem, best: Point, j: int, u: float, tried: Tried) -> Point:
    """The answer with an entry held on its plateau, if it comes within the price; both are kept."""
    hold = np.zeros(problem.size, bool)
    hold[j] = True
    limit = best.cost + tried.price * scatter_of(problem, best)
    far = best.cost + 2 * tried.price * noise_scale(problem, best)
    plateau = tried.add(descend(problem, with_entry(best.p, j, u), most=12, fixed=hold, hopeless=far), far)
    if plateau.cost < far:
        tried.held.append((j, plateau))
    if plateau.cost >= limit:
        return best
    free = descend(problem, plateau, most=12).point
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
            if u.path.split(".")[2:3] == ["spin"] and u.path.split(".")[1] not in seen]


def _prefer_sliding(problem: FitProblem, best: Point, j: int, tried: Tried) -> Point:
    """The answer on the plateau of a spin, where every contact slides to its end whatever the spin beyond."""
    unknown = problem.unknowns[j]
    name = unknown.path.split(".")[1]
    motion = problem.motion(problem.values(best.p), *span_of(problem))
    contacts = [c for c in motion.contacts_of(name) if c.approach > 0.02]
    account = motion.account(name)
    if not contacts or account.kind != "sphere" or not contacts[0].slip_before > 0.05:
        return best
    kept = [c.slip_after / contacts[0].slip_before for c in contacts]
    value, way = from_unit(unknown, best.p[j]), _way_of_slip(problem, motion, unknown, j, best)
    if way == 0:
        return best
    tried.plateaus.discard(j)
    first = contacts[0].slip_before
    if min(kept) > 0.02:  # there already: it may be that the last contact grips all the same
        edge = value - way * (min(kept) + 0.02) * first / account.reach
        found = tried.add(descend(problem, with_entry(best.p, j, to_unit(unknown, edge)), most=15, hopeless=best.cost), best.cost)
        if found.cost + tried.price * scatter_of(problem, found) < best.cost:
            return found
        tried.plateaus.add(j)
        return best
    if any(share < 1e-6 and c.slip_before > 0.15 * first for share, c in zip(kept[:-1], contacts, strict=False)):
        one_more = with_entry(best.p, j, to_unit(unknown, value + way * 0.1 * first / account.reach))
        limit = best.cost + tried.price * noise_scale(problem, best)
        found = tried.add(descend(problem, one_more, most=15, hopeless=limit), limit)
        return found if found.cost < best.cost else best  # more than the last of the slip is gripped: one contact more may slide
    for more in (0.3 * first, max(c.slip_before for c in contacts[-2:]) + 0.1 * first):
        further = value + way * more / account.reach
        if not unknown.low < further < unknown.high:
            continue
        there = _held(problem, best, j, to_unit(unknown, further), tried)
        if there is not best:
            return there
    return best


def _way_of_slip(problem: FitProblem, motion: Motion, unknown: Unknown, j: int, best: Point) -> int:
    """Whether more or less of a spin makes the first contact slip faster; 0 where it changes nothing."""
    name = unknown.path.split(".")[1]
    values = problem.values(best.p) | {unknown.path: from_unit(unknown, best.p[j]) + 1e-3 * (unknown.high - unknown.low)}
    there = problem.motion(values, *span_of(problem)).contacts_of(name)
    here = motion.contacts_of(name)
    if not here or not there:
        return 0
    return int(np.sign(there[0].slip_before - here[0].slip_before))


def span_of(problem: FitProblem) -> tuple[Sampling, float]:
    """The times a motion is wanted at, and its end."""
    times = problem.times if len(problem.times) else problem.target_times
    return Sampling(times), float(times[-1])


def with_entry(p: Array, j: int, u: float) -> Array:
    """A vector with one entry changed."""
    q = p.copy()
    q[j] = u
    return q
