"""Four tables of trials with known truths: rebound height, run-out, tilt at slip, collision speeds; seeds 0 … 199 each.

    python -m benchmarks.tables [seeds]

A truth is found where the fit converges, determines every unknown, and is within four standard deviations of the truth. Coverage
of the
95% intervals is pooled over all, and stands for each table and unknown beside the 99.9% band of its own count.
"""

from __future__ import annotations

import sys
from collections import defaultdict
from math import sqrt
from time import perf_counter

import numpy as np
from scipy import stats

from benchmarks.scenes import ball, floor, scene
from yapa.case import Body, Box, Unknown
from yapa.case.model import Case
from yapa.case.trial_table import Measured, TrialTable
from yapa.fitting import fit

E, MU = "surfaces.both.restitution", "surfaces.both.friction"
G = 9.80665


def rebound(rng: np.random.Generator) -> tuple[Case, dict[str, float]]:
    """Drops from eight heights, three each: the height of the first rebound, read by eye to half a centimetre; a scale set too
    low."""
    e, zero = rng.uniform(0.35, 0.9), rng.uniform(-0.02, 0.02)
    height = np.repeat(np.linspace(0.25, 1.3, 8), 3)
    seen = e**2 * height + zero + rng.normal(size=24) * 0.005
    case = scene({"ball": ball(0.04, position=(0, 0, 1.04), mass=0.2), "floor": floor()}, duration=1.6, restitution=0.6)
    table = TrialTable(columns={"height": tuple((height * 100).tolist()), "rebound": tuple((seen * 100).tolist())},
                       settings={"bodies.ball.position.z": "height cm + 4 cm"},
                       measured=(Measured(outcome="apex 1 + zero", value="rebound cm"),))
    unknowns = (Unknown(path=E, low=0.1, high=1.0), Unknown(path="constants.zero", low=-0.1, high=0.1))
    return _with(case, table, unknowns, constant=True), {E: e, "constants.zero": zero}


def run_out(rng: np.random.Generator) -> tuple[Case, dict[str, float]]:
    """Crates pushed at ten speeds, twice each: how far they slide, with a σ that grows with the distance."""
    mu = rng.uniform(0.15, 0.6)
    speed = np.repeat(np.linspace(0.6, 2.4, 10), 2)
    far = speed**2 / (2 * mu * G)
    sigma = 0.003 + 0.03 * far
    seen = far + rng.normal(size=20) * sigma
    case = scene({"crate": Body(shapes=(Box(kind="box", size=(0.3, 0.2, 0.15), surface="both"),), mass=2.0, position=(0, 0, 0.075),
                                velocity=(1.0, 0, 0)), "floor": floor()}, duration=2.5, friction=0.3)
    table = TrialTable(columns={"speed": tuple(speed.tolist()), "run": tuple((seen * 1000).tolist()),
                                "s": tuple((sigma * 1000).tolist())},
                       settings={"bodies.crate.velocity.x": "speed m/s"},
                       measured=(Measured(outcome="slide distance", value="run mm", sigma="s mm"),))
    return _with(case, table, (Unknown(path=MU, low=0.05, high=1.2),)), {MU: mu}


def tilt_at_slip(rng: np.random.Generator) -> tuple[Case, dict[str, float]]:
    """A board set to fourteen angles: how far a crate slides in 0.6 s; below the angle of slip it stays, read as zero or nearly."""
    mu = rng.uniform(0.2, 0.6)
    angle = np.linspace(8, 40, 14)
    a = np.radians(angle)
    far = np.maximum(0.5 * G * (np.sin(a) - mu * np.cos(a)) * 0.6**2, 0.0)
    seen = far + rng.normal(size=14) * 0.004
    crate = Body(shapes=(Box(kind="box", size=(0.3, 0.2, 0.15), surface="both"),), mass=2.0, position=(0, 0, 1.0))
    case = scene({"crate": crate, "board": floor(placed_under="crate")}, duration=0.6, friction=0.3)
    table = TrialTable(columns={"angle": tuple(angle.tolist()), "slid": tuple((seen * 100).tolist())},
                       settings={"bodies.crate.tilt.y": "angle deg", "bodies.board.tilt.y": "angle deg"},
                       measured=(Measured(outcome="slide distance", value="slid cm"),))
    return _with(case, table, (Unknown(path=MU, low=0.05, high=1.2),)), {MU: mu}


def collision_speeds(rng: np.random.Generator) -> tuple[Case, dict[str, float]]:
    """A ball rolled at another at rest, at twelve speeds: the velocity of both afterwards."""
    e, mass = rng.uniform(0.3, 0.95), rng.uniform(0.1, 0.4)
    speed = np.linspace(0.5, 2.5, 12)
    after_a = (mass - e * 0.2) / (mass + 0.2) * speed
    after_b = (1 + e) * mass / (mass + 0.2) * speed
    case = scene({"a": ball(0.04, position=(-0.2, 0, 0.04), velocity=(1.0, 0, 0), mass=0.2),
                  "b": ball(0.04, position=(0, 0, 0.04), mass=0.2)},
                 duration=0.6, gravity=0.0, restitution=0.6)
    table = TrialTable(columns={"speed": tuple(speed.tolist()),
                                "first": tuple((after_a + rng.normal(size=12) * 0.01).tolist()),
                                "second": tuple((after_b + rng.normal(size=12) * 0.02).tolist())},
                       settings={"bodies.a.velocity.x": "speed m/s"},
                       measured=(Measured(outcome="(a x at 0.5 s - a x at 0.4 s) / 0.1 s", value="first m/s"),
                                 Measured(outcome="b speed", value="second m/s")))
    return _with(case, table, (Unknown(path=E, low=0.0, high=1.0),
                               Unknown(path="bodies.a.mass", low=0.02, high=2.0, transform="log"))), {
        E: e, "bodies.a.mass": mass}


TABLES = {"rebound height": rebound, "run-out": run_out, "tilt at slip": tilt_at_slip, "collision speeds": collision_speeds}


def _with(case: Case, table: TrialTable, unknowns: tuple[Unknown, ...], constant: bool = False) -> Case:
    tree = case.model_dump() | {"table": table.model_dump(), "unknowns": tuple(u.model_dump() for u in unknowns)}
    return Case.model_validate(tree | ({"constants": {"zero": {"unit": "m"}}} if constant else {}))


def band(count: int, level: float = 0.999) -> tuple[float, float]:
    """Shares between which 95% of so many intervals lie with this probability."""
    low, high = stats.binom.interval(level, count, 0.95)
    return low / count, high / count


def main() -> None:
    """Print success and coverage of every table."""
    seeds = int(sys.argv[1]) if len(sys.argv) > 1 else 200
    found: dict[str, list[bool]] = defaultdict(list)
    covered: dict[tuple[str, str], list[bool]] = defaultdict(list)
    begun = perf_counter()
    for name, make in TABLES.items():
        for seed in range(seeds):
            case, truth = make(np.random.default_rng(seed))
            result = fit(case)
            good = result.stopped == "converged"
            for path, true in truth.items():
                e = result.estimates[path]
                good &= e.determined and e.std is not None and abs(e.value - true) < 4 * e.std
                covered[name, path].append(e.low is not None and e.high is not None and e.low <= true <= e.high)
            found[name].append(good)
        print(f"{name}: found {np.mean(found[name]):.1%} of {seeds}")
    pooled = np.concatenate([np.array(v) for v in covered.values()])
    low, high = band(seeds)
    for (name, path), inside in covered.items():
        share = float(np.mean(inside))
        print(f"{name}, {path}: {share:.1%} inside (band {low:.1%} to {high:.1%}) {'' if low <= share <= high else 'OUTSIDE'}")
    error = 1.96 * sqrt(0.95 * 0.05 / len(pooled))
    print(f"pooled: {pooled.mean():.2%} of {len(pooled)} (± {error:.1%}); {perf_counter() - begun:.0f} s")


if __name__ == "__main__":
    main()
