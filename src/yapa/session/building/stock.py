"""The stock: real things that can be put into a scene, one line each, with the density of what they are made of [kg/m³].

Every thing is made upright at the origin of the axes, its surface the default one; ``placing`` stands it on a face.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from math import cos, radians, sin

from yapa.case import Body, Box, Capsule, Cylinder, Hull, Keyframe, Sphere
from yapa.case.scene import Shape
from yapa.case.things import floor, lane, open_bin, wall

SLOPE = radians(20) / 2
WEDGE = tuple((x, y, z) for x, z in ((-0.15, -0.05), (0.15, -0.05), (0.15, 0.05)) for y in (-0.1, 0.1))
HEXAGON = ((1.0, 0.0), (0.5, 0.87), (-0.5, 0.87), (-1.0, 0.0), (-0.5, -0.87), (0.5, -0.87))
CUT_LEMON = tuple((0.05 * k * x, 0.04 * k * y, z) for z, k in ((0.0, 1.0), (0.03, 0.7)) for x, y in HEXAGON)


@dataclass(frozen=True)
class Thing:
    """One thing of the stock.

    Attributes
    ----------
    name : as it stands on its tile; its first body in a scene is called so
    meaning : what it does to the motion, in a sentence
    sketch : kind of the shape that its tile shows
    make : makes the body, upright at the origin
    """

    name: str
    meaning: str
    sketch: str
    make: Callable[[], Body]


def _moving(density: float, *shapes: Shape) -> Callable[[], Body]:
    return lambda: Body(density=density, shapes=shapes)


def _slope() -> Body:
    board = Box(kind="box", size=(1.5, 0.6, 0.03))
    return Body(motion="static", shapes=(board,), orientation=(cos(SLOPE), 0.0, sin(SLOPE), 0.0))


def _closed_box() -> Body:
    inside, t = 1.0, 0.02
    whole = inside + 2 * t
    planks = [Box(kind="box", size=tuple(t if c == axis else whole for c in range(3)),
                  position=tuple(side * (inside + t) / 2 if c == axis else 0.0 for c in range(3)))
              for axis in range(3) for side in (-1, 1)]
    return Body(motion="static", shapes=tuple(planks))


def _driven_bar() -> Body:
    keys = (Keyframe(time=0.0, position=(0.0, 0.0, 0.0)), Keyframe(time=1.0, position=(0.5, 0.0, 0.0)))
    return Body(motion="kinematic", shapes=(Box(kind="box", size=(0.05, 0.5, 0.08)),), keyframes=keys)


STOCK: tuple[Thing, ...] = (
    Thing("ball", "Rolls and bounces", "sphere", _moving(950.0, Sphere(kind="sphere", radius=0.05))),
    Thing("crate", "Slides, tips and stacks", "box", _moving(300.0, Box(kind="box", size=(0.3, 0.2, 0.2)))),
    Thing("can", "Rolls on its side, stands on its end", "cylinder",
          _moving(1000.0, Cylinder(kind="cylinder", radius=0.04, length=0.12))),
    Thing("capsule", "A long fruit: rolls one way, slides the other", "capsule",
          _moving(950.0, Capsule(kind="capsule", radius=0.03, length=0.06))),
    Thing("plank", "Lies across, bridges, tilts", "box", _moving(600.0, Box(kind="box", size=(0.8, 0.12, 0.02)))),
    Thing("wedge", "A ramp that can move", "hull", _moving(700.0, Hull(kind="hull", points=WEDGE))),
    Thing("hull", "A cut lemon: lies flat or rocks on its rind", "hull", _moving(950.0, Hull(kind="hull", points=CUT_LEMON))),
    Thing("floor", "An endless level ground, fixed", "plane", floor),
    Thing("slope", "A board that falls by 20°, fixed", "box", _slope),
    Thing("wall", "Stops what comes against it, fixed", "box", lambda: wall((0.04, 1.0, 0.8))),
    Thing("open bin", "A bottom and four planks, fixed: keeps what falls in", "box", lambda: open_bin((0.5, 0.4, 0.3))),
    Thing("lane", "A board with a rail on either side, fixed", "box", lambda: lane(2.0, 0.3)),
    Thing("closed box", "Six planks, fixed: nothing leaves it", "box", _closed_box),
    Thing("driven bar", "Follows its path and pushes what is in its way", "box", _driven_bar),
)
"""Everything there is, in the order of the tiles."""


def thing_named(name: str) -> Thing:
    """Return a thing of the stock.

    Parameters
    ----------
    name : as it stands on its tile
    """
    return next(thing for thing in STOCK if thing.name == name)


def is_endless(body: Body) -> bool:
    """Return whether a body has no size of its own, as a floor.

    Parameters
    ----------
    body : the body
    """
    return any(shape.is_endless for shape in body.shapes)
