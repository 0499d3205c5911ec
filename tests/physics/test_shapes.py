"""Capsules, cylinders, hulls and bodies of several shapes against closed forms."""

from __future__ import annotations

from math import cos, radians, sin

import numpy as np
import pytest
from benchmarks.scenes import G, floor, scene, slope

from yapa.case import Body, Box, Capsule, Cylinder, Hull, Sphere
from yapa.case.shapes.polytope import polytope_of_points
from yapa.engine import program_for, simulate
from yapa.engine.compile.mass_properties import combine_mass, principal_axes, solid_of

LYING = (cos(np.pi / 4), sin(np.pi / 4), 0.0, 0.0)  # the z axis of the shape turned onto -y
BOX_POINTS = tuple((x, y, z) for x in (-0.1, 0.1) for y in (-0.2, 0.2) for z in (-0.3, 0.3))


def roller(kind, r=0.05, **body):
    shape = {"sphere": Sphere(kind="sphere", radius=r, surface="both"),
             "capsule": Capsule(kind="capsule", radius=r, length=0.2, orientation=LYING, surface="both"),
             "cylinder": Cylinder(kind="cylinder", radius=r, length=0.2, orientation=LYING, surface="both")}[kind]
    return Body(shapes=(shape,), **body)


def share_of_inertia(kind, r=0.05):
    """I/(m r²) about the axis a shape rolls on."""
    shape = roller(kind, r).shapes[0]
    return solid_of(shape, False).inertia[1, 1] / r**2


def test_a_solid_cylinder_on_a_slope_accelerates_at_two_thirds():
    angle = radians(1.5)
    motion = simulate(scene({"c": roller("cylinder", position=(0, 0, 0)), "f": floor(slope(1.5), placed_under="c")}, duration=2.0,
                            friction=0.4))
    travelled = np.linalg.norm(motion.states[-1, 0, :3] - motion.states[0, 0, :3])
    assert share_of_inertia("cylinder") == pytest.approx(0.5, abs=1e-12)
    assert travelled == pytest.approx(0.5 * G * sin(angle) / 1.5 * 4.0, rel=1e-6)


@pytest.mark.parametrize("kind", ["sphere", "capsule", "cylinder"])
def test_what_rolls_down_a_slope_is_slowed_by_its_inertia(kind):
    angle = radians(10.0)
    motion = simulate(scene({"c": roller(kind), "f": floor(slope(10.0), placed_under="c")}, duration=1.0, friction=0.6))
    travelled = np.linalg.norm(motion.states[-1, 0, :3] - motion.states[0, 0, :3])
    assert travelled == pytest.approx(0.5 * G * sin(angle) / (1 + share_of_inertia(kind)), rel=1e-6)


@pytest.mark.parametrize("kind", ["capsule", "cylinder"])
def test_rolling_resistance_stops_a_roller_and_it_stays(kind):
    crr, v = 0.02, 0.6
    case = scene({"c": roller(kind, position=(0, 0, 0.05), velocity=(v, 0, 0), angular_velocity=(0, v / 0.05, 0)), "f": floor()},
                 duration=6.0, friction=0.5, rolling_resistance=crr)
    motion = simulate(case)
    slows = crr * G / (1 + share_of_inertia(kind))
    assert motion.states[-1, 0, 0] == pytest.approx(v * v / (2 * slows), abs=1e-6)
    assert np.abs(motion.states[-1, 0, 7:13]).max() < 1e-9


def test_a_standing_cylinder_stands_and_a_dropped_one_bounces_flat():
    body = Body(shapes=(Cylinder(kind="cylinder", radius=0.05, length=0.2, surface="both"),), position=(0, 0, 0.6))
    motion = simulate(scene({"c": body, "f": floor()}, duration=3.0, restitution=0.5, friction=0.4))
    top, _ = motion.trajectory("c").maximum_along(np.array([0, 0, 1.0]), motion.contacts[0].time, motion.contacts[1].time)
    assert top - 0.1 == pytest.approx(0.25 * 0.5, abs=1e-8)
    assert motion.states[-1, 0, 2] == pytest.approx(0.1, abs=1e-8)
    assert np.abs(motion.states[-1, 0, 7:13]).max() < 1e-6


def test_a_hull_of_eight_corners_is_the_box_of_the_same_corners():
    hull = Body(shapes=(Hull(kind="hull", points=BOX_POINTS, surface="both"),), mass=1.5, position=(0, 0, 0.5),
                orientation=(0.9, 0.2, 0.1, 0.3), velocity=(0.4, 0.0, 0.0))
    box = hull.model_copy(update={"shapes": (Box(kind="box", size=(0.2, 0.4, 0.6), surface="both"),)})
    runs = [simulate(scene({"b": body, "f": floor()}, duration=0.5, restitution=0.4, friction=0.3)) for body in (hull, box)]
    assert len(runs[0].contacts) == len(runs[1].contacts) > 0
    assert np.abs(runs[0].states[-1, 0, :7] - runs[1].states[-1, 0, :7]).max() < 1e-7


def test_a_body_of_two_spheres_is_a_dumbbell():
    r, d, m = 0.1, 0.3, 2.0
    shapes = tuple(Sphere(kind="sphere", radius=r, position=(x, 0.0, 0.0), surface="both") for x in (-d, d))
    motion = simulate(scene({"b": Body(shapes=shapes, mass=m)}, duration=0.1, gravity=0.0))
    along = 0.4 * m * r * r
    assert motion.bodies[0].inertia == pytest.approx((along, along + m * d * d, along + m * d * d), rel=1e-12)


def test_an_off_centre_shape_moves_the_centre_of_mass_and_keeps_the_balance():
    shapes = (Box(kind="box", size=(0.2, 0.2, 0.2), surface="both"),
              Box(kind="box", size=(0.2, 0.2, 0.2), position=(0.4, 0.0, 0.0), surface="both"))
    motion = simulate(scene({"b": Body(shapes=shapes, mass=1.0, position=(1.0, 0.0, 0.0))}, duration=1.0))
    assert motion.states[0, 0, 0] == pytest.approx(1.2)
    assert motion.states[-1, 0, 2] == pytest.approx(-0.5 * G, abs=1e-9)
    assert np.abs(motion.states[-1, 0, 10:13]).max() < 1e-12


def test_mass_comes_from_density_and_volume():
    body = Body(shapes=(Cylinder(kind="cylinder", radius=0.1, length=0.5),), density=800.0)
    motion = simulate(scene({"b": body}, duration=0.1))
    assert motion.bodies[0].mass == pytest.approx(800 * np.pi * 0.01 * 0.5, rel=1e-12)


@pytest.mark.parametrize("shell", [False, True])
def test_a_finely_cut_hull_weighs_like_the_cylinder_it_approaches(shell):
    n = 29
    ring = [(0.1 * cos(2 * np.pi * k / n), 0.1 * sin(2 * np.pi * k / n)) for k in range(n)]
    hull = Hull(kind="hull", points=tuple((x, y, z) for x, y in ring for z in (-0.2, 0.2)))
    a, b = solid_of(hull, shell), solid_of(Cylinder(kind="cylinder", radius=0.1, length=0.4), shell)
    assert a.measure == pytest.approx(b.measure, rel=0.01)
    assert np.diag(a.inertia) == pytest.approx(np.diag(b.inertia), rel=0.02)


def test_solid_capsule_inertia_agrees_with_a_count_of_points():
    r, h = 0.3, 0.8
    rng = np.random.default_rng(1)
    p = rng.uniform([-r, -r, -h / 2 - r], [r, r, h / 2 + r], size=(400_000, 3))
    beyond = np.maximum(np.abs(p[:, 2]) - h / 2, 0)
    p = p[p[:, 0] ** 2 + p[:, 1] ** 2 + beyond**2 < r * r]
    counted = [np.mean(p[:, 1] ** 2 + p[:, 2] ** 2), np.mean(p[:, 0] ** 2 + p[:, 1] ** 2)]
    got = solid_of(Capsule(kind="capsule", radius=r, length=h), False).inertia
    assert [got[0, 0], got[2, 2]] == pytest.approx(counted, rel=5e-3)


def test_parallel_axes_and_principal_axes_of_an_l_shape():
    parts = [Box(kind="box", size=(1.0, 0.2, 0.2)), Box(kind="box", size=(0.2, 0.2, 1.0), position=(0.4, 0.0, 0.6))]
    whole = combine_mass([solid_of(part, False) for part in parts])
    assert whole.centre == pytest.approx([0.2, 0.0, 0.3])
    moments, axes = principal_axes(whole.inertia)
    assert axes @ np.diag(moments) @ axes.T == pytest.approx(whole.inertia, abs=1e-12)
    assert np.linalg.det(axes) == pytest.approx(1.0)


def test_faces_of_a_cube_are_six_with_four_corners_each():
    body = polytope_of_points(BOX_POINTS)
    assert sorted(len(loop) for loop in body.loops) == [4] * 6
    assert len(body.directions) == 3
    for loop, plane in zip(body.loops, body.planes, strict=True):
        a, b, c = body.vertices[list(loop[:3])]
        assert np.cross(b - a, c - b) @ plane[:3] > 0  # seen from outside
        assert plane[:3] @ a == pytest.approx(plane[3])


def test_a_capsule_lands_on_a_box_with_both_ends():
    body = Body(shapes=(Capsule(kind="capsule", radius=0.05, length=0.3, orientation=LYING, surface="both"),), position=(0, 0, 0.5))
    table = Body(motion="static", shapes=(Box(kind="box", size=(1.0, 1.0, 0.2), surface="both"),))
    motion = simulate(scene({"c": body, "t": table}, duration=2.0, friction=0.5))
    assert motion.contacts[0].time == pytest.approx(np.sqrt(2 * 0.35 / G), abs=1e-9)
    assert motion.states[-1, 0, 2] == pytest.approx(0.15, abs=2e-5)
    assert np.abs(motion.states[-1, 0, 7:13]).max() < 1e-6


@pytest.mark.parametrize("kind", ["box", "hull", "cylinder"])
def test_a_sphere_hits_every_solid_on_its_own_surface(kind):
    shape = {"box": Box(kind="box", size=(0.2, 0.4, 0.6), surface="both"),
             "hull": Hull(kind="hull", points=BOX_POINTS, surface="both"),
             "cylinder": Cylinder(kind="cylinder", radius=0.1, length=0.6, surface="both")}[kind]
    target = Body(motion="static", shapes=(shape,))
    ball = Body(shapes=(Sphere(kind="sphere", radius=0.05, surface="both"),), position=(1.15, 0.02, 0.1), velocity=(-2.0, 0, 0))
    hit = simulate(scene({"b": ball, "t": target}, duration=1.0, gravity=0.0, restitution=0.5)).contacts[0]
    reach = np.sqrt(0.15**2 - 0.02**2) if kind == "cylinder" else 0.15
    assert hit.time == pytest.approx((1.15 - reach) / 2.0, abs=1e-12)
    assert hit.body == "b"


def test_a_sphere_meets_a_corner_of_a_hull_along_the_line_to_it():
    target = Body(motion="static", shapes=(Hull(kind="hull", points=BOX_POINTS, surface="both"),))
    d = np.array([1.0, 1.0, 1.0]) / np.sqrt(3)
    start = np.array([0.1, 0.2, 0.3]) + d * 1.05
    ball = Body(shapes=(Sphere(kind="sphere", radius=0.05, surface="both"),), position=tuple(start), velocity=tuple(-2 * d))
    hit = simulate(scene({"b": ball, "t": target}, duration=1.0, gravity=0.0, restitution=0.5)).contacts[0]
    assert hit.time == pytest.approx(0.5, abs=1e-9)
    assert np.abs(hit.normal - d).max() < 1e-9


def test_a_clearance_is_where_contact_begins():
    thick = Sphere(kind="sphere", radius=0.05, contact_margin=0.01, surface="both")
    motion = simulate(scene({"b": Body(shapes=(thick,), position=(0, 0, 1.0)), "f": floor()}, duration=2.0))
    assert motion.states[-1, 0, 2] == pytest.approx(0.06, abs=1e-9)


def test_the_values_of_a_size_reach_the_geometry():
    case = scene({"c": roller("cylinder", position=(0, 0, 0.3)), "f": floor()}, duration=2.0)
    wide = simulate(case, {"bodies.c.radius": 0.08})
    assert wide.states[-1, 0, 2] == pytest.approx(0.08, abs=1e-8)
    assert simulate(case).states[-1, 0, 2] == pytest.approx(0.05, abs=1e-8)  # the shared arrays are untouched
    assert len(program_for(case).geometry.shapes_of[0]) == 1


@pytest.mark.parametrize("tilt", [2e-4, 1e-3, 1e-2])
def test_a_can_set_down_askew_comes_to_stand_flat_and_makes_no_energy(tilt):
    """As it falls flat its lowest point changes sides at once; it may neither stay askew nor be lifted."""
    r, length = 0.0375, 0.08
    can = Body(shapes=(Cylinder(kind="cylinder", radius=r, length=length, surface="both"),), mass=0.4,
               position=(0.0, 0.0, length / 2 * cos(tilt) + r * sin(tilt)), orientation=(cos(tilt / 2), sin(tilt / 2), 0.0, 0.0))
    motion = simulate(scene({"can": can, "floor": floor()}, duration=0.6, rate=2000.0, friction=0.9, restitution=0.06,
                            rolling_resistance=0.02))
    _, x, y, _ = motion.states[-1, 0, 3:7]
    assert 2 * np.hypot(x, y) < 1e-6
    assert motion.states[-1, 0, 2] == pytest.approx(length / 2, abs=1e-7)
    assert np.abs(motion.states[-1, 0, 7:13]).max() < 1e-9
    total = motion.energy().total
    # what a rim sank within a substep it is lifted again: under 0.4 µm of its 40 mm, where 7.6 µm came back every 5 ms before
    assert (total - np.minimum.accumulate(total)).max() < 1e-5 * total[0]
