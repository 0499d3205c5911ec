"""Small scenes that many tests share."""

from __future__ import annotations

from math import cos, radians, sin
from typing import Any

import numpy as np

from yapa.case import Body, Box, Case, Direction, Fields, Plane, Precise, Sphere, Stepped, Surface

G = 9.80665
EDGE = 0.1
"""m: of a :func:`crate`"""


def surface(**values: float) -> dict[str, Surface]:
    """One surface, named both, so that the pair has exactly these values."""
    return {"both": Surface(**{"restitution": 0.0, "friction": 0.0, **values})}


def ball(radius: float = 0.05, **body: Any) -> Body:
    return Body(shapes=(Sphere(kind="sphere", radius=radius, surface="both"),), **body)


def floor(normal: tuple[float, float, float] = (0.0, 0.0, 1.0), **body: Any) -> Body:
    return Body(motion="static", shapes=(Plane(kind="plane", normal=normal, surface="both"),), **body)


def scene(bodies: dict[str, Body], duration: float = 2.0, rate: float = 240.0, gravity: float = G,
          restitution_threshold: float = 1e-3, profile: Precise | Stepped | None = None, **values: float) -> Case:
    return Case(surfaces=surface(**values), bodies=bodies, duration=duration, output_rate=rate,
                fields=Fields(gravity=gravity), profile=profile or Precise(restitution_threshold=restitution_threshold))


def slope(degrees: float) -> tuple[float, float, float]:
    """Normal of a plane that rises along +x."""
    a = radians(degrees)
    return (-sin(a), 0.0, cos(a))


def crate_on_slope(degrees: float, speed: float, duration: float, size: tuple[float, float, float] = (0.3, 0.2, 0.15),
                   **values: float) -> Case:
    a = radians(degrees)
    crate = Body(
        shapes=(Box(kind="box", size=size, surface="both"),), mass=2.0, position=(0.0, 0.0, 1.0),
        orientation=(cos(a / 2), 0.0, -sin(a / 2), 0.0), velocity=Direction(direction=(cos(a), 0.0, sin(a)), speed=speed),
    )
    return scene({"crate": crate, "chute": floor(slope(degrees), placed_under="crate")}, duration=duration, **values)


def pile(count: int, rng: np.random.Generator) -> Case:
    """Boxes and spheres above an open bin."""
    w = 0.25 if count <= 150 else 0.45
    per = int((2 * w - 0.1) / 0.11)
    bodies: dict[str, Body] = {}
    for k in range(count):
        layer, place = divmod(k, per * per)
        x, y = (place % per - (per - 1) / 2) * 0.11, (place // per - (per - 1) / 2) * 0.11
        shape = (Sphere(kind="sphere", radius=0.04, surface="both") if k % 2
                 else Box(kind="box", size=(0.08, 0.08, 0.08), surface="both"))
        bodies[f"p{k}"] = Body(shapes=(shape,), density=500.0, orientation=tuple(rng.normal(size=4).tolist()),
                               position=(x + rng.normal() * 0.004, y + rng.normal() * 0.004, 0.1 + 0.13 * layer))
    for name, size, at in (("l", (0.02, 2 * w, 4.0), (-w - 0.01, 0, 2.0)), ("r", (0.02, 2 * w, 4.0), (w + 0.01, 0, 2.0)),
                           ("u", (2 * w, 0.02, 4.0), (0, -w - 0.01, 2.0)), ("v", (2 * w, 0.02, 4.0), (0, w + 0.01, 2.0))):
        bodies[name] = Body(motion="static", shapes=(Box(kind="box", size=size, surface="both"),), position=at)
    return scene(bodies | {"f": floor()}, duration=2.0, friction=0.5, restitution=0.2)


def crate(x: float, y: float, z: float, density: float = 1000.0, **body: Any) -> Body:
    """A cube of ten centimetres."""
    return Body(shapes=(Box(kind="box", size=(EDGE, EDGE, EDGE), surface="both"),), density=density, position=(x, y, z), **body)
