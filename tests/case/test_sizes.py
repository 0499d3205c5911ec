"""The size of a whole body as one number, and angles as people read them."""

from __future__ import annotations

from math import cos, radians, sin

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa.case import Body, Box, Capsule, Cylinder, Hull, Unknown
from yapa.case.body_size import overall_size
from yapa.case.changed_numbers import with_numbers
from yapa.case.parameters import numbers
from yapa.case.units import amount_text, as_shown
from yapa.engine import simulate
from yapa.errors import InputError
from yapa.fitting import fit
from yapa.formats.case_json import case_text
from yapa.formats.target_text import parse_target, target_text

HALF = radians(45) / 2
TURNED = (cos(HALF), 0.0, sin(HALF), 0.0)
"""45° about y"""
TETRAHEDRON = Hull(kind="hull", points=((0, 0, 0), (0.1, 0, 0), (0, 0.2, 0), (0, 0, 0.3)), surface="both")


@pytest.mark.parametrize(("shape", "size"), [
    (Box(kind="box", size=(0.2, 0.4, 0.1)), 0.4),
    (Box(kind="box", size=(0.2, 0.1, 0.2), orientation=TURNED), 0.2 * 2**0.5),
    (Capsule(kind="capsule", radius=0.05, length=0.3), 0.4),
    (Capsule(kind="capsule", radius=0.05, length=0.3, orientation=TURNED), 0.1 + 0.3 / 2**0.5),
    (Cylinder(kind="cylinder", radius=0.2, length=0.3), 0.4),
    (Cylinder(kind="cylinder", radius=0.1, length=0.3, orientation=TURNED), (0.2 + 0.3) / 2**0.5),
    (TETRAHEDRON, 0.3),
])
def test_the_size_of_a_body_is_its_longest_edge(shape, size):
    assert overall_size(Body(shapes=[shape])) == pytest.approx(size)


def two_parts():
    box = Box(kind="box", size=(0.2, 0.1, 0.1), position=(0.1, 0, 0.2), surface="both", orientation=TURNED)
    return scene({"block": Body(shapes=[TETRAHEDRON, box], density=500.0, position=(0, 0, 1.0)),
                  "orange": ball(0.05, position=(2, 0, 1.0), mass=0.2), "plate": floor()}, duration=1.0, restitution=0.3)


@pytest.mark.parametrize("values", [{"bodies.block.size": 0.8}, {"bodies.orange.size": 0.3},
                                    {"bodies.orange.size": 0.3, "bodies.orange.radius": 0.4}])
def test_a_body_is_scaled_the_same_in_a_run_and_in_an_edit(values):
    case = two_parts()
    edited = with_numbers(case, values)
    assert np.array_equal(simulate(case, values).states, simulate(edited).states)
    for path in values:
        if path.endswith("size"):
            assert edited[path] == pytest.approx(values[path])


def test_scaling_keeps_the_form_and_by_density_the_mass_follows():
    case = two_parts()
    twice = case.with_({"bodies.block.size": 2 * case["bodies.block.size"], "bodies.orange.size": 0.2})
    assert twice.bodies["block"].shapes[1].position == pytest.approx((0.2, 0, 0.4))
    assert twice.bodies["block"].shapes[0].points[3] == pytest.approx((0, 0, 0.6))
    before, after = (simulate(c, times=np.array([0.0, 0.1])).body for c in (case, twice))
    assert after("block").mass == pytest.approx(8 * before("block").mass)
    assert (twice["bodies.orange.radius"], after("orange").mass) == (0.1, 0.2)


def test_it_is_not_listed_nor_written_and_a_plane_has_none():
    case = two_parts()
    assert not [path for path in numbers(case) if path.endswith(".size")]
    assert case_text(case.with_({"bodies.orange.size": 0.1})) == case_text(case)
    with pytest.raises(InputError, match=r"bodies\.plate\.size"):
        case["bodies.plate.size"]
    with pytest.raises(InputError, match="a number from"):
        case.with_({"bodies.orange.size": -1.0})


def test_a_fit_finds_a_size():
    crate = Body(shapes=[Box(kind="box", size=(0.1, 0.1, 0.2), surface="both")], position=(0, 0, 1.0), mass=1.0)
    case = scene({"crate": crate, "plate": floor()}, duration=1.0, restitution=0.2)
    wanted = case.with_(targets=[parse_target("crate contact time 1 = 0.41 ± 0.001 s")],
                        unknowns=[Unknown(path="bodies.crate.size", low=0.1, high=0.9)])
    found = fit(wanted).values["bodies.crate.size"]
    assert found == pytest.approx(2 * (1.0 - 0.5 * 9.80665 * 0.41**2), abs=0.005)


def test_angles_are_shown_in_degrees_and_kept_in_radians():
    assert as_shown(radians(12), "rad") == (pytest.approx(12.0), "°")
    assert (amount_text(radians(12), "rad"), amount_text(0.2, "m"), amount_text(3.0, "")) == ("12 °", "0.2 m", "3")
    target = parse_target("tilt = 12 ± 0.5 deg")
    assert target.wanted == "12 ± 0.5 °"
    assert parse_target(target_text(target)) == target
    assert parse_target("tilt within 3 to 5 deg").wanted == "within 3 to 5 °"
