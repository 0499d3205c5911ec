"""Stacks, piles, thin walls and long series of impacts."""

from __future__ import annotations

import numpy as np
import pytest
from benchmarks.scenes import EDGE, G, ball, crate, floor, pile, scene

from yapa.case import Body, Box, Sphere
from yapa.demo import DATA
from yapa.engine import program_for, simulate
from yapa.formats.case_file import load_case


def judged(case, until=10.0):
    """The motion, and how far anything moved after a time."""
    motion = simulate(case)
    assert motion.status == "complete"
    late = motion.states[motion.times >= until, :, :3]
    return motion, float(np.abs(late - late[:1]).max())


def overlaps(motion, count):
    z = np.concatenate([[-EDGE / 2], motion.states[-1, :count, 2]])
    return EDGE - np.diff(z)


def test_a_stack_of_ten_boxes_stands_for_a_minute():
    bodies = {f"c{k}": crate(0, 0, 0.05 + EDGE * k) for k in range(10)} | {"f": floor()}
    motion, creep = judged(scene(bodies, duration=60.0, rate=10.0, friction=0.5))
    energy = motion.energy().total
    assert overlaps(motion, 10).max() <= 1e-4
    assert creep <= 1e-9
    assert (energy - energy[0]).max() <= 1e-9


def test_a_stack_of_ten_spheres_in_a_trough_stands_for_a_minute():
    walls = {"l": floor((1, 0, 0), position=(-0.05, 0, 0)), "r": floor((-1, 0, 0), position=(0.05, 0, 0)),
             "u": floor((0, 1, 0), position=(0, -0.05, 0)), "v": floor((0, -1, 0), position=(0, 0.05, 0))}
    bodies = {f"s{k}": ball(0.05, mass=0.5, position=(0, 0, 0.05 + 0.1 * k)) for k in range(10)} | walls | {"f": floor()}
    motion, creep = judged(scene(bodies, duration=60.0, rate=10.0, friction=0.5))
    energy = motion.energy().total
    assert overlaps(motion, 10).max() <= 1e-4
    assert creep <= 1e-9
    assert (energy - energy[0]).max() <= 1e-9


def test_a_hundred_times_heavier_box_stands_on_a_light_one():
    bodies = {"light": crate(0, 0, 0.05), "heavy": crate(0, 0, 0.15, density=1e5), "f": floor()}
    motion, creep = judged(scene(bodies, duration=20.0, rate=10.0, friction=0.5))
    assert overlaps(motion, 2).max() <= 6e-4
    assert creep <= 1e-9


def test_a_pyramid_of_fifteen_stands():
    places = [(-0.22 + 0.11 * k + 0.055 * row, 0.05 + EDGE * row) for row in range(5) for k in range(5 - row)]
    bodies = {f"c{k}": crate(x, 0, z) for k, (x, z) in enumerate(places)} | {"f": floor()}
    motion, creep = judged(scene(bodies, duration=20.0, rate=10.0, friction=0.5))
    assert creep <= 1e-9
    assert np.abs(motion.states[-1, :15, :3] - motion.states[0, :15, :3]).max() <= 1e-4


def poured(count=40, seed=0):
    """Boxes and spheres poured into an open bin."""
    rng = np.random.default_rng(seed)
    w, h, t = 0.25, 3.0, 0.02
    wall = lambda size, at: Body(motion="static", shapes=(Box(kind="box", size=size, surface="both"),), position=at)  # noqa: E731
    bodies = {}
    for k in range(count):
        layer, place = divmod(k, 9)
        x, y = (place % 3 - 1) * 0.13 + rng.normal() * 0.004, (place // 3 - 1) * 0.13 + rng.normal() * 0.004
        shape = (Sphere(kind="sphere", radius=0.04, surface="both") if k % 2
                 else Box(kind="box", size=(0.08, 0.08, 0.08), surface="both"))
        bodies[f"p{k}"] = Body(shapes=(shape,), density=500.0, position=(x, y, 0.1 + 0.14 * layer),
                               orientation=tuple(rng.normal(size=4).tolist()))
    bodies |= {"l": wall((t, 2 * w, h), (-w - t / 2, 0, h / 2)), "r": wall((t, 2 * w, h), (w + t / 2, 0, h / 2)),
               "u": wall((2 * w + 2 * t, t, h), (0, -w - t / 2, h / 2)), "v": wall((2 * w + 2 * t, t, h), (0, w + t / 2, h / 2)),
               "f": floor()}
    return scene(bodies, duration=3.0, rate=60.0, friction=0.5, restitution=0.2), w


def test_what_is_poured_into_a_bin_stays_in_it_bit_for_bit():
    case, w = poured()
    motion = simulate(case)
    s = motion.states[:, :40]
    assert (np.abs(s[:, :, :2]) < w).all()
    assert (s[:, :, 2] > 0).all()
    assert motion.energy().total[-1] < motion.energy().total[0]
    assert motion.regime_switches >= 1
    assert motion.soft_steps > 0
    program = program_for(case)
    again = program.run(None, motion.times, case.duration)
    assert (program.as_filed(again.states) == motion.states).all()


def test_a_group_that_takes_too_much_is_handed_over():
    """Boxes and balls that come to rest against each other, slipping this way and that: a thousand substeps without a bound."""
    case = pile(10, np.random.default_rng(1))
    raw = program_for(case).run(None, np.array([0.0, case.duration]), case.duration)
    assert raw.regime_switches >= 1
    assert raw.steps <= 400


def test_three_crates_that_rock_against_each_other_stay_exact():
    bodies = {f"b{k}": Body(shapes=(Box(kind="box", size=(0.04, 0.1, 0.3), surface="both"),), density=500.0,
                            position=(0.12 * k, 0, 0.15), angular_velocity=(0, 0 if k else 1.5, 0)) for k in range(3)}
    motion = simulate(scene(bodies | {"f": floor()}, duration=3.0, friction=0.4, restitution=0.2))
    assert motion.regime_switches == 0
    energy = motion.energy().total
    assert energy[-1] < energy[0]
    assert np.diff(energy).max() <= 1e-8 * energy[0]


@pytest.mark.parametrize("kind", ["box", "sphere", "free box"])
@pytest.mark.parametrize(("ratio", "count"), [(1, 3), (100, 31), (10_000, 314), (1_000_000, 3141)])
def test_a_light_block_between_a_wall_and_a_heavy_one_hits_as_often_as_pi_says(kind, ratio, count):
    def block(x, mass, v):
        more = {} if kind == "free box" else {"locked_axes": ("y", "z", "rotation_x", "rotation_y", "rotation_z")}
        shape = Sphere(kind="sphere", radius=0.05, surface="both") if kind == "sphere" else (
            Box(kind="box", size=(0.1, 0.1, 0.1), surface="both"))
        return Body(shapes=(shape,), mass=mass, position=(x, 0, 0), velocity=(v, 0, 0), **more)

    bodies = {"light": block(0.5, 1.0, 0.0), "heavy": block(1.0, float(ratio), -1.0), "w": floor((1, 0, 0))}
    motion = simulate(scene(bodies, duration=4.0, rate=10.0, gravity=0.0, restitution=1.0))
    assert motion.status == "complete"
    assert len(motion.contacts) == count
    energy = motion.energy().total
    assert np.abs(energy / energy[0] - 1).max() < 1e-9


@pytest.mark.parametrize("kind", ["box", "sphere"])
def test_nothing_passes_a_thin_wall_and_nothing_hits_it_from_afar(kind):
    rng = np.random.default_rng(3)
    wall = Body(motion="static", shapes=(Box(kind="box", size=(0.005, 1.2, 1.2), surface="both"),))
    for _ in range(60):
        speed = 10 ** rng.uniform(np.log10(5), 2)
        shape = (Sphere(kind="sphere", radius=0.01, surface="both") if kind == "sphere"
                 else Box(kind="box", size=(0.02, 0.02, 0.02), surface="both"))
        shot = Body(shapes=(shape,), mass=0.01, position=(-0.5, *rng.uniform(-0.3, 0.3, 2).tolist()),
                    orientation=tuple(rng.normal(size=4).tolist()), angular_velocity=tuple((rng.normal(size=3) * 50).tolist()),
                    velocity=(speed, *(rng.normal(size=2) * 0.1 * speed).tolist()))
        motion = simulate(scene({"b": shot, "w": wall}, duration=1.2 / speed, gravity=0.0, restitution=float(rng.uniform(0, 0.9)),
                                friction=float(rng.uniform(0, 1)), rate=2000.0))
        assert motion.states[:, 0, 0].max() < 0
        assert len(motion.contacts) >= 1
        for c in motion.contacts:
            assert abs(c.point[0]) - 0.0025 == pytest.approx(0.0, abs=1e-3)


def test_nothing_that_flies_past_a_wall_with_a_millimetre_to_spare_touches_it():
    rng = np.random.default_rng(4)
    wall = Body(motion="static", shapes=(Box(kind="box", size=(0.005, 0.6, 0.6), surface="both"),))
    for _ in range(60):
        speed = 10 ** rng.uniform(np.log10(5), 2)
        box = Box(kind="box", size=(0.02, 0.02, 0.02), surface="both")
        shot = Body(shapes=(box,), mass=0.01, position=(-0.5, 0.3 + 0.01 * np.sqrt(3) + 0.001, 0), velocity=(speed, 0, 0),
                    orientation=tuple(rng.normal(size=4).tolist()), angular_velocity=tuple((rng.normal(size=3) * 50).tolist()))
        motion = simulate(scene({"b": shot, "w": wall}, duration=1.2 / speed, gravity=0.0, restitution=0.5, friction=0.5))
        assert not motion.contacts
        assert motion.states[-1, 0, 0] == pytest.approx(0.7, abs=1e-9)


def test_dominoes_of_crates_fall_one_after_the_other():
    tall = Box(kind="box", size=(0.04, 0.12, 0.2), surface="both")
    bodies = {f"d{k}": Body(shapes=(tall,), density=500.0, position=(0.1 * k, 0, 0.1)) for k in range(6)} | {"f": floor()}
    first = bodies["d0"].model_copy(update={"angular_velocity": (0.0, 3.0, 0.0), "velocity": (0.3, 0.0, 0.0)})
    motion = simulate(scene(bodies | {"d0": first}, duration=2.0, friction=0.5, restitution=0.1))
    turned = 2 * np.arccos(np.clip(np.abs(motion.states[-1, :6, 3]), 0, 1))
    assert (turned > 0.5).all()
    falls = [motion.times[np.argmax(2 * np.arccos(np.clip(np.abs(motion.states[:, k, 3]), 0, 1)) > 0.3)] for k in range(6)]
    assert (np.diff(falls) > 0).all()
    energy = motion.energy().total
    assert energy[-1] < energy[0]


def test_a_crate_slides_on_a_table_as_on_a_plane():
    box = Body(shapes=(Box(kind="box", size=(0.2, 0.2, 0.1), surface="both"),), mass=2.0, position=(-0.5, 0, 0.05),
               velocity=(1.5, 0, 0))
    table = Body(motion="static", shapes=(Box(kind="box", size=(3.0, 1.0, 0.2), surface="both"),), position=(0, 0, -0.1))
    motion = simulate(scene({"c": box, "t": table}, duration=2.0, friction=0.3))
    assert motion.states[-1, 0, 0] == pytest.approx(-0.5 + 1.5**2 / (2 * 0.3 * G), abs=1e-4)
    assert np.abs(motion.states[-1, 0, 7:13]).max() < 1e-6


def test_a_can_that_a_bar_pressed_into_the_board_goes_on_in_whole_substeps():
    """The crowd leaves its rim sunk; no substep of the flight after it can mend that, so none is cut for it."""
    case = load_case(DATA / "sweeper-bar.yapa")[0]
    bar = case.bodies["bar"]
    turned = bar.model_copy(update={"shapes": (bar.shapes[0].model_copy(update={"orientation": (1.0, 3.0, 0.0, 0.0)}),)})
    motion = simulate(case.model_copy(update={"bodies": {**case.bodies, "bar": turned}}))
    assert motion.status == "complete"
    assert motion.regime_switches > 0
    assert motion.steps < 4000


def test_a_lone_crate_that_slides_for_long_is_never_handed_over():
    bodies = {"crate": crate(0, 0, 0.05, velocity=(3.0, 1.0, 0.0), angular_velocity=(0.0, 0.0, 2.0)), "f": floor()}
    motion = simulate(scene(bodies, duration=20.0, rate=10.0, friction=0.02))
    assert motion.regime_switches == 0
    assert motion.steps > 3000


@pytest.mark.parametrize("thick", [0.002, 0.0075, 0.0079, 0.0081, 0.02])
def test_thin_slabs_meet_in_a_crowd_as_thick_ones_do(thick):
    """Slabs lie on each other, sunk in by what soft contacts give and not a micrometre apart, however thin they are."""
    bodies = {f"slab {k}": Body(shapes=(Box(kind="box", size=(0.2, 0.2, thick), surface="both"),), density=700.0,
                                position=(0, 0, (thick + 1e-4) * (k + 0.5))) for k in range(8)}
    motion = simulate(scene({**bodies, "f": floor()}, duration=2.0, rate=60.0, friction=0.5))
    assert motion.soft_steps > 0
    height = motion.states[-1, :8, 2]
    gaps = np.diff(np.concatenate([[-thick / 2], height])) - thick
    assert gaps.max() < 1e-6
    assert gaps.min() > -2e-4


def test_dominoes_of_seven_millimetres_knock_each_other_over():
    bodies = {f"domino {k}": Body(shapes=(Box(kind="box", size=(0.0075, 0.024, 0.048), surface="both"),), density=700.0,
                                  position=(0.02 * k, 0, 0.024)) for k in range(8)}
    bodies["domino 0"] = bodies["domino 0"].model_copy(update={
        "orientation": (np.cos(0.15), 0.0, np.sin(0.15), 0.0), "position": (-0.004, 0, 0.0245)})
    motion = simulate(scene({**bodies, "f": floor()}, duration=1.5, friction=0.4))
    assert motion.status == "complete"
    up = 1 - 2 * (motion.states[-1, :8, 4] ** 2 + motion.states[-1, :8, 5] ** 2)
    assert (up < 0.6).all()


@pytest.mark.parametrize("angle", [5.0, 15.0, 30.0])
def test_a_ball_stays_exact_from_a_box_ramp_onto_a_box_table_and_rolls_less_far_the_more_it_is_resisted(angle):
    a, length, thick, r = np.radians(angle), 0.4, 0.02, 0.02
    normal = np.array([np.sin(a), 0, np.cos(a)])
    middle = np.array([-length / 2 * np.cos(a), 0, length / 2 * np.sin(a)])
    ends = []
    for resistance in (0.0, 1e-4, 0.002, 0.004, 0.005):
        bodies = {
            "ball": ball(r, mass=0.05, position=tuple((1.6 * middle + r * normal).tolist())),
            "ramp": Body(motion="static", shapes=(Box(kind="box", size=(length, 0.2, thick), surface="both"),),
                         position=tuple((middle - 0.5 * thick * normal).tolist()),
                         orientation=(np.cos(a / 2), 0.0, np.sin(a / 2), 0.0)),
            "table": Body(motion="static", position=(2, 0, -0.02),
                          shapes=(Box(kind="box", size=(4.0, 0.4, 0.04), surface="both"),))}
        motion = simulate(scene(bodies, duration=1.5, friction=0.5, rolling_resistance=resistance))
        assert motion.regime_switches == 0
        first = motion.contacts[0]
        assert first.partner == "table"
        # down the ramp by rolling, 7/10 m v² = m g h, up to where it meets the table: r tan(angle/2) before its end
        way = 0.8 * length - r * np.tan(a / 2)
        if resistance == 0.0:
            assert first.approach == pytest.approx(np.sin(a) * np.sqrt(10 / 7 * G * way * np.sin(a)), rel=1e-6)
        ends.append(motion.states[-1, 0, 0])
    slopes = np.diff(ends) / np.diff([0.0, 1e-4, 0.002, 0.004, 0.005])
    assert (slopes < 0).all()
    assert np.ptp(slopes) < 0.05 * abs(slopes.mean())
