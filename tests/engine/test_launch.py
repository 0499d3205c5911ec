"""The spin of a natural roll, on every kind of support: what touches the support stands still."""

from __future__ import annotations

import numpy as np
import pytest

from yapa.case import Body, Box, Case, Cylinder, Hull, NaturalRoll, Plane, Sphere
from yapa.engine import simulate
from yapa.errors import Unsupported

TILT = 0.3
LEANS = (np.cos(TILT / 2), 0.0, np.sin(TILT / 2), 0.0)
UP = np.array([np.sin(TILT), 0.0, np.cos(TILT)])
ALONG = np.array([np.cos(TILT), 0.0, -np.sin(TILT)])
R = 0.04
WEDGE = Hull(kind="hull", points=tuple((x, y, z) for y in (-1.0, 1.0)
                                       for x, z in ((-1.0, np.tan(TILT)), (1.0, -np.tan(TILT)), (-1.0, -1.0), (1.0, -1.0))))
SUPPORTS = {
    "plane": Body(motion="static", shapes=(Plane(kind="plane", normal=tuple(UP)),)),
    "turned plane": Body(motion="static", shapes=(Plane(kind="plane"),), orientation=LEANS),
    "box": Body(motion="static", shapes=(Box(kind="box", size=(2.0, 2.0, 0.2)),), orientation=LEANS, position=tuple(-0.1 * UP)),
    "box on its side": Body(motion="static", orientation=LEANS, position=tuple(-0.1 * UP),
                            shapes=(Box(kind="box", size=(0.2, 2.0, 2.0), orientation=(0.5**0.5, 0, 0.5**0.5, 0)),)),
    "wedge": Body(motion="static", shapes=(WEDGE,)),
}


def rolling(support):
    orange = Body(shapes=(Sphere(kind="sphere", radius=R),), mass=0.2, position=tuple(R * UP), velocity=tuple(1.5 * ALONG),
                  angular_velocity=NaturalRoll(rolling_on="chute"))
    return Case(bodies={"orange": orange, "chute": support}, duration=0.05)


@pytest.mark.parametrize("name", SUPPORTS)
def test_what_touches_the_support_stands_still(name):
    motion = simulate(rolling(SUPPORTS[name]))
    start = motion.states[0, motion.names.index("orange")]
    velocity, spin = start[7:10], start[10:13]
    assert velocity + np.cross(spin, -R * UP) == pytest.approx(np.zeros(3), abs=1e-12)
    assert spin == pytest.approx((0.0, 1.5 / R, 0.0))


def test_what_has_no_face_is_refused_with_what_would_do():
    drum = Body(motion="static", shapes=(Cylinder(kind="cylinder", radius=0.3, length=1.0),))
    with pytest.raises(Unsupported, match="on chute, a cylinder; it needs a plane, a box or a hull"):
        simulate(rolling(drum))
