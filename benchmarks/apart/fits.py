"""Fits of recordings made apart, held against the truth and against many starts of SciPy's least squares.

    python -m benchmarks.apart [COUNT]

What counts as a wrong end: cost = ½ Σ (residual / true σ)² over what the generator did not spoil, above 1.01 times the best of
thirty random starts (and one from the truth) + 0.5, and no second answer within the price reported that is as good.
"""

from __future__ import annotations

import time
from dataclasses import dataclass, field

import numpy as np
from scipy.optimize import least_squares
from scipy.stats import qmc

from benchmarks.apart.families import SIGMA_ANGLE, STEP, Recorded, record
from yapa.case import Body, Box, Case, NaturalRoll, Pair, Plane, Samples, Sphere, Surface, Track, Unknown
from yapa.fitting import Setup, fit, prepare
from yapa.fitting.problem.problem import FitProblem

STARTS = 30
UNKNOWN = {
    "drop": ("restitution", "drag_coefficient"),
    "throw, spin seen": ("restitution", "friction", "drag_coefficient", "velocity", "spin"),
    "skid, spin unseen": ("restitution", "friction", "drag_coefficient", "velocity", "spin"),
    "lane": ("friction", "rolling_resistance", "velocity"),
    "chute": ("friction", "velocity"),
}


def samples_of(r: Recorded, body: str) -> Samples:
    """The recorded places of a body; a coordinate that stays the same is left as it is."""
    x, z = r.places[body].T
    column = lambda c: tuple(None if np.isnan(v) else float(v) for v in c)  # noqa: E731
    angle = None if r.angle is None else column(r.angle)
    return Samples(t=tuple(r.t.tolist()), x=column(x), z=column(z), angle=angle)


def case_of(r: Recorded) -> tuple[Case, dict[str, float]]:
    """The case that a person would fit, and the truth by path."""
    if r.family in UNKNOWN:
        return _calibrated(r)
    return _BUILD[r.family](r)


def _calibrated(r: Recorded) -> tuple[Case, dict[str, float]]:
    body = next(iter(r.places))
    s = r.scene
    fixed = {} if r.family != "lane" or not r.truth["angular_velocity.y"] else {"angular_velocity.y": r.truth["angular_velocity.y"]}
    made = prepare(samples_of(r, body), Setup(
        radius=s.get("radius"), size=s.get("size"), mass=s["mass"], slope=s.get("slope"), floor=None if "slope" in s else 0.0,
        unknown=dict.fromkeys(UNKNOWN[r.family]), fixed=fixed, sigma=r.sigma if r.told else None,
        sigma_angle=SIGMA_ANGLE if r.told and r.angle is not None else None))
    return made.case, {path: r.truth[short] for path, short in made.short.items()}


def _tracks(r: Recorded) -> tuple[Track, ...]:
    return tuple(Track(name=f"of {body}", body=body, samples=samples_of(r, body), sigma=r.sigma if r.told else None)
                 for body in r.places)


def _case(r: Recorded, bodies: dict, pairs, free: dict, rate: float = 240.0) -> tuple[Case, dict[str, float]]:
    surfaces = {s.surface: Surface() for b in bodies.values() for s in b.shapes}
    unknowns = tuple(Unknown(path=path, low=low, high=high, transform="log" if path.endswith("mass") else "linear")
                     for path, (low, high, _) in free.items())
    case = Case(surfaces=surfaces, bodies=bodies, pairs=tuple(pairs), duration=float(r.t[-1]), output_rate=rate, tracks=_tracks(r),
                unknowns=unknowns)
    return case, {path: r.truth[name] for path, (*_, name) in free.items()}


def _nudge(r: Recorded):
    radius, gap = r.scene["radius"], r.scene["gap"]
    peel = (Sphere(kind="sphere", radius=radius, surface="peel"),)
    bodies = {
        "one": Body(shapes=peel, mass=0.2, position=(0, 0, radius), velocity=(1.0, 0, 0),
                    angular_velocity=NaturalRoll(rolling_on="lane")),
        "other": Body(shapes=peel, mass=0.2, position=(gap + 2 * radius, 0, radius)),
        "lane": Body(motion="static", shapes=(Plane(kind="plane", surface="lane"),))}
    pairs = (Pair(surfaces=("peel", "peel"), restitution=0.5, friction=0.0),
             Pair(surfaces=("peel", "lane"), restitution=0.0, friction=0.4))
    return _case(r, bodies, pairs, {
        "pairs.peel+peel.restitution": (0.0, 1.0, "restitution"), "pairs.peel+lane.friction": (0.0, 1.0, "friction"),
        "bodies.one.mass": (0.02, 2.0, "mass"), "bodies.one.velocity.x": (0.0, 5.0, "velocity.x")})


def _box_to_wall(r: Recorded):
    box = (Box(kind="box", size=r.scene["size"], surface="crate"),)
    bodies = {
        "box": Body(shapes=box, mass=1.0, position=(0, 0, 0.05), velocity=(1.0, 0, 0)),
        "floor": Body(motion="static", shapes=(Plane(kind="plane", surface="floor"),)),
        "wall": Body(motion="static", shapes=(Plane(kind="plane", normal=(-1, 0, 0), surface="wall"),),
                     position=(r.scene["wall"], 0, 0))}
    pairs = (Pair(surfaces=("crate", "floor"), restitution=0.0, friction=0.3),
             Pair(surfaces=("crate", "wall"), restitution=0.5, friction=0.0))
    return _case(r, bodies, pairs, {
        "pairs.crate+floor.friction": (0.0, 1.0, "friction"), "pairs.crate+wall.restitution": (0.0, 1.0, "restitution"),
        "bodies.box.velocity.x": (0.0, 5.0, "velocity.x")})


def _steps(r: Recorded):
    radius, start = r.scene["radius"], r.scene["start"]
    bodies = {"ball": Body(shapes=(Sphere(kind="sphere", radius=radius, surface="ball"),), mass=r.scene["mass"],
                           position=(start[0], 0, start[1]), velocity=(1.0, 0, 0))}
    from benchmarks.apart.families import RISE
    for k in range(4):
        low, high = STEP * (k - 1), STEP * k if k < 3 else STEP * (k - 1) + 20.0
        bodies[f"step {k}"] = Body(motion="static", position=(0.5 * (low + high), 0, -RISE * k - 0.5),
                                   shapes=(Box(kind="box", size=(high - low, 1.0, 1.0), surface="tread"),))
    pairs = (Pair(surfaces=("ball", "tread"), restitution=0.5, friction=0.4),)
    return _case(r, bodies, pairs, {
        "pairs.ball+tread.restitution": (0.0, 1.0, "restitution"), "pairs.ball+tread.friction": (0.0, 1.0, "friction"),
        "bodies.ball.velocity.x": (0.0, 5.0, "velocity.x"), "bodies.ball.velocity.z": (-3.0, 3.0, "velocity.z")})


def _wall_and_floor(r: Recorded):
    radius, start = r.scene["radius"], r.scene["start"]
    bodies = {
        "ball": Body(shapes=(Sphere(kind="sphere", radius=radius, surface="ball"),), mass=r.scene["mass"],
                     position=(start[0], 0, start[1]), velocity=(3.0, 0, 0)),
        "floor": Body(motion="static", shapes=(Plane(kind="plane", surface="floor"),)),
        "wall": Body(motion="static", shapes=(Plane(kind="plane", normal=(-1, 0, 0), surface="wall"),),
                     position=(r.scene["wall"], 0, 0))}
    pairs = tuple(Pair(surfaces=("ball", name), restitution=0.5, friction=r.truth["friction"]) for name in ("floor", "wall"))
    return _case(r, bodies, pairs, {
        "pairs.ball+wall.restitution": (0.0, 1.0, "wall"), "pairs.ball+floor.restitution": (0.0, 1.0, "floor"),
        "bodies.ball.velocity.x": (0.0, 8.0, "velocity.x"), "bodies.ball.velocity.z": (-4.0, 4.0, "velocity.z")})


_BUILD = {"two balls, a mass unknown": _nudge, "box to a wall": _box_to_wall, "three steps down": _steps,
          "wall then floor": _wall_and_floor}


def clean(r: Recorded, case: Case) -> FitProblem:
    """The problem with the true σ, and without what the generator spoiled."""
    tracks = []
    for track, (_body, bad) in zip(case.tracks, r.spoiled.items(), strict=True):
        s = track.samples
        without = lambda c, bad=bad: None if c is None else tuple(None if b else v for v, b in zip(c, bad, strict=True))  # noqa: E731
        tracks.append(track.model_copy(update={
            "samples": s.model_copy(update={"x": without(s.x), "z": without(s.z)}), "sigma": r.sigma,
            "sigma_angle": SIGMA_ANGLE if s.angle is not None else None}))
    return FitProblem(case.model_copy(update={"tracks": tuple(tracks)}))


def at_best_zero(problem: FitProblem, p: np.ndarray) -> np.ndarray:
    """With the free zero of an angle at its least squares."""
    if problem.offsets:
        p = p.copy()
        for _ in range(2):
            r = problem.residuals(p)
            turns = len(problem.evidence[0].rows)
            seen = np.isfinite(problem.evidence[0].data.angle)
            p[-1] -= float(r[:problem.track_residuals][-turns:][seen].mean()) * problem.evidence[0].data.sigma_angle
    return p


def cost_of(problem: FitProblem, values: dict[str, float]) -> float:
    """½ Σ r²."""
    r = problem.residuals(at_best_zero(problem, problem.vector(values)))
    return 0.5 * float(r @ r)


def best_of_starts(problem: FitProblem, truth: dict[str, float], seed: int, starts: int = STARTS) -> float:
    """The least cost of SciPy's least squares from random starts in the ranges, and one from the truth."""
    n = problem.size
    box = qmc.Sobol(len(problem.unknowns), seed=seed).random(32)[:starts]
    low = np.r_[np.zeros(len(problem.unknowns)), np.full(problem.offsets, -np.inf)]
    high = np.r_[np.ones(len(problem.unknowns)), np.full(problem.offsets, np.inf)]
    best = np.inf
    for start in [problem.vector(truth)[: len(problem.unknowns)], *box]:
        p = at_best_zero(problem, np.r_[start, np.zeros(n - len(start))])
        found = least_squares(problem.residuals, np.clip(p, low + 1e-6, high - 1e-6), bounds=(low, high), x_scale="jac",
                              max_nfev=25, ftol=1e-6)
        best = min(best, float(found.cost))
    return best


@dataclass
class Score:
    """One fit held against its truth."""

    family: str
    seed: int
    drawn: dict
    ended_well: bool
    cost: float
    least: float
    false: list[str] = field(default_factory=list)
    intervals: list[tuple[str, bool]] = field(default_factory=list)
    bounds: list[tuple[str, bool]] = field(default_factory=list)
    simulations: int = 0
    seconds: float = 0.0
    stopped: str = ""
    misfit: float = 0.0
    outliers: int = 0
    told: dict = field(default_factory=dict)
    findings: list = field(default_factory=list)


def one(job: tuple[str, int, dict, int]) -> Score:
    """Record, fit, compare."""
    name, seed, drawn, starts = job
    r = record(name, seed, drawn)
    case, truth = case_of(r)
    begun = time.perf_counter()
    result = fit(case, threads=1)
    seconds = time.perf_counter() - begun
    problem = clean(r, case)
    cost = cost_of(problem, result.values)
    least = best_of_starts(problem, truth, seed, starts)
    bar = 1.01 * least + 0.5
    answers = [cost, *(cost_of(problem, {**result.values, **other}) for other in second_answers(result))]
    score = Score(name, seed, drawn, min(answers) <= bar, cost, min(least, cost), simulations=result.simulations, seconds=seconds,
                  stopped=result.stopped, misfit=result.misfit or 0.0, outliers=result.outliers, findings=result.findings)
    for path, e in result.estimates.items():
        kind, true = path.split(".", 2)[-1], truth[path]
        score.told[path] = (e.value, e.std, e.low, e.high, e.determined, true)
        if e.determined and e.std:
            off = abs(e.value - true) / e.std
            score.intervals.append((kind, bool(e.low <= true <= e.high)))
            if off > 6:
                score.false.append(f"{path} {e.value:.5g} ± {e.std:.2g} for {true:.5g} ({off:.0f})")
        else:
            for bound, held in ((e.low, e.low is None or e.low <= true), (e.high, e.high is None or true <= e.high)):
                if bound is not None:
                    score.bounds.append((kind, bool(held)))
    return score


def second_answers(result) -> list[dict[str, float]]:
    """What the fit reports as good answers beside its own."""
    return [answer.values for answer in getattr(result, "also", [])]
