"""Pulling: drags of several outcomes there and back, frame by frame."""

from __future__ import annotations

import numpy as np

from benchmarks.scenes import ball, floor, scene
from yapa.case import Target, Unknown, get_number
from yapa.fitting.targets.drag import Pull

E, MU, VX, VZ = "surfaces.both.restitution", "surfaces.both.friction", "bodies.b.velocity.x", "bodies.b.velocity.z"
PULLED = (("apex", 1), ("apex", 2), ("landing", 1), ("landing", 3), ("z at", None), ("x at", None))


def one(job: tuple[int, int]) -> dict:
    """A drag of sixty frames out and back to where it began."""
    kind, seed = job
    rng = np.random.default_rng([seed, kind])
    ranges = {E: (0.2, 0.95), MU: (0.0, 0.8), VX: (-4.0, 4.0), VZ: (-4.0, 4.0)}
    launch = (rng.uniform(0.5, 2.0), 0.0, rng.uniform(-1.0, 1.5))
    case = scene(
        {"b": ball(0.04, mass=0.2, position=(0, 0, 1.04), velocity=launch, drag_coefficient=0.4), "f": floor()},
        duration=2.5,
        restitution=rng.uniform(0.5, 0.85),
        friction=rng.uniform(0.05, 0.5),
    )
    free = [E, VX, VZ, MU][: int(rng.integers(1, 5))]
    name, index = PULLED[kind]
    if name in ("landing", "x at") and VX not in free:
        free.append(VX)
    if name == "z at" and VZ not in free:
        free.append(VZ)
    case = case.model_copy(update={"unknowns": tuple(Unknown(path=p, low=ranges[p][0], high=ranges[p][1]) for p in free)})
    target = Target(
        outcome=name.split()[0], index=index, time=0.3 if name == "z at" else 1.2 if name == "x at" else None, tolerance=0.005
    )
    pull = Pull(case, [target])
    start = pull.start[0]
    far = start + rng.choice([-1, 1]) * rng.uniform(0.05, 0.25) * max(abs(start), 0.2)
    there = start + (far - start) * 0.5 * (1 - np.cos(np.linspace(0, 2 * np.pi, 61)))
    frames = [pull.to(float(y)) for y in there[1:-1]]
    near = pull.to(start + 1e-6)
    reachable = [f for f in frames if not any(_at_wall(case, f.values, u) for u in case.unknowns)]
    return {
        "close": [abs(f.gap[0]) < 1e-3 for f in reachable],
        "spent": [f.simulations for f in frames],
        "drift": max(abs(near.values[u.path] - get_number(case, u.path)) / (u.high - u.low) for u in case.unknowns),
        "exact": pull.to(start).values == {u.path: get_number(case, u.path) for u in case.unknowns},
    }


def _at_wall(case, values, unknown) -> bool:
    return min(values[unknown.path] - unknown.low, unknown.high - values[unknown.path]) < 1e-6 * (unknown.high - unknown.low)
