"""Every number of every kind of body: read, written, listed with its unit, and kept by the file."""

from __future__ import annotations

import pytest

from yapa.case import (
    Body,
    Box,
    Capsule,
    Case,
    Cylinder,
    Hull,
    Keyframe,
    Pair,
    Plane,
    Sphere,
    Surface,
    get_number,
    label_of,
    numbers,
    quantity_of,
    with_numbers,
)
from yapa.case.parameters import combine
from yapa.engine import simulate
from yapa.errors import InputError
from yapa.formats.case_json import case_text, parse_case

TETRA = ((0.0, 0.0, 0.0), (0.1, 0.0, 0.0), (0.0, 0.1, 0.0), (0.0, 0.0, 0.1))


def everything() -> Case:
    return Case(
        title="every kind", surfaces={"wood": Surface(spinning_resistance=0.01), "felt": Surface(restitution_falloff=0.2)},
        pairs=(Pair(surfaces=("wood", "felt"), spinning_resistance=0.02),),
        bodies={
            "ball": Body(shapes=(Sphere(kind="sphere", radius=0.05, surface="wood"),), position=(0.0, 0.0, 1.0)),
            "tin": Body(shapes=(Cylinder(kind="cylinder", radius=0.04, length=0.1),), density=900.0, position=(1.0, 0.0, 1.0)),
            "bean": Body(shapes=(Capsule(kind="capsule", radius=0.01, length=0.03),), position=(2.0, 0.0, 1.0),
                         locked_axes=("y", "rotation_x")),
            "chip": Body(shapes=(Hull(kind="hull", points=TETRA),), position=(3.0, 0.0, 1.0)),
            "lshape": Body(shapes=(Box(kind="box", size=(0.1, 0.1, 0.3)),
                                   Box(kind="box", size=(0.1, 0.1, 0.1), position=(0.1, 0.0, 0.1))),
                           position=(4.0, 0.0, 1.0), inertia=(0.01, 0.02, 0.03)),
            "arm": Body(motion="kinematic", shapes=(Box(kind="box", size=(0.1, 0.1, 0.1)),), max_force=10.0, mass=2.0,
                        keyframes=(Keyframe(time=0.0, position=(5.0, 0.0, 1.0)), Keyframe(time=1.0, position=(6.0, 0.0, 1.0)))),
            "sheet": Body(motion="static", shapes=(Plane(kind="plane", side="two_sided", surface="felt"),)),
        })


def test_the_file_gives_back_every_kind_of_body():
    case = everything()
    assert parse_case(case_text(case), "the case") == case


def test_every_number_has_a_unit_a_range_and_a_label():
    for path, value in numbers(everything()).items():
        q = quantity_of(path)
        assert q.low < q.high
        assert q.meaning
        assert label_of(path)
        assert isinstance(value, float)


@pytest.mark.parametrize(("path", "value"), [
    ("bodies.tin.radius", 0.05), ("bodies.tin.length", 0.2), ("bodies.tin.density", 500.0), ("bodies.bean.length", 0.05),
    ("surfaces.wood.spinning_resistance", 0.05), ("pairs.wood+felt.spinning_resistance", 0.0), ("bodies.arm.mass", 3.0),
    ("bodies.lshape.size.z", 0.4), ("bodies.ball.velocity.y", -1.5), ("air.density", 1.0), ("gravity", 1.62),
])
def test_a_number_that_is_set_is_read_back_and_nothing_else_changes(path, value):
    case = everything()
    after = with_numbers(case, {path: value})
    assert get_number(after, path) == value
    before, now = numbers(case), numbers(after)
    assert {p for p in before if before[p] != now[p]} == {path}


def test_a_body_of_given_density_has_no_mass_of_its_own_to_set():
    have = numbers(everything())
    assert "bodies.tin.mass" not in have
    assert "bodies.tin.density" in have
    assert "bodies.sheet.mass" not in have
    assert "bodies.arm.position.x" not in have  # its path says where it is
    assert quantity_of("air.density").label == "air density"
    assert quantity_of("bodies.tin.density").label == "density"


def test_a_misspelt_path_is_answered_with_its_neighbours():
    with pytest.raises(InputError, match=r"bodies\.tin\.radius"):
        get_number(everything(), "bodies.tin.radios")


@pytest.mark.parametrize(("rule", "value"), [
    ("mean", 0.5), ("geometric mean", 0.4), ("product", 0.16), ("smaller", 0.2), ("larger", 0.8)])
def test_two_surfaces_make_one_value_by_the_rule(rule, value):
    assert combine(rule, 0.2, 0.8) == pytest.approx(value)
    assert combine(rule, 0.8, 0.2) == pytest.approx(value)


def test_every_kind_of_body_runs_together_and_falls_as_it_should():
    motion = simulate(everything())
    assert motion.status == "complete"
    assert set(motion.dynamic_bodies()) == {"ball", "tin", "bean", "chip", "lshape"}
    bean = motion.states[:, motion.names.index("bean")]
    assert (bean[:, 1] == 0.0).all()
    assert (bean[:, 10] == 0.0).all()
    k = 48  # 0.2 s: all still in the air
    for name in ("ball", "tin", "chip"):
        i = motion.names.index(name)
        assert motion.states[0, i, 2] - motion.states[k, i, 2] == pytest.approx(0.5 * 9.80665 * 0.04, abs=1e-9)
    assert motion.body("lshape").inertia == (0.01, 0.02, 0.03)
    assert motion.body("arm").is_kinematic
