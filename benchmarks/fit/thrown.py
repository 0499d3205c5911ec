"""Thrown sphere: cases from truths, one fit of each, and whether it succeeded."""

from __future__ import annotations

import time
from dataclasses import dataclass

import numpy as np

from benchmarks.fit.flights import MASS, START, R, Throw, drawn, fly
from yapa.case import Body, Case, Plane, Samples, Sphere, Surface, Track, Unknown
from yapa.case.unknowns import Estimate
from yapa.fitting import Fit

SIGMA = 1e-3
PATHS = {
    "restitution": "surfaces.s.restitution",
    "friction": "surfaces.s.friction",
    "vx": "bodies.ball.velocity.x",
    "vz": "bodies.ball.velocity.z",
    "spin": "bodies.ball.angular_velocity.y",
    "drag": "bodies.ball.drag_coefficient",
}
RANGES = {
    "restitution": (0.2, 1.0),
    "friction": (0.0, 1.5),
    "vx": (-8.0, 8.0),
    "vz": (-6.0, 6.0),
    "spin": (-200.0, 200.0),
    "drag": (0.0, 2.0),
}
LATE = "tracks.camera.time_offset"


@dataclass(frozen=True)
class Nuisance:
    """What is wrong with a recording."""

    outliers: float = 0.0
    missing: float = 0.0
    late: bool = False
    correlation: float = 0.0


SETS = {
    "easy": (False, Nuisance()),
    "easy, all nuisances": (False, Nuisance(0.03, 0.25, True)),
    "mix": (True, Nuisance()),
    "mixall": (True, Nuisance(0.03, 0.25, True)),
}


def scene(radius: float = R) -> Case:
    """The scene with numbers of nobody's throw."""
    ball = Body(
        shapes=(Sphere(kind="sphere", radius=radius, surface="s"),),
        mass=MASS,
        drag_coefficient=0.4,
        position=(START[0], 0.0, START[1]),
        velocity=(1.0, 0.0, 0.0),
        angular_velocity=(0.0, 0.0, 0.0),
    )
    floor = Body(motion="static", shapes=(Plane(kind="plane", surface="s"),))
    return Case(surfaces={"s": Surface(restitution=0.6, friction=0.3)}, bodies={"ball": ball, "floor": floor}, duration=2.0)


def recorded(rng: np.random.Generator, throw: Throw, end: float, rate: float, what: Nuisance) -> tuple[Samples, float]:
    """The track, and how late the release is in it [s]."""
    late = float(rng.uniform(0.0, 0.08)) if what.late else 0.0
    t = np.arange(0.0, end + late, 1 / rate)
    flown = fly(throw, np.concatenate([np.maximum(t - late, 0.0)]))
    noise = rng.normal(size=(2, len(t)))
    if what.correlation:
        for k in range(1, len(t)):
            noise[:, k] = what.correlation * noise[:, k - 1] + np.sqrt(1 - what.correlation**2) * noise[:, k]
    x = np.array([flown.x, flown.z]) + SIGMA * noise
    bad = rng.random(len(t)) < what.outliers
    x[:, bad] += rng.normal(size=(2, int(bad.sum()))) * 0.08
    seen = rng.random(len(t)) >= what.missing
    seen[:3] = True
    told = [tuple(v if s else None for v, s in zip(row.tolist(), seen, strict=True)) for row in x]
    return Samples(t=tuple(t.tolist()), x=told[0], z=told[1]), late


def case_of(samples: Samples, late: bool, end: float, radius: float = R) -> Case:
    """The case to fit: six unknowns, and the clock where it is late."""
    unknowns = [Unknown(path=PATHS[k], low=RANGES[k][0], high=RANGES[k][1]) for k in PATHS]
    if late:
        unknowns.append(Unknown(path=LATE, low=-0.15, high=0.15))
    track = Track(name="camera", body="ball", sigma=SIGMA, samples=samples)
    return scene(radius).model_copy(update={"tracks": (track,), "unknowns": tuple(unknowns), "duration": end})


@dataclass(frozen=True)
class Outcome:
    """One truth fitted."""

    success: bool
    calls: int
    total: int
    seconds: float
    estimates: dict[str, Estimate]
    truth: dict[str, float]
    excess: float
    result: object


def wanted(throw: Throw, late: float, case: Case) -> dict[str, float]:
    """Path → truth."""
    out = {PATHS[k]: getattr(throw, k) for k in PATHS}
    return out | ({LATE: -late} if any(u.path == LATE for u in case.unknowns) else {})


def excess_of(problem, values, truth) -> float:
    """Half the squared residuals, each clipped at 5 σ, above those of the truth."""

    def cost(v):
        r = problem.residuals(problem.vector(v))[: problem.track_residuals]
        return 0.5 * float(np.minimum(r**2, 25.0).sum())

    return cost(values) - cost(truth)


def right(e: Estimate, truth: float, width: float) -> bool:
    """A two-sided estimate within five deviations (or a thousandth of the range), a one-sided one on the right side."""
    if e.determined:
        return abs(e.value - truth) <= max(5 * (e.std or 0.0), 1e-3 * width)
    slack = 0.02 * width
    return (e.low is None or e.low <= truth + slack) and (e.high is None or e.high >= truth - slack)


def one(job: tuple[str, int]) -> Outcome:
    """Draw, record, fit, judge."""
    name, seed = job
    hard, what = SETS[name]
    return fitted(np.random.default_rng([seed, 7, len(name)]), hard, what)


def fitted(rng: np.random.Generator, hard: bool, what: Nuisance) -> Outcome:
    """One truth of this kind."""
    throw, end = drawn(rng, hard)
    samples, late = recorded(rng, throw, end, float(rng.choice([120.0, 240.0])), what)
    case = case_of(samples, what.late, end)
    return judged(case, wanted(throw, late, case))


def judged(case: Case, truth: dict[str, float]) -> Outcome:
    """Fit a case and hold it against the truth."""
    spent = []
    begun = time.perf_counter()
    fit = Fit(case, lambda p: spent.append((p.phase, p.simulations)))
    result = fit.run()
    seconds = time.perf_counter() - begun
    calls = next((n for phase, n in spent if phase == "how sure"), result.simulations)
    excess = excess_of(fit.problem, result.values, truth)
    widths = {u.path: u.high - u.low for u in case.unknowns}
    good = excess < 4.0 + 0.5 * len(truth) and all(right(e, truth[p], widths[p]) for p, e in result.estimates.items())
    return Outcome(good, calls, result.simulations, seconds, result.estimates, truth, excess, result.stopped)
