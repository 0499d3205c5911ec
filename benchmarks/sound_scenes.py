"""Random sound scenes: 1 to 15 bodies of every shape on a floor; what findings call trouble there is false.

    python -m benchmarks.sound_scenes [scenes]

Bodies stand on a grid, so that none overlap, above a floor that holds them all; masses by density, sizes from 4 to 20 cm.
"""

from __future__ import annotations

import sys
from collections import Counter

import numpy as np

from benchmarks.scenes import floor, scene
from yapa.case import Body, Box, Capsule, Cylinder, Hull, Sphere
from yapa.case.model import Case
from yapa.engine import simulate
from yapa.findings import check


def shape(rng: np.random.Generator) -> tuple[object, float]:
    """A shape that stands upright, and half its height."""
    kind, a, b = rng.integers(5), rng.uniform(0.04, 0.1), rng.uniform(0.06, 0.2)
    if kind == 0:
        return Sphere(kind="sphere", radius=a, surface="both"), a
    if kind == 1:
        return Box(kind="box", size=(2 * a, 1.5 * a, b), surface="both"), b / 2
    if kind == 2:
        return Capsule(kind="capsule", radius=a, length=b, surface="both"), a + b / 2
    if kind == 3:
        return Cylinder(kind="cylinder", radius=a, length=b, surface="both"), b / 2
    corners = [(x * a, y * a, z * b / 2) for x in (-1.0, 1.0) for y in (-1.0, 1.0) for z in (-1.0, 1.0)]
    return Hull(kind="hull", points=tuple(corners), surface="both"), b / 2


def sound(seed: int) -> Case:
    """One scene."""
    rng = np.random.default_rng(seed)
    bodies: dict[str, Body] = {}
    for k in range(int(rng.integers(1, 16))):
        made, half = shape(rng)
        speed = tuple(rng.uniform(-0.4, 0.4, 2).tolist()) if rng.random() < 0.4 else (0.0, 0.0)
        bodies[f"body {k}"] = Body(shapes=(made,), density=float(rng.uniform(200, 1200)), velocity=(*speed, 0.0),
                                   position=(0.5 * (k % 4), 0.5 * (k // 4), half + float(rng.uniform(0.0, 0.3))))
    return scene(bodies | {"floor": floor()}, duration=2.0, friction=float(rng.uniform(0.3, 0.8)),
                 restitution=float(rng.uniform(0.0, 0.7)))


def main() -> None:
    """Print which troubles are told of sound scenes, and how many remarks a scene gets at most."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 300
    false: Counter[str] = Counter()
    most = scenes = 0
    for seed in range(count):
        case = sound(seed)
        found = check(case, simulate(case))
        troubles = {f.kind for f in found if f.severity == "trouble"}
        false.update(troubles)
        scenes += bool(troubles)
        most = max(most, len(found))
    print(f"{count} sound scenes: {scenes} with trouble {dict(false)}; at most {most} findings in one")


if __name__ == "__main__":
    main()
