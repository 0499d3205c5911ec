"""How kinds of shape meet: the tables that kernels read say what both registries say, and every pair tells its gap."""

from __future__ import annotations

from itertools import product

import numpy as np
import pytest

from yapa.case import Body, Case
from yapa.case.shapes.registry import KINDS
from yapa.engine.compile.meetings import check_meetings
from yapa.engine.kernels import layout as L
from yapa.engine.kernels.geometry.pairs import meetings, traits
from yapa.engine.kernels.geometry.pairs.registry import MANIFOLD, PAIRS, PLANE, ROUND, VERTICES
from yapa.engine.runner import Program
from yapa.errors import Unsupported

NAMES = [kind.name for kind in KINDS]
SIZES = {"sphere": {"radius": 0.1}, "box": {"size": (0.2, 0.2, 0.2)}, "plane": {}, "capsule": {"radius": 0.1, "length": 0.1},
         "cylinder": {"radius": 0.1, "length": 0.2},
         "hull": {"points": [(x, y, z) for x in (-0.1, 0.1) for y in (-0.1, 0.1) for z in (-0.1, 0.1)]}}


def shape(name):
    return KINDS[NAMES.index(name)](kind=name, **SIZES[name])


def apart(a, b, gap):
    """Two things one above the other, so far apart."""
    below = {"motion": "static"} if b == "plane" else {"position": (0, 0, -0.1 - (0.05 if b == "capsule" else 0.0))}
    above = (0, 0, gap + 0.1 + (0.05 if a == "capsule" else 0.0))
    return Case(bodies={"one": Body(shapes=(shape(a),), position=above), "two": Body(shapes=(shape(b),), **below)}, duration=0.1)


def test_all_kinds_meet_but_planes():
    alone = {(a, b) for a, b in product(range(len(NAMES)), repeat=2) if not meetings.meets(a, b)}
    assert alone == {(NAMES.index("plane"),) * 2}
    served = [(a, b) for pair in PAIRS for a, b, _ in pair.serves]
    assert len(served) == len(set(served))  # no two modules for one pair


@pytest.mark.parametrize(("a", "b"), [(a, b) for a, b in product(NAMES, NAMES) if a != "plane"])
def test_a_gap_is_what_it_is_and_the_normal_points_to_a(a, b):
    program = Program(apart(a, b, 0.02))
    ((_, _, gap),) = program.start_gaps()
    assert gap == pytest.approx(0.02, abs=1e-9)


def test_which_is_a_follows_the_registry_and_what_moves_stands_first():
    n = len(NAMES)
    for i, j in product(range(n), range(n)):
        order = meetings.ORDER[i * n + j]
        back = meetings.ORDER[j * n + i]
        assert {order, back} in ({meetings.WHAT_MOVES_FIRST}, {meetings.AS_IT_IS, meetings.SWAPPED}, {meetings.NEVER})
    sphere, box, capsule = (NAMES.index(name) for name in ("sphere", "box", "capsule"))
    assert meetings.ORDER[sphere * n + box] == meetings.AS_IT_IS
    assert meetings.ORDER[box * n + capsule] == meetings.SWAPPED
    assert meetings.FEATURES[box * n + NAMES.index("plane")] == VERTICES
    flat = ("box", "hull")
    assert all(meetings.ORDER[NAMES.index(a) * n + NAMES.index(b)] == meetings.WHAT_MOVES_FIRST for a, b in product(flat, flat))


def test_a_trait_is_a_bit_for_every_pair():
    for number, pair in enumerate(PAIRS):
        assert traits.against_plane(number) == (PLANE in pair.traits)
        assert traits.is_round(number) == (ROUND in pair.traits)
        assert traits.round_on_plane(number) == (PLANE in pair.traits and ROUND in pair.traits)
        assert traits.has_manifold(number) == (MANIFOLD in pair.traits)


def test_what_has_no_contact_with_what_it_may_come_to_is_told(monkeypatch):
    program = Program(apart("sphere", "box", 0.02))
    check_meetings(program.names, program.geometry.GI, program.props)
    monkeypatch.setattr("yapa.engine.compile.meetings.meets", lambda a, b: {a, b} != {NAMES.index("sphere"), NAMES.index("box")})
    with pytest.raises(Unsupported, match=r"bodies.one and bodies.two: a sphere and a box have no contact"):
        check_meetings(program.names, program.geometry.GI, program.props)
    props = program.props.copy()
    props[:, L.body.MEETS] = 0.0
    check_meetings(program.names, program.geometry.GI, props)  # their groups pass through each other
    props = program.props.copy()
    props[:, L.body.INV_MASS] = 0.0
    check_meetings(program.names, program.geometry.GI, props)
    assert np.isfinite(program.props).all()
