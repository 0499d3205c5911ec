"""Errors of the model, each tried as one number more: which of them explains what the fit leaves over, and by how much.

With r the residuals at the answer, J their derivative by the unknowns and c that by a candidate (one simulation), the part of c
that the unknowns cannot do, q = c - J J⁺ c, predicts that freeing it lowers half the squared misfit by

    (r·q)² / (2 q·q)     at the value     -(r·q) / (q·q).

Where that is much, the unknowns are fitted again at that value and at the vertex of the parabola through what is known of the
costs; the better gives value, deviation and gain. Gains are in units of what is then left over (its scatter, and how it hangs
together), so noise that hangs together explains nothing. A candidate is named if it gains GAIN, and AHEAD more than any other.

A candidate with next to no q of its own trades exactly with the unknowns: nothing in the evidence would show such an error, and the
numbers carry it (``carried``).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from math import degrees

import numpy as np

from yapa.case.changed_numbers import with_numbers
from yapa.case.model import Case
from yapa.case.parameter_path import parse_path
from yapa.case.parameters import numbers
from yapa.case.quantities import label_of
from yapa.case.scene import Plane, Sphere
from yapa.case.unknowns import Unknown, from_unit_box
from yapa.errors import InputError
from yapa.fitting.confidence.residual_diagnostics import autocorrelation_factor
from yapa.fitting.optimise.jacobian import POOR, Point
from yapa.fitting.optimise.levenberg_marquardt import LevenbergMarquardt
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.problem.track_residuals import track_slopes
from yapa.motion import Array

GAIN = 10.0
"""of half the squared misfit: what a candidate must explain to be named"""
AHEAD = 3.5
"""of half the squared misfit: by how much more than any other"""
WORTH = 5.0
"""A predicted gain from which a candidate is fitted."""
FALLOFF = "restitution by speed"
"""kind of the candidate"""
SMALL_FALLOFF = 0.03
"""least falloff that is tried where the answer is poor, whatever its slope says: every bounce turns what comes after it"""
MUCH_FALLOFF = 0.15
"""greatest falloff that is tried there"""
HIDDEN = 1e-3
"""Share of a candidate's effect that the unknowns leave, below which they trade."""


Words = Callable[[float, float], str]
"""What is said of a value and its deviation."""


@dataclass(frozen=True)
class Candidate:
    """One number more: how a case looks with it, where it stands now, a small step of it, and words."""

    kind: str
    path: str | None
    now: float
    step: float
    case_with: Callable[[float], Case]
    words: Words
    slope: Array | None = None
    """(R,) derivative of the residuals by it, where that needs no run of its own."""


@dataclass(frozen=True)
class Explanation:
    """What explains the residuals: its value, deviation, and by how much half the squared misfit falls.

    ``edit`` gives a case with it: freed, where it has a path, else set.
    """

    kind: str
    path: str | None
    value: float
    std: float
    gain: float
    words: str
    edit: Callable[[Case], Case]

    def __str__(self) -> str:
        return f"{self.words} explains what is left over (half the squared misfit falls by {self.gain:.3g})"


def candidates(problem: FitProblem, slopes: dict[str, Array]) -> Iterator[Candidate]:
    """Return what may be wrong with this model. ``slopes`` are the derivatives by scales and offsets of the tracks.

    Parameters
    ----------
    problem : the least-squares problem
    slopes : derivatives of the residuals by scales and time offsets of tracks
    """
    case, free = problem.case, {u.path for u in problem.unknowns}
    base = problem.program.base
    turned: set[str] = set()
    for e, track in zip(problem.evidence, case.tracks, strict=True):
        name, body = track.name, track.body
        for kind, path, words in (("scale", f"tracks.{name}.scale", _scale_words(name, track.scale)),
                                  ("clock", f"tracks.{name}.time_offset", _clock_words(name, track.time_offset))):
            if path not in free:
                yield _by_path(problem, kind, path, 0.0, words, slopes[path])
        path = f"bodies.{body}.radius"
        if path in base and path not in free and isinstance(case.bodies[body].shapes[0], Sphere) and _flies(problem, body):
            yield _by_path(problem, "radius", path, 1e-4 * base[path], _radius_words(body, base[path]))
        for support in _supports(problem):
            for axis, along in (("y", 0), ("x", 1)):
                path = f"bodies.{support}.tilt.{axis}"
                if e.data.shown[along] and path not in free | turned and path in base:
                    turned.add(path)
                    yield _tilt(problem, support, path, body)
    yield from _falloffs(problem)


def _named(track: str) -> str:
    return track if track.startswith("track ") else f"the track {track}"


def _scale_words(track: str, now: float) -> Words:
    return lambda v, s: f"a scale of {_named(track)} that is off by {100 * (v / now - 1):.2g} ± {100 * s:.1g}%"


def _clock_words(track: str, now: float) -> Words:
    return lambda v, s: f"a clock of {_named(track)} that is off by {1000 * (v - now):.3g} ± {1000 * s:.1g} ms"


def _radius_words(body: str, now: float) -> Words:
    return lambda v, s: f"a radius of {body} of {1000 * v:.4g} ± {1000 * s:.2g} mm ({100 * (v / now - 1):+.2g}%)"


def _by_path(problem: FitProblem, kind: str, path: str, step: float, words: Words, slope: Array | None = None) -> Candidate:
    case = problem.case
    now = problem.program.base.get(path)
    return Candidate(kind, path, numbers(case)[path] if now is None else now, step, lambda v: with_numbers(case, {path: v}), words,
                     slope)


def _flies(problem: FitProblem, body: str) -> bool:
    """Whether the height of a body's start is no one's that its radius gives."""
    return any(u.path == f"bodies.{body}.position.z" for u in problem.unknowns)


def _supports(problem: FitProblem) -> list[str]:
    return [name for name, body in problem.case.bodies.items()
            if body.motion == "static" and isinstance(body.shapes[0], Plane) and len(body.shapes) == 1]


def _tilt(problem: FitProblem, name: str, path: str, body: str) -> Candidate:
    """A plane turned about the point under the start of the body that is seen."""
    case, now = problem.case, problem.program.base[path]
    place, normal = np.array(case.bodies[body].position), np.array(case.bodies[name].shapes[0].normal)  # type: ignore[union-attr]
    under = np.array(case.bodies[name].position)
    foot = place - normal / np.linalg.norm(normal) * float((place - under) @ normal / np.linalg.norm(normal))

    def case_with(value: float) -> Case:
        moved = case
        if case.bodies[name].placed_under is None:
            moved = case.model_copy(update={"bodies": {
                **case.bodies, name: case.bodies[name].model_copy(update={"position": tuple(foot.tolist())})}})
        return with_numbers(moved, {path: value})

    return Candidate("tilt", path, now, 1e-5, case_with,
                     lambda v, s: f"a tilt of {name} by {abs(degrees(v - now)):.3g} ± {degrees(s):.1g}°")


def _falloffs(problem: FitProblem) -> Iterator[Candidate]:
    """Restitution that falls with speed, of surfaces whose restitution is fitted."""
    case = problem.case
    for unknown in problem.unknowns:
        parts = parse_path(unknown.path)
        if parts.quantity != "restitution":
            continue
        names = _of_its_own(case, parts.owner.split("+")) if parts.section == "pairs" else [parts.owner]
        if any(case.surfaces[name].restitution_falloff for name in names if name in case.surfaces):
            continue

        def case_with(value: float, names: list[str] = names) -> Case:
            falls = {name: case.surfaces[name].model_copy(update={"restitution_falloff": value}) for name in names}
            return case.model_copy(update={"surfaces": {**case.surfaces, **falls}})

        yield Candidate(FALLOFF, None, 0.0, 1e-3, case_with, _falloff_words(unknown.path))


def _of_its_own(case: Case, names: list[str]) -> list[str]:
    """Of the surfaces of a pair those that stand in the fewest pairs: a falloff of these changes the least of the others."""
    used = {name: sum(name in pair.surfaces for pair in case.pairs) for name in names}
    return [name for name in names if used[name] == min(used.values())]


def _falloff_words(path: str) -> Words:
    return lambda v, s: f"a {label_of(path)} that falls with speed (falloff {v:.3g} ± {s:.1g})"


@dataclass(frozen=True)
class Found:
    """A candidate fitted."""

    candidate: Candidate
    value: float
    std: float
    gain: float


def explain(problem: FitProblem, best: Point, J: Array) -> tuple[list[Explanation], list[str]]:
    """Return the candidate that explains what is left over, if one does; and sentences on errors that the numbers carry unseen.

    Parameters
    ----------
    problem : the least-squares problem
    best : the answer, with the weights of the problem
    J : (R, P) Jacobian there
    """
    if not problem.tracks:
        return [], []
    found: list[Found] = []
    hidden: list[str] = []
    for candidate in candidates(problem, track_slopes(problem, best.p)):
        try:
            fitted, carried = _try(problem, best, J, candidate)
        except InputError:  # what something else undoes exactly, or no case at all
            continue
        found += [] if fitted is None else [fitted]
        hidden += [] if carried is None else [carried]
    found.sort(key=lambda f: -f.gain)
    named = [f for f in found[:1] if f.gain >= GAIN and (len(found) == 1 or f.gain - found[1].gain >= AHEAD)]
    return [_explanation(f) for f in named], hidden


def _try(problem: FitProblem, best: Point, J: Array, candidate: Candidate) -> tuple[Found | None, str | None]:
    """A candidate fitted, if that is worth it; or what it does to the numbers unseen, if they can do all of it."""
    if candidate.slope is None:
        ahead = _problem(problem, candidate.case_with(candidate.now + candidate.step))
        c = (_residuals(problem, ahead, best.p) - best.r) / candidate.step
    else:
        c = np.concatenate([candidate.slope, np.zeros(len(best.r) - len(candidate.slope))])
    moves: Array = np.linalg.lstsq(J, c, rcond=1e-9)[0].astype(float)
    q = c - J @ moves
    size, own, slope = float(c @ c), float(q @ q), float(best.r @ q)
    if own <= HIDDEN**2 * size or own <= 0:
        return None, _carried(problem, best, moves, candidate) if candidate.kind == "scale" and size > 0 else None
    if 0.5 * slope**2 / own < WORTH and not (candidate.kind == FALLOFF and best.clipped > POOR):
        return None, None
    fitted = _fitted(problem, best, candidate, slope, own, moves)
    if fitted is None:
        return None, None
    change, last = fitted
    free = max(int((last.r != 0).sum()) - problem.size - 1, 1)
    scale = max(1.0, 2 * last.cost / free) * min(autocorrelation_factor(problem, r) for r in (best.r, last.r))
    return Found(candidate, candidate.now + change, float(np.sqrt(scale / own)), (best.cost - last.cost) / scale), None


def _fitted(problem: FitProblem, best: Point, candidate: Candidate, slope: float, own: float, moves: Array
            ) -> tuple[float, Point] | None:
    """The change of a candidate, and the answer with it; None if nothing that makes sense is better.

    Each descent starts where the unknowns undo what they can of the change (``moves`` of them as much as one of the candidate).
    """
    change, near, start, found = -slope / own, 0.0, best.p, []
    if candidate.kind == FALLOFF and (change < 0 or best.clipped > POOR):  # so far off a slope may even say that it grows
        change = min(max(abs(change), SMALL_FALLOFF), MUCH_FALLOFF)
    for _ in range(4):
        if _room(candidate, change) < 0:
            break
        other = _problem(problem, candidate.case_with(candidate.now + change))
        start = start - moves * (change - near)
        start[: len(problem.unknowns)] = start[: len(problem.unknowns)].clip(0.0, 1.0)
        found.append((change, LevenbergMarquardt(most=6).minimise(other, start).point))
        problem.count(other.simulations)
        lowest = min(found, key=lambda one: one[1].cost)
        near, start = lowest[0], lowest[1].p
        nearest = _vertex(best.cost, slope, [(at, point.cost) for at, point in found])
        if abs(nearest - lowest[0]) < 0.2 / np.sqrt(own):
            break
        change = float(np.clip(nearest, -3 * abs(lowest[0]), 3 * abs(lowest[0])))
    better = [one for one in found if one[1].cost < best.cost]
    return min(better, key=lambda one: one[1].cost) if better else None


def _vertex(cost: float, slope: float, known: list[tuple[float, float]]) -> float:
    """Where the parabola through the lowest costs has its least; of one cost beside the start's, by the slope there."""
    if len(known) == 1:
        at, there = known[0]
        bend = (there - cost - slope * at) / at**2
        return -slope / (2 * bend) if bend > 0 else 2 * at
    (x, y), (p, q), (s, t) = sorted([(0.0, cost), *known], key=lambda point: point[1])[:3]
    if len({x, p, s}) < 3 or not np.isfinite([y, q, t]).all():
        return x
    one, two = (q - y) / (p - x), (t - y) / (s - x)
    bend = (two - one) / (s - p)
    return x - 0.5 * (one - bend * (p - x)) / bend if bend > 0 else 2 * x


def _room(candidate: Candidate, change: float) -> float:
    """How far a changed value is inside what makes sense; negative outside."""
    value = candidate.now + change
    if candidate.kind in ("scale", "radius"):
        return 0.3 - abs(value / candidate.now - 1)
    if candidate.kind == FALLOFF:
        return min(value, 1.0 - value)
    return (0.5 if candidate.kind == "tilt" else 1.0) - abs(change)


def _problem(problem: FitProblem, case: Case) -> FitProblem:
    other = FitProblem(case, problem.cancel, limit=None if problem.limit is None else max(problem.limit - problem.simulations, 1))
    other.robust_weights, other.coarse = problem.robust_weights, problem.coarse
    for e in problem.evidence:
        other.set_sigma(e.data.name, e.data.sigma, e.data.sigma_angle)
    return other


def _residuals(problem: FitProblem, other: FitProblem, p: Array) -> Array:
    try:
        return other.residuals(p)
    finally:
        problem.count(other.simulations)


def _carried(problem: FitProblem, best: Point, moves: Array, candidate: Candidate) -> str | None:
    """What an error of a hundredth of a scale does to the numbers, unseen."""
    changes = []
    for unknown, move, at in zip(problem.unknowns, -0.01 * moves, best.p, strict=False):
        now = from_unit_box(unknown, float(at))
        relative_change = move * (unknown.high - unknown.low) / now if now and unknown.transform == "linear" else 0.0
        if abs(relative_change) > 2e-3 and ".position." not in unknown.path:
            changes.append(f"{label_of(unknown.path)} by {100 * relative_change:+.1f}%")
    if not changes or candidate.path is None:
        return None
    return (f"nothing here would show a wrong scale of {_named(candidate.path.split('.')[1])}: places that are 1% too large "
            f"move {' and '.join(changes)}, so these carry its error")


def _explanation(found: Found) -> Explanation:
    candidate, value, std = found.candidate, found.value, found.std
    path = candidate.path

    def edit(case: Case) -> Case:
        if path is None:
            names = candidate.case_with(value).surfaces
            falls = {name: case.surfaces[name].model_copy(update={"restitution_falloff": names[name].restitution_falloff})
                     for name in case.surfaces if name in names and names[name].restitution_falloff}
            return case.model_copy(update={"surfaces": {**case.surfaces, **falls}})
        near = max(10 * std, 0.5 * abs(value - candidate.now))
        low, high = min(value, candidate.now) - near, max(value, candidate.now) + near
        if candidate.kind in ("scale", "radius"):
            low = max(low, 0.5 * min(value, candidate.now))
        freed = Unknown(path=path, low=low, high=high)
        case = with_numbers(case, {path: value})
        return case.model_copy(update={"unknowns": (*(u for u in case.unknowns if u.path != path), freed)})

    return Explanation(candidate.kind, path, value, std, found.gain, candidate.words(value, std), edit)
