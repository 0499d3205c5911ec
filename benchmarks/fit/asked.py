"""Thirty wanted outcomes, some of which nothing meets, held against a look everywhere.

The look everywhere: a grid over the ranges, then finer ones around the best of its points. What is called "not reachable" there is
so for that grid; a search that says so where the grid meets every target is wrong.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from itertools import product

import numpy as np

from benchmarks.scenes import ball, crate_on_slope, floor, scene
from yapa.case import Body, Box, Case, Cylinder, NaturalRoll, Plane, Target, Unknown
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.problem.target_residuals import evaluate_target
from yapa.fitting.targets.solve import solve

E, MU, ROLL = "surfaces.both.restitution", "surfaces.both.friction", "surfaces.both.rolling_resistance"
VX, VZ, SPIN, MASS = (f"bodies.orange.{k}" for k in ("velocity.x", "velocity.z", "angular_velocity.y", "mass"))
RANGES = {E: (0.05, 0.95), MU: (0.02, 1.2), ROLL: (0.001, 0.1), VX: (0.0, 5.0), VZ: (-2.0, 5.0), SPIN: (-150.0, 150.0),
          MASS: (0.05, 5.0), "bodies.crate.speed": (0.2, 4.0), "bodies.right.mass": (1.0, 40.0),
          "bodies.right.position.x": (0.2, 0.95), "bodies.other.mass": (0.05, 2.0)}
GRID, FINE, AROUND = {1: 401, 2: 51}, {1: 81, 2: 17}, 6
NEVER = 1e3
"""Tolerances by which an outcome that does not occur is missed."""


def thrown(duration: float = 2.5, **bodies: Body) -> Case:
    """An orange a metre above a floor."""
    return scene({"orange": ball(0.04, mass=0.2, position=(0, 0, 1.04), velocity=(1.0, 0, 0)), "plate": floor(), **bodies},
                 duration=duration, restitution=0.6, friction=0.3, rolling_resistance=0.02)


def on_lane(duration: float = 5.0) -> Case:
    """An orange launched along a lane."""
    return scene({"orange": ball(0.04, mass=0.2, position=(0, 0, 0.04), velocity=(1.0, 0, 0)), "lane": floor()},
                 duration=duration, restitution=0.2, friction=0.3, rolling_resistance=0.01)


def balanced(mass: float = 5.0, x: float = 0.8) -> Case:
    """A plank on a round fulcrum with a weight on either end."""
    def weight(at, m):
        return Body(shapes=(Box(kind="box", size=(0.1, 0.1, 0.1), surface="both"),), mass=m, position=(at, 0, 0.19))
    plank = Body(shapes=(Box(kind="box", size=(2.0, 0.2, 0.04), surface="both"),), mass=4.0, position=(0, 0, 0.12))
    fulcrum = Body(motion="static", shapes=(Cylinder(kind="cylinder", radius=0.1, length=0.4, surface="both"),),
                   orientation=(np.sqrt(0.5), np.sqrt(0.5), 0.0, 0.0))
    return scene({"plank": plank, "left": weight(-0.4, 16.0), "right": weight(x, mass), "fulcrum": fulcrum}, duration=0.6,
                 friction=0.8)


def nudged() -> Case:
    """A rolling orange meets another."""
    rolling = ball(0.04, mass=0.2, position=(0, 0, 0.04), velocity=(1.0, 0, 0), angular_velocity=NaturalRoll(rolling_on="lane"))
    return scene({"orange": rolling, "other": ball(0.04, mass=0.2, position=(0.4, 0, 0.04)), "lane": floor()}, duration=3.0,
                 restitution=0.7, friction=0.2, rolling_resistance=0.01)


def with_crate(depth: float = 0.1, duration: float = 2.0) -> Case:
    """A crate stands where the orange may fly."""
    crate = Body(shapes=(Box(kind="box", size=(depth, 0.3, 0.4), surface="both"),), mass=0.5, position=(1.2, 0, 0.2))
    return thrown(duration, crate=crate)


def with_wall() -> Case:
    """A wall behind."""
    wall = Body(motion="static", shapes=(Plane(kind="plane", normal=(-1, 0, 0), surface="both"),), position=(1.5, 0, 0))
    return thrown(2.0, wall=wall)


def orange(outcome: str, tolerance: float, **told) -> Target:
    return Target(outcome=outcome, body=told.pop("body", "orange"), tolerance=tolerance, **told)


def _least(outcome: str, value: float, tolerance: float = 0.01, **told) -> Target:
    return orange(outcome, tolerance, condition="at least", value=value, **told)


def _most(outcome: str, value: float, tolerance: float = 0.01, **told) -> Target:
    return orange(outcome, tolerance, condition="at most", value=value, **told)


@dataclass(frozen=True)
class Asked:
    """A case, which numbers are free, and what is wanted."""

    case: Callable[[], Case]
    free: tuple[str, ...]
    targets: tuple[Target, ...]


BIN = ((1.9, -0.5, 0.0), (2.1, 0.5, 0.3))
ASKED = {
    "first apex": Asked(thrown, (E,), (orange("apex", 0.005, index=1, value=0.5),)),
    "third apex": Asked(thrown, (E,), (orange("apex", 0.002, index=3, value=0.1),)),
    "five bounces": Asked(thrown, (E,), (orange("bounces", 0.4, value=5),)),
    "an apex above the start": Asked(thrown, (E,), (orange("apex", 0.01, index=1, value=1.5),)),
    "a soft hit": Asked(thrown, (MASS,), (_most("impact energy", 1.0, 0.02, index=1),)),
    "a rest time": Asked(lambda: thrown(6.0), (E, MU), (orange("rest time", 0.05, value=3.0),)),
    "a landing": Asked(thrown, (VX, VZ), (orange("landing", 0.01, index=1, value=1.5), orange("peak height", 0.02, value=1.6))),
    "a second landing": Asked(thrown, (VX, VZ), (orange("landing", 0.01, index=2, value=2.0),
                                                 orange("flight time", 0.02, index=2, value=0.4))),
    "under a beam": Asked(thrown, (VX, VZ), (orange("landing", 0.01, index=1, value=2.0), _most("peak height", 1.2))),
    "under a beam, too slowly": Asked(thrown, (VX, VZ), (orange("landing", 0.01, index=1, value=3.0), _most("peak height", 1.06),
                                                         _most("peak speed", 4.0, 0.02))),
    "back to the start": Asked(lambda: thrown(1.5), (VX, SPIN), (orange("x", 0.01, value=0.0), _least("landing", 0.5, index=1))),
    "two heights of one ball": Asked(thrown, (E, VX), (orange("apex", 0.005, index=1, value=0.5),
                                                       orange("apex", 0.005, index=2, value=0.45))),
    "into a bin": Asked(lambda: thrown(1.2), (VX, E), (_least("inside", 0.02, 0.005, region=BIN),)),
    "through a point": Asked(thrown, (VX, VZ), (_most("waypoints", 0.01, 0.003, waypoints=((1.0, 0, 1.2), (1.6, 0, 0.6))),)),
    "through a gate, then the bin": Asked(lambda: thrown(1.4), (VX, VZ, E),
                                          (_most("waypoints", 0.02, 0.005, waypoints=((0.8, 0, 1.0),)),
                                           _least("inside", 0.0, 0.005, region=BIN))),
    "a slide": Asked(lambda: crate_on_slope(0.0, 2.0, 3.0), (MU,), (orange("slide distance", 0.005, body="crate", value=0.8),)),
    "a slide and its time": Asked(lambda: crate_on_slope(0.0, 2.0, 3.0), (MU, "bodies.crate.speed"),
                                  (orange("travel", 0.005, body="crate", value=0.8),
                                   orange("rest time", 0.02, body="crate", value=1.2))),
    "up and back": Asked(lambda: crate_on_slope(20.0, 2.0, 1.5), (MU, "bodies.crate.speed"),
                         (orange("x", 0.005, body="crate", value=0.0), _least("peak height", 1.1, body="crate"))),
    "does not slide": Asked(lambda: crate_on_slope(25.0, 0.0, 1.5), (MU,), (_most("travel", 0.001, 1e-4, body="crate"),)),
    "tips on the slope": Asked(lambda: crate_on_slope(30.0, 0.0, 1.5, size=(0.1, 0.2, 0.3)), (MU,),
                               (_least("tilt", 0.9, 0.02, body="crate"),)),
    "a balance by weight": Asked(balanced, ("bodies.right.mass",), (_most("tilt", 0.02, 1e-3, body="plank"),)),
    "a balance by place": Asked(lambda: balanced(9.0, 0.4), ("bodies.right.position.x",),
                                (_most("tilt", 0.02, 1e-3, body="plank"),)),
    "the other rolls so far": Asked(nudged, (VX, "bodies.other.mass"), (orange("travel", 0.01, body="other", value=0.6),)),
    "the first stops": Asked(nudged, (E, "bodies.other.mass"), (_most("travel", 0.36, 0.003), _least("travel", 0.3, body="other"))),
    "a lane's end": Asked(on_lane, (VX, ROLL), (orange("travel", 0.01, value=1.6), orange("rest time", 0.05, value=3.0))),
    "a lane, back again": Asked(on_lane, (VX, SPIN), (orange("x", 0.005, value=0.0), _least("slide distance", 0.5))),
    "knocked over": Asked(with_crate, (VX, MASS), (_least("topple", 0.3, 0.05, body="crate"),)),
    "hit, and not knocked over": Asked(with_crate, (VX, VZ), (orange("hit", 0.02, partner="crate"),
                                                              _most("tilt", 0.03, 5e-3, body="crate"))),
    "over the crate": Asked(lambda: with_crate(0.3), (VX, VZ), (orange("landing", 0.02, index=1, value=1.6),
                                                                _most("tilt", 0.01, 2e-3, body="crate"))),
    "off the wall": Asked(with_wall, (VX, VZ), (orange("landing", 0.01, index=1, value=0.8),
                                                _least("hit", 0.0, 0.02, partner="wall"))),
}


def asked(name: str) -> Case:
    """The case of one of them."""
    one = ASKED[name]
    return one.case().model_copy(update={"targets": one.targets, "unknowns": tuple(
        Unknown(path=p, low=RANGES[p][0], high=RANGES[p][1]) for p in one.free)})


def met_anywhere(case: Case) -> bool | None:
    """Whether a look everywhere meets every target; None with more than two numbers."""
    problem = FitProblem(case, limit=10**9)
    n = len(case.unknowns)
    if n > 2:
        return None

    def missed(u: np.ndarray) -> float:
        values = {k.path: k.low + float(s) * (k.high - k.low) for k, s in zip(case.unknowns, u, strict=True)}
        reports = [evaluate_target(t, body, r) for t, body, r in problem.target_readings(values)]
        return sum((NEVER if t.miss is None else t.miss) ** 2 + 1e-12 for t in reports if not t.met)

    axis = np.linspace(0.0, 1.0, GRID[n])
    points = np.array(list(product(axis, repeat=n)))
    costs = np.array([missed(p) for p in points])
    if (costs == 0).any():
        return True
    step = axis[1]
    for _ in range(2):
        best = points[np.argsort(costs)[:AROUND]]
        near = np.linspace(-step, step, FINE[n])
        points = np.clip(np.concatenate([b + np.array(list(product(near, repeat=n))) for b in best]), 0.0, 1.0)
        costs = np.array([missed(p) for p in points])
        if (costs == 0).any():
            return True
        step = near[1] - near[0]
    return False


@dataclass(frozen=True)
class Answered:
    """What the search said, whether a look everywhere meets all, how long the search took [s] and its simulations."""

    name: str
    stopped: str
    met: bool
    anywhere: bool | None
    seconds: float
    simulations: int

    @property
    def false(self) -> bool:
        """Called not reachable where it is, or met where it is not."""
        return (self.stopped == "not reachable" and self.anywhere is True) or (self.stopped == "converged" and not self.met)


def answered(name: str) -> Answered:
    """Ask, and look everywhere."""
    case = asked(name)
    begun = time.perf_counter()
    found = solve(case, threads=1)
    took = time.perf_counter() - begun
    met = bool(found.found) and all(t.met for t in found.found[0].targets)
    return Answered(name, found.stopped, met, met_anywhere(case) or met, took, found.simulations)
