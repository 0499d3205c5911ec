"""Many runs of one case: the same bits at any number of threads, nothing copied, nothing kept that nobody wants."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest
from benchmarks.scenes import G, ball, floor, scene

from yapa.case import Body, Box, Sphere
from yapa.engine import program_for, simulate, simulate_many
from yapa.engine.kernels.layout import run_code
from yapa.engine.runner import Program
from yapa.errors import InputError
from yapa.outcomes import measure

E_PATH, V_PATH = "surfaces.both.restitution", "bodies.b.velocity.x"


def throw():
    b = ball(0.04, mass=0.15, position=(0, 0, 0.9), velocity=(1.8, 0, 1.0), angular_velocity=(0, -60.0, 0))
    return scene({"b": b, "f": floor()}, duration=1.2, restitution=0.65, friction=0.2)


GRID = np.array([(e, v) for e in (0.4, 0.5, 0.6, 0.7) for v in (1.0, 1.5, 2.0)])


def test_every_row_is_what_a_single_run_gives():
    case = throw()
    many = simulate_many(case, [E_PATH, V_PATH], GRID)
    for motion, (e, v) in zip(many, GRID, strict=True):
        alone = simulate(case, {E_PATH: e, V_PATH: v})
        assert (motion.states == alone.states).all()
        assert [c.time for c in motion.contacts] == [c.time for c in alone.contacts]


def test_threads_change_nothing():
    case = throw()

    def apex(motion):
        return measure(motion, "b")["apex 1"].value

    one = simulate_many(case, [E_PATH, V_PATH], GRID, apex, threads=1)
    two = simulate_many(case, [E_PATH, V_PATH], GRID, apex, threads=2)
    with ThreadPoolExecutor(3) as pool:
        own = simulate_many(case, [E_PATH, V_PATH], GRID, apex, executor=pool)
    assert one == two == own
    assert one[0] != one[-1]


def test_a_block_gives_what_single_runs_give_and_leaves_nothing_behind():
    """Values of every kind in one compiled call: each run starts from the case's own numbers."""
    program, times = Program(throw()), np.linspace(0, 1.2, 50)
    rows = [{E_PATH: 0.3}, {V_PATH: 2.5}, {}, {"bodies.b.radius": 0.06}, {"bodies.b.mass": 0.4}, {"gravity": 3.7},
            {"surfaces.both.friction": 0.6}, {"bodies.b.drag_coefficient": 0.4, E_PATH: 0.8}, {}]
    for _ in range(2):
        states = [(raw.states.copy(), raw.contacts, raw.gravity) for raw in program.run_block(rows, times, 1.2)]
        for values, (found, contacts, gravity) in zip(rows, states, strict=True):
            alone = Program(throw()).run(values, times, 1.2, keep=False)
            assert np.array_equal(found[:, 0, :3], alone.states[:, 0, :3])
            assert np.array_equal(found[:, 0, 7:], alone.states[:, 0, 7:])
            assert np.array_equal(contacts, alone.contacts)
            assert gravity == alone.gravity


def test_a_log_that_fills_up_within_a_block_is_made_longer():
    b = ball(0.04, position=(0, 0, 0.05))
    case = scene({"b": b, "f": floor()}, duration=3.0, restitution=0.995, restitution_threshold=1e-5)
    program, times = Program(case), np.array([0.0, 3.0])
    program.workspace().grow_logs(4)
    for raw in program.run_block([{}, {E_PATH: 0.99}], times, 3.0):
        assert raw.code == 0
    for space in program._block(2)[0]:
        space.grow_logs(4)
    lengths = [len(raw.contacts) for raw in program.run_block([{}, {E_PATH: 0.99}], times, 3.0)]
    assert lengths == [len(Program(case).run(v, times, 3.0).contacts) for v in ({}, {E_PATH: 0.99})]
    assert min(lengths) > 4


def test_a_stopped_block_says_so():
    program, flag = Program(throw()), np.ones(1, np.int64)
    assert [raw.code for raw in program.run_block([{}, {}], np.linspace(0, 1.2, 9), 1.2, flag)] == [run_code.CANCELLED] * 2


def test_the_program_is_compiled_once_and_left_as_it_was():
    case = throw()
    program = program_for(case)
    before = program.state.copy(), program.props.copy(), program.materials.rows.copy(), program.geometry.GF.copy()
    simulate_many(case, [E_PATH, "bodies.b.radius", "bodies.b.mass"], np.array([[0.3, 0.06, 2.0], [0.9, 0.02, 0.1]]))
    assert program_for(case) is program
    after = program.state, program.props, program.materials.rows, program.geometry.GF
    assert all((a == b).all() for a, b in zip(before, after, strict=True))


def test_what_does_not_fit_is_refused():
    with pytest.raises(InputError, match="columns"):
        simulate_many(throw(), [E_PATH], GRID)
    with pytest.raises(InputError, match=r"bodies\.c"):
        simulate_many(throw(), ["bodies.c.mass"], np.ones((2, 1)))


def test_a_batch_can_be_cancelled():
    flag = np.ones(1, np.int64)
    motions = simulate_many(throw(), [E_PATH], np.full((3, 1), 0.5), cancel=flag)
    assert all(m.status.startswith("cancelled") for m in motions)


def test_the_energy_book_of_a_bounce_is_kinetic_plus_height():
    case = scene({"b": ball(0.05, mass=2.0, position=(0, 0, 1.05), angular_velocity=(0, 3.0, 0)), "f": floor()}, duration=1.0,
                 restitution=0.5)
    motion = simulate(case)
    book = motion.energy()
    assert book.names == ("b",)
    assert book.total[0] == pytest.approx(2.0 * G * 1.05 + 0.5 * 0.4 * 2.0 * 0.0025 * 9.0, rel=1e-12)
    hit = np.searchsorted(motion.times, motion.contacts[0].time)
    assert np.abs(book.total[:hit] - book.total[0]).max() < 1e-12
    lost = 0.5 * 2.0 * motion.contacts[0].approach ** 2 * (1 - 0.25)
    assert book.total[hit] == pytest.approx(book.total[0] - lost, rel=1e-9)


def test_the_energy_book_turns_with_a_body_of_oblique_axes():
    """An L turning freely: no form of energy changes while nothing acts."""
    shapes = (Box(kind="box", size=(1.0, 0.2, 0.2)), Sphere(kind="sphere", radius=0.2, position=(0.4, 0.3, 0.6)))
    motion = simulate(scene({"l": Body(shapes=shapes, mass=3.0, angular_velocity=(1.0, 2.0, -1.5))}, duration=4.0, gravity=0.0))
    book = motion.energy()
    assert np.abs(book.rotational / book.rotational[0] - 1).max() < 1e-6
    assert np.ptp(motion.states[:, 0, 10]) > 0.1  # it tumbles


def l_shape():
    shapes = (Box(kind="box", size=(1.0, 0.2, 0.2)), Sphere(kind="sphere", radius=0.2, position=(0.4, 0.3, 0.6)))
    return scene({"l": Body(shapes=shapes, mass=3.0, angular_velocity=(1.0, 2.0, -1.5))}, duration=0.5, gravity=0.0)


def test_a_size_that_turns_the_principal_axes_does_not_leak_into_other_runs():
    case = l_shape()
    before = simulate(case)
    wide = simulate(case, {"bodies.l.size.x": 2.0})
    after = simulate(case)
    assert (before.states == after.states).all()
    assert before.bodies == after.bodies
    assert wide.bodies[0].axes != before.bodies[0].axes
    assert wide.states[0, 0, 3:7] == pytest.approx([1, 0, 0, 0], abs=1e-12)  # its own axes, as the case gives them


def test_a_motion_shows_the_sizes_it_ran_with():
    motion = simulate(throw(), {"bodies.b.radius": 0.07})
    assert motion.bodies[0].shapes[0].size == (0.07,)
    assert simulate(throw()).bodies[0].shapes[0].size == (0.04,)
